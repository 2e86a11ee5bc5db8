"""`./yoke screenshots`: the pictures in docs/screenshots, from the demo's data."""

import os
import re
from contextlib import ExitStack
from pathlib import Path

import django
from playwright.sync_api import Page

from tests import processes
from tests.browser.chromium import Watched, chromium

PREDICTION = processes.ROOT / "docs" / "examples" / "fk12_crown_r4.txt"
FOLDER = processes.ROOT / "docs" / "screenshots"
INTO_THE_BLOCKS = 18_000  # ms: in the second block of cycles
SETTLE = 1_200  # ms


def shot(page: Page, name: str) -> None:
    page.mouse.move(640, 790)
    page.wait_for_timeout(SETTLE)
    page.screenshot(path=str(FOLDER / f"{name}.png"))


def stage(page: Page, name: str) -> None:
    stages = page.get_by_role("navigation", name="Stages", exact=True)
    stages.get_by_role("link", name=name).click()


def colours(page: Page, wanted: str) -> None:
    page.get_by_role("button", name="Engineer", exact=True).click()
    page.get_by_role("menuitem", name=wanted).click()


def fault(page: Page) -> None:
    """A broken core, found by the check; the library beside it."""
    page.get_by_role("button", name="Take the yoke").first.click()
    page.get_by_label("Have it be").select_option(label="green core broken")
    page.wait_for_timeout(SETTLE)
    page.get_by_role("button", name=re.compile(r"^Check \d+ inputs")).click()
    page.get_by_role("alert").filter(has_text="Green core is broken").wait_for()
    shot(page, "wire-check")
    page.get_by_role("radio", name="Library").click()
    page.get_by_role("button", name="LC-2207").click()
    shot(page, "library")
    page.get_by_role("radio", name="Drawing").click()
    page.get_by_role("button", name=re.compile("SG1.*quarter")).click()
    page.get_by_label("Have it be").select_option(label="well")
    page.wait_for_timeout(SETTLE)
    page.get_by_role("button", name=re.compile("^Check SG1")).click()
    page.get_by_text("All well").wait_for()


def devices(page: Page) -> None:
    """What is on the bench, what is found beside it, and what an address reads."""
    page.get_by_role("radio", name="Devices").click()
    page.get_by_role("button", name="Find devices").click()
    page.get_by_role("button", name="Add it as W1").click(timeout=10_000)
    page.get_by_role("button", name="Test the connection").click()
    page.get_by_text("It answers:").wait_for()
    shot(page, "wire-devices")
    page.get_by_role("radio", name="Drawing").click()
    page.get_by_role("button", name=re.compile("SG1.*quarter")).click()


def take(page: Page) -> None:
    """Walk the five stages; the run in the pictures is a real pull."""
    page.get_by_role("button", name=re.compile("^Front fork")).click()
    page.get_by_role("img", name=re.compile("^F axle from")).wait_for()
    shot(page, "projects")
    page.get_by_role("link", name="Open Tension").click()
    stage(page, "Wire")
    page.get_by_role("button", name=re.compile("SG1.*quarter")).click()
    page.wait_for_timeout(4 * SETTLE)
    shot(page, "wire")
    devices(page)
    fault(page)
    page.get_by_role("button", name=re.compile(r"^M1\.1 Free")).click()
    page.get_by_role("button", name=re.compile("DT-0419")).click()
    page.get_by_role("button", name="Wire u to input M1.1").click()
    page.get_by_role("img", name="Wiring of u").wait_for()
    stage(page, "Calibrate")
    page.get_by_role("button", name="Zero 5 channels").click()
    page.get_by_text("Zeroed 5 channels.").wait_for()
    page.get_by_text("Zeroed 5 channels.").wait_for(state="detached")
    stage(page, "Record")
    page.get_by_role("button", name="Start the pull").click()
    page.get_by_label("State").get_by_role("heading", name="Recording").wait_for()
    page.get_by_label("State").get_by_text("force fell").wait_for(timeout=60_000)
    emergency(page)
    stage(page, "Derive")
    shot(page, "derive")
    page.get_by_label("Derive something more").select_option("Cycles of F")
    page.get_by_role("img", name="Cycles of F by range and mean").wait_for(timeout=60_000)
    shot(page, "derive-cycles")
    page.get_by_role("radio", name="Stress-strain").click()
    page.get_by_role("button", name=re.compile("into a report")).click()
    page.get_by_role("button", name="Make the PDF").click()
    page.get_by_role("img", name=re.compile("Page 1")).wait_for(timeout=60_000)
    shot(page, "report")


