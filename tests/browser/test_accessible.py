"""What axe-core finds on each page, by day and by night: nothing serious."""

import re

from axe_playwright_python.sync_playwright import Axe

from tests.browser.test_walk import open_setup, stage

SETTLE = 800  # ms
ALL = {"resultTypes": ["violations"]}
OF_COLOURS = ALL | {"runOnly": ["color-contrast", "link-in-text-block"]}  # differ by night
STAGES = ("Wire", "Calibrate", "Record", "Derive", "Report")


def serious(page, rules):
    """What is wrong, where; each at least serious."""
    page.wait_for_timeout(SETTLE)
    found = Axe().run(page, options=rules).response["violations"]
    return [
        f"{v['id']}: {n['target']}"
        for v in found
        if v["impact"] in ("serious", "critical")
        for n in v["nodes"]
    ]


def test_no_page_keeps_anybody_out(open_browser, setup):
    page = open_browser("engineer")
    look_at_all(page, ALL)
    page.get_by_role("link", name="Projects").click()
    # The menu of the page that is left would go with it.
    page.get_by_role("button", name=re.compile("^Tube coupons")).wait_for()
    page.get_by_role("button", name="Engineer", exact=True).click()
    page.get_by_role("menuitem", name="Night colours").click()
    look_at_all(page, OF_COLOURS)


def look_at_all(page, rules):
    page.get_by_role("button", name=re.compile("^Tube coupons")).click()
    page.get_by_role("button", name="New setup").click()
    assert serious(page, rules) == []
    open_setup(page)
    for name in STAGES:
        stage(page, name)
        assert serious(page, rules) == [], name
    stage(page, "Record")
    page.get_by_role("button", name="Pages", exact=True).click()
    assert serious(page, rules) == [], "Pages"
    page.get_by_role("link", name="Signal check").click()
    assert serious(page, rules) == [], "Signal check"
    stage(page, "Wire")
    for name in ("Table", "Library"):
        page.get_by_role("radio", name=name).click()
        assert serious(page, rules) == [], name
