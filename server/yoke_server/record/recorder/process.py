"""The recorder process: a thread per bench that is in use, begun anew when one died."""

import json
import logging
import threading
import time
from collections.abc import Sequence
from pathlib import Path

import psycopg
from django.conf import settings
from django.db import Error, connection

from yoke_server.bench.services import save_stand_ins
from yoke_server.bench.statements import BENCHES_IN_USE
from yoke_server.common.db.statement import run
from yoke_server.record.recorder.bench_thread import BenchThread
from yoke_server.record.recorder.model.clock import Clock, SystemClock
from yoke_server.record.recorder.stream.ring import MemoryBudget

log = logging.getLogger(__name__)

LOOK_UP = 1.0  # s; how soon a dead thread is noticed
LOOK_FOR_BENCHES = 2.0  # s; how soon a new bench is


class Recorder:
    """Serves the benches named, or all. ``stand_ins`` is where a rig says its ports."""

    def __init__(
        self,
        benches: Sequence[str] = (),
        stand_ins: Path | None = None,
        clock: Clock | None = None,
    ) -> None:
        self._benches = benches
        self._stand_ins = stand_ins
        self._placed: object = None  # the stand-ins' file as it was last read
        self._clock = clock or SystemClock(settings.CLOCK_SPEED)
        self._threads: dict[int, BenchThread] = {}
        self._budget = MemoryBudget()
        self._benches_due = 0.0
        self._ending = threading.Event()

    def stop(self) -> None:
        self._ending.set()

    def run(self) -> None:
        """Until `stop`. A database that is away for a while is waited for."""
        while not self._ending.is_set():
            try:
                self._follow_stand_ins()
                self._keep_threads()
            except (Error, psycopg.Error) as error:
                log.warning("Waiting for the database: %s", str(error).split("\n")[0])
                connection.close()
            self._ending.wait(LOOK_UP)
        for thread in self._threads.values():
            thread.ask_to_end()
        for thread in self._threads.values():
            thread.join()
        connection.close()

    def _follow_stand_ins(self) -> None:
        """A rig chooses its ports at each start: its devices are where it says."""
        try:
            text = self._stand_ins.read_text() if self._stand_ins else None
        except OSError:
            return
        if text and text != self._placed:
            save_stand_ins(json.loads(text))
            self._placed = text

    def _keep_threads(self) -> None:
        for bench_id in [i for i, t in self._threads.items() if not t.is_alive()]:
            del self._threads[bench_id]
            time.sleep(LOOK_UP)  # whatever killed it, give it time
            self._benches_due = 0.0
        if self._clock.monotonic() < self._benches_due:
            return
        ours = self._ours()
        for bench_id in self._threads.keys() - ours:
            self._threads[bench_id].ask_to_end()
        for bench_id in ours:
            if bench_id not in self._threads:
                thread = BenchThread(
                    bench_id, self._clock, settings.RECORDER_QUEUE_BYTES, self._budget
                )
                self._threads[bench_id] = thread
                thread.start()
        self._benches_due = self._clock.monotonic() + LOOK_FOR_BENCHES

    def _ours(self) -> set[int]:
        found = run(BENCHES_IN_USE)
        rows = [(found.get_value(i, 0), found.get_value(i, 1)) for i in range(found.ntuples)]
        named = [bench.encode() for bench in self._benches]
        return {int(key or 0) for key, name in rows if not named or name in named}
