"""The job in the real interface: one pull test from wires to the report."""

import io
import re

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from tests import processes

pytestmark = pytest.mark.django_db(transaction=True)


def stage(page: Page, name: str) -> None:
    stages = page.get_by_role("navigation", name="Stages", exact=True)
    stages.get_by_role("link", name=name).click()


def open_setup(page: Page) -> None:
    page.get_by_role("link", name="Open Tension").click()
    stage(page, "Wire")
    expect(page.get_by_text("Shed bench linked")).to_be_visible()


def strip(page: Page, channel: str):
    return page.locator("footer button", has_text=channel)


def test_one_pull_from_wires_to_report(open_browser, setup):
    page, watcher = open_browser("engineer"), open_browser("technician")
    open_setup(page)
    open_setup(watcher)

    # Wire: the drawing of a quarter bridge; a free input is given a sensor and the action undone.
    page.get_by_role("button", name=re.compile("SG1.*quarter")).click()
    drawing = page.get_by_role("img", name="Wiring of SG1")
    expect(drawing).to_contain_text("completion, arm 2")
    expect(drawing).to_contain_text("0.77")
    page.get_by_role("button", name=re.compile(r"^1\.4 Free")).click()
    page.get_by_role("button", name=re.compile("Gauge 120")).click()
    expect(page.get_by_label("Channel name")).to_have_value("SG3")
    page.get_by_role("button", name="Wire SG3 to input 1.4").click()
    expect(strip(page, "SG3")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(strip(page, "SG3")).to_have_count(0)

    # A loop and a thermometer on the module; each drawn as what it is.
    for place, sensor, name, words in (
        ("M1.1", "Displacement", "u", "% of span"),
        ("M1.5", "Pt100", "T", "lead taken off"),
    ):
        page.get_by_role("button", name=f"{place} Free").click()
        page.get_by_role("button", name=re.compile(sensor)).click()
        page.get_by_role("button", name=f"Wire {name} to input {place}").click()
        expect(page.get_by_role("img", name=f"Wiring of {name}")).to_contain_text(words)
        expect(strip(page, name).last).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("button", name=f"{place} Free")).to_be_visible()

    # Calibrate: zeroing waits for the yoke, which a press takes; then zero, check the shunts.
    stage(page, "Calibrate")
    page.get_by_role("button", name="Take the yoke to zero").first.click()
    page.get_by_role("button", name="Zero 4 channels").click()
    expect(page.get_by_text("all zeroed").first).to_be_visible()
    page.get_by_role("button", name="Shunt check 4 bridges").click()
    # Expected and measured with the lead in both, and their deviation.
    sg1 = page.get_by_role("row", name=re.compile("SG1"))
    expect(sg1).to_contain_text(re.compile(r"0\.871\d0\.871\d−?0\.0\d"))
    page.get_by_role("row", name=re.compile("SG1")).click()
    factor = page.get_by_label("Gauge factor", exact=True)
    for wrong, words in (("0", "must be at least 0.1"), ("abc", "must be a number")):
        factor.fill(wrong)
        factor.press("Enter")
        expect(page.get_by_role("alert").first).to_contain_text(words)
    factor.press("Escape")
    expect(factor).to_have_value("2.080")

    # Record: the watcher sees the run and can neither start nor stop it.
    stage(page, "Record")
    stage(watcher, "Record")
    expect(watcher.get_by_role("button", name="Engineer holds the yoke").first).to_be_disabled()
    page.get_by_role("button", name="Start the pull").click()
    for screen in (page, watcher):
        expect(screen.get_by_label("State")).to_contain_text("Recording")
    expect(watcher.get_by_role("button", name="Stop recording")).to_have_count(0)
    expect(watcher.get_by_role("button", name="Engineer holds the yoke").first).to_be_disabled()
    expect(page.get_by_label("State")).to_contain_text("kept: The force fell by 40 %")
    expect(page.get_by_label("Programme", exact=True)).to_contain_text("C1 run 1")
    expect(watcher.get_by_label("State")).to_contain_text("kept")

    # Derive: results; the fit range's handle moved by key and by mouse recomputes.
    stage(page, "Derive")
    table = page.get_by_role("row", name=re.compile("C1 run 1"))
    expect(table).to_contain_text("11.")
    before = (
        page.get_by_label("Recipe").get_by_text("Samples in the fit").locator("..").inner_text()
    )
    handle = page.get_by_role("slider", name="Fit range to")
    handle.press("ArrowUp")
    expect(handle).to_have_attribute("aria-valuetext", "181 MPa")
    samples = page.get_by_label("Recipe").get_by_text("Samples in the fit").locator("..")
    expect(samples).not_to_have_text(before.replace("\n", ""))  # drawn anew: it stands still
    handle.hover()
    box = handle.bounding_box()
    page.mouse.down()
    page.mouse.move(box["x"] + 14, box["y"] + 60, steps=5)
    page.mouse.up()
    expect(handle).not_to_have_attribute("aria-valuetext", "181 MPa")
    page.get_by_role("radio", name="Over time").click()
    expect(page.get_by_role("figure", name="F over time").locator("canvas")).to_be_visible()
    page.get_by_label("Derive something more").select_option("Cycles of F")
    expect(page.get_by_role("img", name="Cycles of F by range and mean")).to_be_visible()
    page.get_by_role("radio", name="Stress-strain").click()

    # Report: the worker makes the PDF; it opens and holds the results.
    page.get_by_role("button", name="Put C1 into a report").click()
    page.get_by_role("button", name="Make the PDF").click()
    expect(page.get_by_role("img", name=re.compile("Page 1 of Tension test of C1"))).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save the PDF").click()
    content = io.BytesIO(download.value.path().read_bytes())
    text = " ".join(p.extract_text() for p in PdfReader(content).pages)
    assert "Tension test of C1" in text
    assert re.search(r"Rm, tensile strength, at maximum force\s+3\d\d\.\d\s+MPa", text)


