"""Five coupons over each other in the real interface: aligned, read at cursors, and a window."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect
from yoke_server.derive.models import CurvePage

from tests import processes
from tests.recorded import FULL, PER_BLOCK, begin, block, close, keeper, stream_of

pytestmark = pytest.mark.django_db(transaction=True)
BLOCKS, SLIPPED = 40, 4


def coupon(setup, number):
    """A pull that begins at a time of its own; the fourth reads a tenth more."""
    run = begin(setup, number)
    one = keeper(run, stream_of(run))
    for at in range(BLOCKS):
        t = (at * PER_BLOCK + np.arange(PER_BLOCK)) / 1000.0
        pull = np.clip(0.2 * (t - 0.3 * number), 0, 0.3) * (1.1 if number == SLIPPED else 1)
        counts = np.round(FULL * np.repeat(pull[:, None], 8, axis=1)).astype(np.int32)
        one.take(block(at, counts))
    return close(run, one)


@pytest.fixture
def runs(setup):
    return [coupon(setup, number) for number in range(1, 6)]


def test_five_coupons_are_aligned_read_and_kept(open_browser, application, setup, runs):
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/derive")
    page.get_by_role("link", name="Over each other").click()
    listed = page.get_by_role("region", name="Runs").get_by_role("checkbox")
    expect(listed).to_have_count(5)
    page.get_by_label("Aligned at").select_option(label="a threshold")
    page.get_by_label("Channel of the alignment").select_option("F")
    page.get_by_label("Level").fill("1")
    page.keyboard.press("Enter")
    # Aligned, all read the same at a cursor while they rise.
    cursor = page.get_by_role("slider", name="Cursor A").first
    cursor.focus()
    at_cursors = page.get_by_role("complementary", name="At the cursors")
    rows = at_cursors.get_by_role("row").filter(has_text=re.compile(r"^C\d|run \d"))
    expect(rows).to_have_count(10)  # of two channels
    page.get_by_role("button", name="Window", exact=True).click()
    table = page.get_by_role("region", name="Window").get_by_role("table")
    expect(table.get_by_role("row").filter(has_text="Mean of 5")).to_be_visible()
    before = variation(table)
    name = page.get_by_role("button", name=runs[SLIPPED - 1].name, exact=True)
    name.click()
    page.get_by_label("Left out because").fill("the clamp slipped")
    page.keyboard.press("Enter")
    expect(table.get_by_role("row").filter(has_text="Mean of 4")).to_be_visible()
    expect(table.get_by_text("left out, not counted")).to_be_visible()
    assert variation(table) < before
    # The window follows by keys, and its table with it.
    mean = table.get_by_role("row").filter(has_text="Mean of 4")
    words = mean.inner_text()
    page.get_by_role("slider", name="Begin of the window").first.focus()
    for _ in range(20):
        page.keyboard.press("ArrowLeft")
    expect(mean).not_to_have_text(words)
    page.get_by_label("Name of the page").fill("Five coupons")
    page.keyboard.press("Enter")
    processes.wait_for(lambda: CurvePage.objects.filter(name="Five coupons").exists(), "the page")
    page.reload()
    page.get_by_label("Kept pages").select_option(label="Five coupons")
    expect(page.get_by_role("row").filter(has_text="Mean of 4")).to_be_visible()
    expect(page.get_by_label("Aligned at")).to_have_value("threshold")


def variation(table):
    """The coefficient of variation of the mean, in per cent."""
    cells = table.get_by_role("row").filter(has_text="Variation").get_by_role("cell")
    return float(cells.nth(2).inner_text().replace("−", "-"))


def test_zooms_go_back_by_keys_and_what_is_drawn_is_saved(open_browser, application, setup, runs):
    page = open_browser("reviewer")
    page.goto(f"{application}/setups/{setup.pk}/derive/curves")
    plots = page.get_by_role("group", name="Plots")
    plots.focus()
    page.keyboard.press("+")
    expect(page.get_by_role("button", name="All of it")).to_be_enabled()
    page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="Back").click()
    expect(page.get_by_role("button", name="Forward")).to_be_enabled()
    page.get_by_role("button", name="All of it").click()
    page.get_by_role("button", name="Save").click()
    with page.expect_download() as got:
        page.get_by_role("button", name="CSV of what is drawn").click()
    text = got.value.path().read_text()
    assert text.startswith("run,channel,unit")
    assert len({line.split(",")[0] for line in text.splitlines()[1:]}) == 5
    with page.expect_download() as got:
        page.get_by_role("button", name="SVG").click()
    assert got.value.path().read_text().startswith("<svg")
    with page.expect_download() as got:
        page.get_by_role("button", name="PNG").click()
    assert got.value.path().read_bytes().startswith(b"\x89PNG")
