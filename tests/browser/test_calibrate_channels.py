"""Calibrate by a person: a resistor put on, points captured, many channels, units of one's own."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.cells import rig, setup

__all__ = ["rig", "setup"]

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def page(setup, application, open_browser) -> Page:
    """An engineer's, with the yoke, and all channels zeroed."""
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/calibrate")
    page.get_by_role("button", name="Take the yoke", exact=True).click()
    page.get_by_role("button", name="Zero 2 channels").click()
    expect(page.get_by_role("link", name="all zeroed")).to_be_visible()
    return page


def pretend(page: Page, application: str, setup, name: str, faults: str) -> None:
    """What a person does to the stand-in's sensor."""
    row = setup.channels.select_related("input").get(name=name)
    token = next(c["value"] for c in page.context.cookies() if "csrf" in c["name"].lower())
    answer = page.request.post(
        f"{application}/api/devices/{row.input.device_id}/faults",
        data={"input": row.input.number, "faults": faults},
        headers={"X-CSRFToken": token, "Referer": application},
    )
    assert answer.ok, answer.text()


def choose(page: Page, name: str) -> None:
    page.get_by_role("region", name="Channels").get_by_role("button", name=name, exact=True).click()


def test_a_resistor_that_is_put_on_passes_its_check(page, application, setup):
    choose(page, "F axle")
    panel = page.get_by_role("region", name="Shunt check and display")
    panel.get_by_label("Resistor").select_option("external")
    panel.get_by_label("Across arm").select_option("3")
    pretend(page, application, setup, "F axle", "shunted 3 100000")
    page.wait_for_timeout(1000)
    panel.get_by_role("button", name="Read F axle with it on").click()
    expect(panel.get_by_text("Passed, within 1 %.")).to_be_visible()
    expect(panel.get_by_text("an external 100 kΩ across arm 3 at the sensor")).to_be_visible()
    pretend(page, application, setup, "F axle", "none")


def test_two_points_are_captured_with_their_keys(page, application, setup):
    choose(page, "F axle")
    scaling = page.get_by_role("region", name="Scaling")
    scaling.get_by_label("Scaling by").select_option("two_points")
    expect(scaling.get_by_role("button", name="Capture A")).to_be_visible()
    value = scaling.get_by_label("Point B, value")
    value.fill("5")
    value.press("Enter")
    page.get_by_role("heading", name="Channels").click()
    page.keyboard.press("a")
    expect(page.get_by_text("Captured point A.")).to_be_visible()
    pretend(page, application, setup, "F axle", "load 5000")
    page.wait_for_timeout(3000)
    page.keyboard.press("b")
    expect(page.get_by_text("Captured point B.")).to_be_visible()
    row = page.get_by_role("row", name=re.compile("F axle"))
    expect(row.get_by_text(re.compile(r"^(4\.99|5\.00)\d$"))).to_be_visible()
    pretend(page, application, setup, "F axle", "load 0")


def test_marked_channels_change_together_and_units_are_ones_own(page, application, open_browser):
    page.get_by_label("Mark all channels").check()
    bar = page.get_by_role("group", name="Marked channels")
    output = bar.get_by_label("Rated output")
    output.fill("1,5")
    output.press("Enter")
    rows = page.get_by_role("row", name=re.compile("^Mark F"))
    expect(rows.get_by_text("6.6667")).to_have_count(2)
    bar.get_by_role("button", name="Unmark all").click()
    panel = page.get_by_role("region", name="Shunt check and display")
    panel.get_by_role("button", name="Define a unit of our own…").click()
    panel.get_by_label("Name").fill("lbf")
    panel.get_by_label(re.compile("^One of it is")).fill("4.448 mm")
    panel.get_by_role("button", name="Define it").click()
    expect(panel.get_by_text("which is no unit of force")).to_be_visible()
    panel.get_by_label(re.compile("^One of it is")).fill("4.4482216 N")
    panel.get_by_role("button", name="Define it").click()
    panel.get_by_role("radio", name="me", exact=True).click()
    panel.get_by_role("radio", name="lbf").click()
    expect(rows.get_by_text("lbf", exact=True)).to_have_count(2)
    other = open_browser("technician")
    other.goto(page.url)
    expect(
        other.get_by_role("row", name=re.compile("F axle")).get_by_text("kN", exact=True)
    ).to_be_visible()
    page.reload()
    expect(rows.get_by_text("lbf", exact=True)).to_have_count(2)


def test_the_grid_says_how_sure_each_reading_is(page):
    page.get_by_role("button", name=re.compile("^Columns")).click()
    page.get_by_label("U, k = 2").click()
    page.keyboard.press("Escape")
    rows = page.get_by_role("row", name=re.compile("^Mark F"))
    # The resolution of 0.001 kN alone is 0.0006 kN.
    expect(rows.get_by_text(re.compile(r"^± 0\.00\d\d"))).to_have_count(2)