def test_a_wrong_password_is_told_and_a_reviewer_only_reads(open_browser, application, browser):
    page = open_browser("reviewer")
    open_setup(page)
    expect(page.get_by_label("Channel", exact=True)).to_be_disabled()
    stage(page, "Record")
    expect(page.get_by_role("button", name="Start the pull")).to_have_count(0)
    stage(page, "Calibrate")
    expect(page.get_by_role("button", name="Reviewers do not zero").first).to_be_disabled()
    other = browser.new_context()
    sign_in = other.new_page()
    sign_in.goto(application)
    sign_in.fill("[name=username]", "engineer")
    sign_in.fill("[name=password]", "guess")
    sign_in.press("[name=password]", "Enter")
    expect(sign_in.get_by_role("alert")).to_contain_text("do not belong together")
    code = sign_in.evaluate(
        """() => new Promise((done) => {
          const socket = new WebSocket(`ws://${location.host}/live/1`)
          socket.onclose = (event) => done(event.code)
          socket.onmessage = () => done('a message')
        })"""
    )
    assert code == 4401
    other.close()


def test_everything_by_keyboard(open_browser):
    page = open_browser("technician", theme="dark")
    page.keyboard.press("Control+k")
    page.keyboard.type("coupons tension")
    page.keyboard.press("Enter")
    stage(page, "Wire")
    expect(page.get_by_text("Shed bench linked")).to_be_visible()
    assert page.evaluate("document.documentElement.dataset.theme") == "night"
    page.keyboard.press("Control+k")
    page.keyboard.type("take the yoke")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Yoke: you")).to_be_visible()
    page.keyboard.press("F7")
    expect(page.get_by_text("Zeroed 4 channels.")).to_be_visible()
    page.keyboard.press("g")
    page.keyboard.press("3")
    expect(page).to_have_url(re.compile("/record$"))
    page.keyboard.press("2")
    expect(strip(page, "e clip")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("F8")
    expect(page.get_by_label("State")).to_contain_text("Recording")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.get_by_label("State")).to_contain_text("kept: Emergency stop")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("Start or stop recording")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Undone: Zeroed 4 channels.")).to_be_visible()


def test_the_script_of_the_first_page_is_small(browser, database):
    import gzip

    context = browser.new_context()
    page = context.new_page()
    sizes = []
    page.on(
        "response",
        lambda r: r.url.endswith(".js") and sizes.append(len(gzip.compress(r.body()))),
    )
    with processes.web(database) as address:
        page.goto(address, wait_until="networkidle")
        context.close()
    assert sizes
    assert sum(sizes) < 200_000