def emergency(page: Page) -> None:
    """The band that stays until somebody releases the stop."""
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^Release")).first.wait_for()
    shot(page, "emergency")
    page.get_by_role("button", name=re.compile("^Release")).first.click()
    page.get_by_role("button", name=re.compile("^Release")).first.wait_for(state="detached")


def take_fork(page: Page) -> None:
    """The fork's two setups: cycles while they are done, the rosette, a prediction beside it."""
    page.get_by_role("link", name="All projects").click()
    page.get_by_role("link", name="Open Fatigue").click()
    programme(page)
    stage(page, "Calibrate")
    page.get_by_role("button", name="G4", exact=True).first.click()
    page.get_by_role("radio", name=re.compile("Steps")).click()
    page.get_by_role("list", name="Steps of G4").get_by_text("Low-pass").wait_for()
    shot(page, "calibrate")
    page.get_by_role("link", name="All projects").click()
    page.get_by_role("button", name="Static version").click()
    page.get_by_role("link", name="Open Static").click()
    stage(page, "Derive")
    page.get_by_role("img", name=re.compile("First principal strain")).wait_for()
    shot(page, "derive-rosette")
    correct(page)
    page.get_by_role("link", name="Import a file").click()
    page.get_by_label("Choose a file").set_input_files(PREDICTION)
    page.get_by_label("Unit of U_AX").wait_for()
    shot(page, "importing")
    page.get_by_role("button", name="Make the run").click()
    page.wait_for_url(re.compile(r"derive\?run="), timeout=60_000)
    curves(page)


def curves(page: Page) -> None:
    """Runs of the project over each other, aligned where the force rises, with a window."""
    page.get_by_role("link", name="All projects").click()
    page.get_by_role("link", name="Open Fatigue").click()
    stage(page, "Derive")
    page.get_by_role("link", name="Over each other").click()
    page.get_by_role("list", name="Runs that may be added").get_by_text("FK-12-1 run 1").click()
    page.get_by_label("Aligned at").select_option(label="a threshold")
    page.get_by_label("Channel of the alignment").select_option("F axle")
    page.get_by_label("Level").fill("0.3")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Window", exact=True).click()
    page.get_by_role("region", name="Window").get_by_text("Mean of").wait_for()
    shot(page, "derive-curves")
    page.get_by_role("link", name="Results", exact=True).click()


def signals(page: Page) -> None:
    """The signal check before and with a hum on one gauge."""
    page.get_by_role("link", name="Signal check").click()
    page.get_by_role("button", name="Look at all signals").click()
    page.get_by_role("button", name="Look again").wait_for()
    number = page.evaluate(HUM, "hum 5e-7")
    page.get_by_role("button", name="Look again").click()
    page.get_by_label("Which check").wait_for()
    page.get_by_role("button", name=re.compile("^R1b")).first.click()
    shot(page, "signal-check")
    page.evaluate(HUM, "")
    assert number == NO_CONTENT
    page.get_by_role("link", name="Back to Record").click()


NO_CONTENT = 204
# Has the second gauge of the fork hum, or be well, as the list of faults in Wire does.
HUM = """async (faults) => {
  const get = async (path) => (await fetch(path)).json()
  const setup = await get('/api/setups/' + location.pathname.split('/')[2])
  const device = (await get('/api/benches/' + setup.bench_id)).devices.find((d) => d.label === 'A3')
  const token = document.cookie.match(/csrftoken=([^;]+)/)[1]
  const headers = { 'Content-Type': 'application/json', 'X-CSRFToken': token }
  const body = JSON.stringify({ input: 2, faults })
  return (await fetch(`/api/devices/${device.id}/faults`, { method: 'POST', headers, body })).status
}"""


