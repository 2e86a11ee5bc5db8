"""An emergency stop while two hundred heavy reads are asked for at once."""

import http.client
import json
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from urllib.parse import urlsplit

from django.core.management import call_command

from tests import processes
from tests.bench.lab import fresh_setup
from tests.bench.measure import Row, timed

READS = 200
STOPS = 15
MOST_RATIO = 3.0
TOKEN = "t" * 32

# In a process of its own: threads that ask again and again, until it is ended.
CROWD = """
import http.client, sys, threading
address, path, cookies, reads = sys.argv[1:]
def ask():
    link = http.client.HTTPConnection(address, timeout=60)
    while True:
        link.request("GET", path, headers={"Cookie": cookies})
        link.getresponse().read()
threads = [threading.Thread(target=ask, daemon=True) for _ in range(int(reads))]
for thread in threads:
    thread.start()
threading.Event().wait()
"""


def cookies_of(role: str) -> str:
    from django.test import Client
    from yoke_server.accounts.models import User

    client = Client()
    client.force_login(User.objects.get(username=role))
    return f"sessionid={client.cookies['sessionid'].value}; csrftoken={TOKEN}"


@contextmanager
def crowd(address: str, path: str) -> Iterator[None]:
    """Half of the reads by one person, half by another."""
    children = [
        subprocess.Popen(
            [sys.executable, "-c", CROWD, address, path, cookies_of(role), str(READS // 2)],
            stderr=subprocess.DEVNULL,
        )
        for role in ("technician", "reviewer")
    ]
    try:
        time.sleep(3)
        yield
    finally:
        for child in children:
            child.kill()
            child.wait()


def stop_seconds(address: str, bench: int, cookies: str) -> float:
    """The best of some emergency stops, each on a connection of its own."""

    def stop() -> None:
        link = http.client.HTTPConnection(address, timeout=60)
        headers = {"Cookie": cookies, "X-CSRFToken": TOKEN, "Content-Type": "application/json"}
        link.request("POST", f"/api/benches/{bench}/emergency-stop", json.dumps({}), headers)
        answer = link.getresponse()
        answer.read()
        link.close()
        assert answer.status == 204, answer.status

    times = []
    for _ in range(STOPS):
        times.append(timed(stop))
        time.sleep(0.2)
    return min(times)


def measure() -> list[Row]:
    from yoke_server.bench.services import place_stand_ins

    setup = fresh_setup()
    call_command("load_demo", verbosity=0)
    run = setup.runs.get()
    path = f"/api/runs/{run.pk}/derivations/{setup.recipes.get().pk}/arrays"
    with ExitStack() as stack:
        rig = stack.enter_context(processes.rig(1.0))
        place_stand_ins(rig.ports)
        stack.enter_context(processes.recorder("yoke_bench"))
        stack.enter_context(processes.worker("yoke_bench"))
        address = urlsplit(stack.enter_context(processes.web("yoke_bench"))).netloc
        away = setup.bench.devices.exclude(link="linked")
        processes.wait_for(lambda: not away.exists(), "the links", 60)
        mine = cookies_of("engineer")
        idle = stop_seconds(address, setup.bench_id, mine)
        with crowd(address, path):
            crowded = stop_seconds(address, setup.bench_id, mine)
        idle = min(idle, stop_seconds(address, setup.bench_id, mine))
    words = f"emergency stop under {READS} whole curves, best of {STOPS}"
    return [
        Row(
            words,
            crowded,
            idle,
            "s",
            f"at most {MOST_RATIO:g} times idle",
            crowded <= MOST_RATIO * idle,
        )
    ]
