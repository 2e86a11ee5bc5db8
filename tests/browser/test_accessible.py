"""What axe-core finds on each page, by day and by night: nothing serious."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe

from tests.browser.test_walk import open_setup, stage

SETTLE = 800  # ms
STAGES = ("Wire", "Calibrate", "Record", "Derive", "Report")


def serious(page):
    """What is wrong, where; each at least serious."""
    page.wait_for_timeout(SETTLE)
    found = Axe().run(page, options={"resultTypes": ["violations"]}).response["violations"]
    return [
        f"{v['id']}: {n['target']}"
        for v in found
        if v["impact"] in ("serious", "critical")
        for n in v["nodes"]
    ]


@pytest.mark.parametrize("colours", ["day", "night"])
def test_no_page_keeps_anybody_out(open_browser, setup, colours):
    page = open_browser("engineer")
    if colours == "night":
        page.get_by_role("button", name="Engineer", exact=True).click()
        page.get_by_role("menuitem", name="Night colours").click()
    page.get_by_role("button", name=re.compile("^Tube coupons")).click()
    page.get_by_role("button", name="New setup").click()
    assert serious(page) == []
    open_setup(page)
    for name in STAGES:
        stage(page, name)
        assert serious(page) == [], name
    stage(page, "Wire")
    for name in ("Table", "Library"):
        page.get_by_role("radio", name=name).click()
        assert serious(page) == [], name
