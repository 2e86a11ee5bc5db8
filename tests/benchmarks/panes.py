"""Record with a page of sixteen strips, and one of twelve panes: frames, opening, memory."""

from typing import Any

from tests import processes
from tests.benchmarks.grid import live
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row
from tests.benchmarks.table import COUNT
from tests.benchmarks.wiring import wire_all
from tests.browser.chromium import Watched, chromium

CURVES = 16
PANES = 12
FRAMES = 50.0  # a second, that are kept
BARE = 60.0  # that the browser draws where nothing moves
OPENED = 1.0  # s
LOOKED = 6000  # ms
GROWN = 1.1  # times the memory, of what the page held once all its traces were full
TO_FILL = 130_000  # ms of frames until a trace holds no more
KINDS = ("strips", "digits", "bars", "table", "statistics", "ruler")


def measure() -> list[Row]:
    setup = fresh_setup()
    wire_all(setup)
    keys = [{"key": c.key, "name": c.name} for c in setup.channels.all()[:CURVES]]
    with processes.web("yoke_bench") as address, chromium() as browser:
        page = Watched(browser).sign_in(address, "engineer")
        page.goto(f"{address}/setups/{setup.pk}/wire")
        with live(setup):
            _keep(page, setup, [[_pane("strips", keys)]])
            page.goto(f"{address}/setups/{setup.pk}/record")
            page.get_by_role("region", name="Strips over time").wait_for()
            page.wait_for_timeout(2000)
            frames = _frames(page)
            bare = _bare(page, address, setup)
            full, later = _memory(page, address, setup)
            opened = _opening(page, address, setup, keys)
    return [
        Row(
            f"frames of {CURVES} strips at 20 updates a second, against a page that rests",
            frames, bare, "a second", f"ratio at least {FRAMES / BARE:.2f}",
            frames >= FRAMES / BARE * bare,
        ),
        Row(
            f"until a page of {PANES} panes shows readings, of the second it may take",
            opened, OPENED, "s", "ratio at most 1", opened <= OPENED,
        ),
        Row(
            "memory of the page two minutes later, once its traces are full",
            later, full, "MB", f"ratio at most {GROWN:g}", later <= GROWN * full,
        ),
    ]  # fmt: skip


def _pane(kind: str, channels: list[dict[str, str]]) -> dict[str, Any]:
    return {"pane": kind, "channels": channels}


def _keep(page: Any, setup: Any, rows: list[list[dict[str, Any]]]) -> None:
    """Pages as somebody arranged them: a row for each list, a column for each pane."""
    body = {
        "version": 1,
        "pages": [
            {
                "name": "Bench",
                "rows": [{"columns": [{"panes": [pane]} for pane in row]} for row in rows],
            }
        ],
    }
    cookies = {c["name"]: c["value"] for c in page.context.cookies()}
    answer = page.request.put(
        f"{page.url.split('/setups')[0]}/api/setups/{setup.pk}/pages",
        data=body,
        headers={"X-CSRFToken": cookies["csrftoken"]},
    )
    assert answer.ok, answer.text()


def _frames(page: Any) -> float:
    page.evaluate(COUNT)
    page.wait_for_timeout(LOOKED)
    return float(page.evaluate(COUNT))


def _bare(page: Any, address: str, setup: Any) -> float:
    """Of the same screen while its plots stand still."""
    page.keyboard.press("s")
    page.get_by_text("The plots stand still").wait_for()
    page.goto("about:blank")
    frames = _frames(page)
    page.goto(f"{address}/setups/{setup.pk}/record")
    page.get_by_role("region", name="Strips over time").wait_for()
    return frames


def _memory(page: Any, address: str, setup: Any) -> tuple[float, float]:
    """MB of the page's heap when all traces are full, and as long after it again."""
    tools = page.context.new_cdp_session(page)

    def held() -> float:
        tools.send("HeapProfiler.collectGarbage")
        return float(tools.send("Runtime.getHeapUsage")["usedSize"]) / 1e6

    page.wait_for_timeout(TO_FILL)
    full = held()
    page.wait_for_timeout(TO_FILL)
    return full, held()


def _opening(page: Any, address: str, setup: Any, keys: list[dict[str, str]]) -> float:
    panes = [_pane(KINDS[i % len(KINDS)], keys[:4]) for i in range(PANES)]
    _keep(page, setup, [panes[i : i + 4] for i in range(0, PANES, 4)])
    page.goto(f"{address}/setups/{setup.pk}/wire")
    page.get_by_role("link", name="Record").wait_for()
    page.wait_for_timeout(2000)
    return float(page.evaluate(OPEN))


# s from the press on Record until as many panes are there and the first figures are in them.
OPEN = f"""async () => {{
  const began = performance.now()
  const links = [...document.querySelectorAll('nav a')]
  links.find((a) => a.textContent.startsWith('Record')).click()
  const ready = () =>
    document.querySelectorAll('section[data-place]').length === {PANES} &&
    /\\d/.test(document.querySelector('section[data-place] .figure')?.textContent ?? '')
  while (!ready()) await new Promise(requestAnimationFrame)
  return (performance.now() - began) / 1000
}}"""
