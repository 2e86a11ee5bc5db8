"""An emergency stop, and another person's page, beside crowds of visitors of several kinds."""

import http.client
import json
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from urllib.parse import urlsplit

from django.core.management import call_command

from tests import processes
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, timed

STOPS = PAGES = 15
STOP_RATIO, PAGE_RATIO = 3.0, 2.0
TOKEN = "t" * 32


def cookies_of(role: str) -> str:
    from django.test import Client
    from yoke_server.accounts.models import User

    client = Client()
    client.force_login(User.objects.get(username=role))
    return f"sessionid={client.cookies['sessionid'].value}; csrftoken={TOKEN}"


@dataclass(frozen=True)
class Crowd:
    """Visitors of one kind (visitors.py), half by one person, half by another."""

    words: str
    kind: str
    path: str
    number: int
    wants_pages: bool = False  # whether others' pages must not wait for it

    @contextmanager
    def there(self, address: str) -> Iterator[None]:
        children = [
            subprocess.Popen(
                [
                    sys.executable,
                    "-m",
                    "tests.benchmarks.visitors",
                    self.kind,
                    address,
                    self.path,
                    cookies_of(role),
                    str(self.number // 2),
                ],
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


def best(action: Callable[[], object], times: int) -> float:
    """Seconds; the action is done so many times, each on its own."""
    took = []
    for _ in range(times):
        took.append(timed(action))
        time.sleep(0.2)
    return min(took)


def asked(address: str, method: str, path: str, cookies: str) -> Callable[[], None]:
    """A request on a connection of its own."""

    def ask() -> None:
        link = http.client.HTTPConnection(address, timeout=60)
        headers = {"Cookie": cookies, "X-CSRFToken": TOKEN, "Content-Type": "application/json"}
        body = json.dumps({}) if method == "POST" else None
        link.request(method, path, body, headers)
        answer = link.getresponse()
        answer.read()
        link.close()
        assert answer.status in (200, 204), answer.status

    return ask


def measure() -> list[Row]:
    from yoke_server.bench.services import save_stand_ins

    setup = fresh_setup()
    call_command("load_demo", verbosity=0)
    run = setup.runs.get()
    curve = f"/api/runs/{run.pk}/derivations/{setup.recipes.get().pk}/arrays"
    table = f"/api/runs/{run.pk}/streams/{run.streams.get(device_label='A1').pk}/files/csv"
    crowds = (
        Crowd("200 whole curves", "reads", curve, 200),
        Crowd("100 files taken slowly", "downloads", table, 100, wants_pages=True),
        Crowd("1000 silent connections", "silent", "", 1000),
        Crowd("1000 strangers posting there", "strangers", "/api/emergency-stop", 1000),
    )
    with ExitStack() as stack:
        rig = stack.enter_context(processes.rig(1.0))
        save_stand_ins(rig.ports)
        stack.enter_context(processes.recorder("yoke_bench"))
        stack.enter_context(processes.worker("yoke_bench"))
        address = urlsplit(stack.enter_context(processes.web("yoke_bench"))).netloc
        away = setup.bench.devices.exclude(link="linked")
        processes.wait_for(lambda: not away.exists(), "the links", 60)
        mine = cookies_of("engineer")
        stop = asked(address, "POST", f"/api/benches/{setup.bench_id}/emergency-stop", mine)
        page = asked(address, "GET", f"/api/setups/{setup.pk}", mine)
        rows = []
        for crowd in crowds:
            rows += _beside(crowd, address, stop, page)
    return rows


def _beside(
    crowd: Crowd, address: str, stop: Callable[[], None], page: Callable[[], None]
) -> list[Row]:
    actions = [("emergency stop", stop, STOPS, STOP_RATIO)]
    if crowd.wants_pages:
        actions.append(("another person's page", page, PAGES, PAGE_RATIO))
    idle = [best(action, times) for _, action, times, _ in actions]
    with crowd.there(address):
        crowded = [best(action, times) for _, action, times, _ in actions]
    return [
        Row(
            f"{words} beside {crowd.words}, best of {times}",
            beside * 1e3,
            alone * 1e3,
            "ms",
            f"at most {most:g} times idle",
            beside <= most * alone,
        )
        for (words, _, times, most), alone, beside in zip(actions, idle, crowded, strict=True)
    ]
