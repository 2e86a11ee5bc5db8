"""The table of 64 inputs in a browser: frames while typing, and an edit on another screen."""

import time
from typing import Any

from tests import processes
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, percentile
from tests.benchmarks.wiring import INPUTS, wire_all
from tests.browser.chromium import Watched, chromium

FRAMES = 50.0  # a second
SHOWN = 300.0  # ms, 95th percentile
KEYS, EDITS = 120, 40
# Counts frames between two calls; the second gives how many came a second.
COUNT = """() => {
  if (window.frames_) { const f = window.frames_; window.frames_ = null
    return 1000 * f.n / (performance.now() - f.at) }
  const f = window.frames_ = { n: 0, at: performance.now() }
  const next = () => { if (window.frames_ === f) { f.n += 1; requestAnimationFrame(next) } }
  requestAnimationFrame(next)
  return 0
}"""
# When a cell first shows a text, by the clock that both browsers share.
AWAIT = """([cell, text]) => new Promise((done) => {
  const look = () => {
    const found = document.getElementById(cell)
    if (found && found.textContent.includes(text)) done(performance.timeOrigin + performance.now())
    else requestAnimationFrame(look)
  }
  look()
})"""


def measure() -> list[Row]:
    setup = fresh_setup()
    wire_all(setup)
    channel = setup.channels.get(name="1.4")
    with processes.web("yoke_bench") as address, chromium() as browser:
        pages = []
        for name in ("engineer", "technician"):
            page = Watched(browser).sign_in(address, name)
            page.goto(f"{address}/setups/{setup.pk}/wire?view=table")
            page.get_by_role("grid").wait_for()
            pages.append(page)
        typing, still = _frames(pages[0], channel.input_id)
        shown, own = _edits(pages[0], pages[1], channel.input_id)
    return [
        Row(
            f"frames while typing in the table of {INPUTS}",
            typing,
            still,
            "a second",
            f"at least {FRAMES:g}",
            typing >= FRAMES,
        ),
        Row(
            "an edit on another screen, p95, against one's own",
            shown,
            own,
            "ms",
            f"at most {SHOWN:g} ms",
            shown <= SHOWN,
        ),
    ]


def _place(input_id: int) -> str:
    return f"cell-{input_id} name"


def _frames(page: Any, input_id: int) -> tuple[float, float]:
    """While keys come every 30 ms into a cell, and while nothing happens."""
    page.evaluate(COUNT)
    page.wait_for_timeout(2000)
    still = page.evaluate(COUNT)
    page.locator(f"[id='{_place(input_id)}']").click()
    page.evaluate(COUNT)
    page.keyboard.type("typed into a cell at speed " * (KEYS // 27), delay=15)
    typing = page.evaluate(COUNT)
    page.keyboard.press("Escape")
    return typing, still


def _edits(one: Any, other: Any, input_id: int) -> tuple[float, float]:
    """From Enter to the text on the other screen, and on one's own, ms at the 95th percentile."""
    there, here = [], []
    place = _place(input_id)
    for n in range(EDITS):
        text = f"edit {n}"
        one.locator(f"[id='{place}']").click()
        one.keyboard.type(text)
        waiting = other.evaluate_handle(
            "([c, t]) => ({ at: (" + AWAIT + ")([c, t]) })", [place, text]
        )
        begun = time.time() * 1e3
        one.keyboard.press("Enter")
        here.append(one.evaluate(AWAIT, [place, text]) - begun)
        there.append(waiting.evaluate("(w) => w.at") - begun)
    return percentile(there, 0.95), percentile(here, 0.95)
