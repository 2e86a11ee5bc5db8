"""Pages of panes in the real interface: arranged by mouse and by keys, for oneself and for all."""

import re

import pytest
from playwright.sync_api import expect
from yoke_server.setups.models import SetupPages

from tests import processes

ESC_ESC = 1000  # ms; two within it are an emergency stop
pytestmark = pytest.mark.django_db(transaction=True)


def pane(page, title):
    return page.get_by_role("region", name=title, exact=True)


def titles(page):
    """The panes in reading order."""
    found = page.get_by_role("region", name="Live plots").locator("section[tabindex='0']")
    return [one.get_attribute("aria-label") for one in found.all()]


def settings_of(page, title):
    """Opened by keys alone."""
    trigger = pane(page, title).get_by_role("button", name="Settings of this pane")
    trigger.focus()
    page.keyboard.press("Enter")
    return page.get_by_role("dialog", name="Settings of this pane")


def open_record(open_browser, application, setup, name):
    page = open_browser(name)
    page.goto(f"{application}/setups/{setup.pk}/record")
    pane(page, "Strips over time").wait_for()
    return page


def kept(setup):
    row = SetupPages.objects.filter(setup=setup).first()
    return [] if row is None else row.document["pages"]


def first_kept(setup):
    [page] = kept(setup)
    return page["rows"][0]["columns"][0]["panes"][0]["pane"]


def test_by_keys_a_pane_is_added_set_moved_and_enlarged(open_browser, application, setup):
    page = open_record(open_browser, application, setup, "technician")
    settings_of(page, "Strips over time").get_by_role("button", name="Pane beside").press("Enter")
    expect(pane(page, "Digits")).to_be_visible()
    page.keyboard.press("Escape")
    page.wait_for_timeout(ESC_ESC)
    settings = settings_of(page, "Digits")
    settings.get_by_label("Shows").select_option(label="Statistics over a window")
    statistics = pane(page, "Statistics over a window")
    expect(statistics.get_by_role("cell").first).not_to_have_text("–")
    page.keyboard.press("Escape")
    expect(statistics.get_by_role("button", name="Settings of this pane")).to_be_focused()
    statistics.focus()
    page.keyboard.press("Alt+ArrowLeft")
    expect(
        page.get_by_role("region", name="Live plots").locator("section").first
    ).to_have_attribute("aria-label", "Statistics over a window")
    pane(page, "Statistics over a window").focus()
    page.keyboard.press("m")
    expect(pane(page, "Strips over time")).to_have_count(0)
    page.keyboard.press("m")
    expect(pane(page, "Strips over time")).to_be_visible()
    arranged = titles(page)
    processes.wait_for(lambda: first_kept(setup) == "statistics", "the pages to be kept")
    page.reload()
    pane(page, "Strips over time").wait_for()
    found = titles(page)
    assert found == arranged, (found, arranged)


def test_by_mouse_a_pane_is_dragged_a_channel_dropped_and_an_axis_typed(
    open_browser, application, setup
):
    page = open_record(open_browser, application, setup, "technician")
    before = titles(page)
    assert before[0] == "Strips over time"
    xy = pane(page, "One channel over another")
    xy.hover()
    grip = xy.locator("[draggable]")
    grip.hover()
    page.mouse.down()
    box = pane(page, "Strips over time").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 20, steps=5)
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 30, steps=3)
    page.mouse.up()
    expect(
        page.get_by_role("region", name="Live plots").locator("section").first
    ).to_have_attribute("aria-label", "One channel over another")
    # A channel from the bench strip takes the place of the one that goes up.
    tile = page.get_by_role("button", name=re.compile("^SG2")).first
    tile.hover()
    page.mouse.down()
    box = pane(page, "One channel over another").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, steps=8)
    page.mouse.up()
    expect(page.get_by_role("figure", name="SG2 over e clip")).to_be_visible()
    xy = pane(page, "One channel over another")
    xy.get_by_role("button", name="Upper end of SG2").dblclick()
    xy.get_by_role("textbox", name="Upper end of SG2").fill("4000")
    page.keyboard.press("Enter")

    def typed():
        return [
            p["options"].get("high y")
            for one in kept(setup)
            for row in one["rows"]
            for column in row["columns"]
            for p in column["panes"]
        ]

    processes.wait_for(lambda: 4000 in typed(), "the typed end")


def test_each_sees_own_pages_and_what_is_given_to_everybody(open_browser, application, setup):
    mine = open_record(open_browser, application, setup, "engineer")
    mine.get_by_role("button", name="Pages", exact=True).click()
    mine.get_by_role("button", name="New page").click()
    mine.get_by_label("Name of this page").fill("For the pull")
    mine.keyboard.press("Enter")
    expect(mine.get_by_role("tab", name="For the pull")).to_have_attribute("aria-selected", "true")
    other = open_record(open_browser, application, setup, "reviewer")
    expect(other.get_by_role("tab")).to_have_count(1)
    mine.get_by_role("button", name="Give these to everybody").click()
    expect(mine.get_by_text("These pages are what everybody sees.")).to_be_visible()
    other.reload()
    expect(other.get_by_role("tab", name="For the pull")).to_be_visible()
    other.keyboard.press("]")
    expect(other.get_by_role("tab", name="For the pull")).to_have_attribute("aria-selected", "true")


def test_plots_stand_still_while_readings_go_on(open_browser, application, setup):
    page = open_record(open_browser, application, setup, "reviewer")
    reading = page.get_by_role("region", name="Readings and controls").get_by_role("group").first
    page.keyboard.press("s")
    expect(page.get_by_text("The plots stand still")).to_be_visible()
    picture = pane(page, "Strips over time").screenshot()
    before = reading.inner_text()
    expect(reading).not_to_have_text(before)
    assert pane(page, "Strips over time").screenshot() == picture
    page.keyboard.press("s")
    expect(page.get_by_text("The plots stand still")).to_have_count(0)
