"""The signal check in the real interface: a hum is found, named, and its remedy taken."""

import pytest
from playwright.sync_api import expect
from yoke_server.setups.models import Channel

from tests import processes

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_hum_is_found_by_keyboard_and_rejected(open_browser, application, setup, rig):
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/record")
    page.get_by_role("button", name="Take the yoke").first.click()
    page.get_by_role("link", name="Signal check").press("Enter")
    expect(page.get_by_role("heading", name="Signal check")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_text("4 well")).to_be_visible()
    sg1 = setup.channels.get(name="SG1")
    rig.tell("A1", f'TEST:FAULt{sg1.input.number} "hum 2e-6"')
    page.keyboard.press("Enter")
    row = page.get_by_role("row").filter(has_text="SG1")
    expect(row.get_by_text("hum at 50 Hz")).to_be_visible()
    detail = page.get_by_role("complementary", name="Signal of SG1")
    expect(detail.get_by_text("Means over 20 ms")).to_be_visible()
    detail.get_by_role("button", name="Reject mains in SG1").click()
    expect(detail.get_by_text("has mains rejection already")).to_be_visible()

    def steps():
        return [s.kind for s in Channel.objects.get(pk=sg1.pk).steps]

    processes.wait_for(lambda: steps() == ["mains_rejection"], "the step")
    expect(page.get_by_label("Which check").locator("option")).to_have_count(2)
