"""The recorder process: a runner per bench, woken by the database's notifications."""

import json
import logging
import select
import threading
import time

import psycopg
from django.db import Error, connection

from yoke_server.bench.models import Bench
from yoke_server.config.notify import COMMAND, NEWS
from yoke_server.record.recorder.runner import BenchRunner, Wake

log = logging.getLogger(__name__)

LOOK_UP = 0.5  # s; how soon a stop or a dead runner is noticed


class Recorder:
    """Keeps the runners, and listens for orders and changes."""

    def __init__(self) -> None:
        self._runners: dict[int, BenchRunner] = {}
        self._ending = threading.Event()

    def stop(self) -> None:
        self._ending.set()

    def run(self) -> None:
        """Until `stop`. A database that is away for a while is waited for."""
        while not self._ending.is_set():
            try:
                self._listen()
            except (Error, psycopg.Error) as error:
                log.warning("Waiting for the database: %s", str(error).split("\n")[0])
                connection.close()
                time.sleep(0.5)
        for runner in self._runners.values():
            runner.finish()

    def _listen(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(f"LISTEN {COMMAND}")
            cursor.execute(f"LISTEN {NEWS}")
        self._keep_runners()
        while not self._ending.is_set():
            raw = connection.connection
            # The driver's own waiting looks up ten times a second; the socket wakes us too.
            select.select([raw.fileno()], [], [], LOOK_UP)
            for notice in raw.notifies(timeout=0):
                self._pass_on(notice.channel, json.loads(notice.payload))
            self._keep_runners()

    def _pass_on(self, channel: str, payload: dict[str, object]) -> None:
        runner = self._runners.get(int(str(payload.get("bench", 0))))
        if channel == COMMAND and runner:
            runner.inbox.put(Wake(setup_changed=False))
        elif payload.get("kind") == "setup" and runner:
            runner.inbox.put(Wake(setup_changed=True))

    def _keep_runners(self) -> None:
        """One runner a bench with an amplifier; one that died is begun anew."""
        dead = [i for i, r in self._runners.items() if not r.is_alive()]
        for bench_id in dead:
            del self._runners[bench_id]
        if self._runners and not dead:
            return
        for bench_id in Bench.objects.filter(amplifiers__isnull=False).values_list("pk", flat=True):
            if bench_id not in self._runners:
                self._runners[bench_id] = BenchRunner(bench_id)
                self._runners[bench_id].start()