def arranged(page: Page) -> None:
    """A page of panes of somebody's own."""
    strips = page.get_by_role("region", name="Strips over time")
    strips.hover()
    for side, kind in (("Pane beside", "Ruler dial"), ("Pane beside", "Statistics over a window")):
        strips.get_by_role("button", name="Settings of this pane").click()
        page.get_by_role("button", name=side).click()
        page.mouse.click(640, 70)
        digits = page.get_by_role("region", name="Live plots").get_by_role("region", name="Digits")
        digits.hover()
        digits.get_by_role("button", name="Settings of this pane").click()
        page.get_by_label("Shows").select_option(label=kind)
        if side == "Pane beside" and kind != "Ruler dial":
            page.get_by_role("button", name="Down", exact=True).click()
        else:
            page.mouse.click(640, 70)


def programme(page: Page) -> None:
    """Legs, keep rules, guards and turning points of a test, by day, by night and from afar."""
    stage(page, "Record")
    page.get_by_role("button", name="Take the yoke").first.click()
    start = page.get_by_role("button", name="Start the programme")
    other = page.get_by_role("button", name="Put Fatigue on the bench")
    start.or_(other).wait_for()
    if other.count():
        other.click()
    start.wait_for()
    signals(page)
    start.click()
    page.wait_for_timeout(INTO_THE_BLOCKS)
    shot(page, "record")
    colours(page, "Night colours")
    arranged(page)
    shot(page, "record-night")
    colours(page, "Day colours")
    page.keyboard.press("f")
    page.get_by_text("guards inside").wait_for()
    page.wait_for_timeout(SETTLE)
    shot(page, "far")
    page.keyboard.press("f")
    page.get_by_role("button", name="Start the programme").wait_for(timeout=60_000)


def correct(page: Page) -> None:
    """A gauge factor about to be put right: before and after, and what becomes stale."""
    page.get_by_role("button", name="Correct a channel").click()
    sheet = page.get_by_role("region", name="Correction", exact=True)
    sheet.get_by_role("combobox", name="Channel").select_option(label="R1b")
    sheet.get_by_role("combobox", name="Correction").select_option("gauge_factor_correction")
    factor = sheet.get_by_label("Gauge factor")
    factor.fill("1.92")
    factor.press("Enter")
    sheet.get_by_label("Reason").fill("Packet of R1b says 1.92.")
    sheet.get_by_text("Becomes stale").wait_for()
    shot(page, "derive-correct")
    sheet.get_by_role("button", name="Leave as it is").click()


FALLING = 9  # steps until loads fall


def calibrate(page: Page) -> None:
    """The axle's load cell against its reference, half way down again, with its budget."""
    page.get_by_role("link", name="All projects").click()
    page.get_by_role("link", name="Open Axle cell").click()
    stage(page, "Calibrate")
    page.get_by_role("button", name="Calibrate against loads").click()
    page.get_by_role("button", name="Begin the calibration").click()
    page.get_by_role("button", name="Put Axle cell on the bench").click()
    page.wait_for_timeout(4 * SETTLE)
    page.get_by_role("button", name="Zero 2 channels").click()
    page.get_by_text("Zeroed 2 channels.").wait_for()
    page.get_by_text("Zeroed 2 channels.").wait_for(state="detached")
    done = page.get_by_role("button", name=re.compile(r"^Step \d+,.*, captured$"))
    for step in range(FALLING):
        page.get_by_role("button", name="Stand-in: put it on").click()
        done.nth(step).wait_for(timeout=30_000)
    page.get_by_role("button", name="Stand-in: put it on").click()
    page.get_by_role("button", name="Show the budget").click()
    shot(page, "calibrate-loads")


def main() -> None:
    """Fresh demo data in the benchmark database, a rig at life's pace, one browser."""
    django.setup()
    from django.core.management import call_command
    from yoke_server.bench.services import save_stand_ins

    call_command("migrate", verbosity=0)
    call_command("flush", interactive=False, verbosity=0)
    call_command("load_demo")
    with ExitStack() as stack:
        for bench in ("shed", "fork"):
            save_stand_ins(
                stack.enter_context(processes.rig(1.0, 7, bench, "--discoverable")).ports
            )
        stack.enter_context(processes.recorder("yoke_bench"))
        stack.enter_context(processes.worker("yoke_bench"))
        address = stack.enter_context(processes.web("yoke_bench"))
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        browser = stack.enter_context(chromium())
        Path(FOLDER).mkdir(parents=True, exist_ok=True)
        page = Watched(browser).sign_in(address, "engineer")
        take(page)
        take_fork(page)
        calibrate(page)


if __name__ == "__main__":
    main()
