"""The first page after sign-in, and the warm start of the demo."""

import gzip
import os
import signal
import subprocess
import sys
import time
import urllib.request
from contextlib import suppress
from typing import Any

from tests import processes
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import ROUNDS, Row, timed
from tests.browser.chromium import Watched, chromium

DRAWN = """() => {
  const files = performance.getEntriesByType('resource')
  const [page] = performance.getEntriesByType('navigation')
  const last = Math.max(page?.responseEnd ?? 0, ...files.map((f) => f.responseEnd))
  return { last, now: performance.now() }
}"""
BARE = "data:text/html,<h1>Projects</h1>"


def measure() -> list[Row]:
    fresh_setup()
    with processes.web("yoke_bench") as address, chromium() as browser:
        watched = Watched(browser)
        page = watched.sign_in(address, "engineer")
        scripts: dict[str, int] = {}
        page.on("response", lambda r: note_script(scripts, r))
        ours, bare = [], []
        for _ in range(ROUNDS):
            ours.append(drawn_after(page, address, "a[href*=setups]"))
            bare.append(drawn_after(page, BARE, "h1"))
    size = sum(scripts.values())
    return [
        Row("script of the first page, gzip", size / 1e3, None, "kB", "under 200 kB", size < 200e3),
        Row(
            "first page drawn after its last byte",
            min(ours) * 1e3,
            min(bare) * 1e3,
            "ms",
            "under 1000 ms",
            min(ours) < 1.0,
        ),
    ]


def note_script(scripts: dict[str, int], response: Any) -> None:
    if response.url.endswith(".js"):
        with suppress(Exception):
            scripts[response.url] = len(gzip.compress(response.body()))


def drawn_after(page: Any, address: str, sign: str) -> float:
    """Seconds from the last byte received to the sign being on screen."""
    page.goto(address, wait_until="commit")
    page.wait_for_selector(sign)
    seen = page.evaluate(DRAWN)
    return max(0.0, (seen["now"] - seen["last"]) / 1e3)


def start_demo() -> float:
    """Seconds from `./yoke demo` until its sign-in page answers; then Ctrl-C."""
    port = processes.free_port()
    begun = time.perf_counter()
    command = [str(processes.ROOT / "yoke"), "demo", "--port", f"{port}"]
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        processes.wait_for(lambda: page_answers(port), "the demo", 120)
        return time.perf_counter() - begun
    finally:
        child.send_signal(signal.SIGINT)
        child.wait()


def page_answers(port: int) -> bool:
    with suppress(OSError), urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=1):
        return True
    return False


def measure_start() -> list[Row]:
    """Warm start against the floor of importing Django, time to the page only."""
    start_demo()  # the first may still have to load the demo's data

    def floor() -> object:
        code = "import django; django.setup()"
        return subprocess.run([sys.executable, "-c", code], env=dict(os.environ), check=True)

    times = [(start_demo(), timed(floor)) for _ in range(ROUNDS)]
    best, bare = min(t[0] for t in times), min(t[1] for t in times)
    return [
        Row(
            "./yoke demo, warm, to the sign-in page",
            best,
            bare,
            "s",
            "under 10 s",
            max(t[0] for t in times) < 10,
        )
    ]
