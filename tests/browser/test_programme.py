"""A programme of legs in the real interface: on paper, under way, a marker and a pause by keys."""

import re

import pytest
from playwright.sync_api import expect
from yoke_server.demo.services import load_fork
from yoke_server.record.models import Cause, Marker, Run

from tests import processes
from tests.browser.conftest import SPEED

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def rig():
    with processes.rig(SPEED, 7, "fork", "--discoverable") as found:
        yield found


@pytest.fixture
def setup(db):
    """The fork's fatigue test, which is a programme."""
    return next(s for s in load_fork() if s.name == "Fatigue")


def put_on_bench(page):
    page.get_by_role("button", name="Take the yoke").first.click()
    page.get_by_role("button", name="Put Fatigue on the bench").click()


def test_legs_a_marker_and_a_pause_by_keyboard(open_browser, application, setup):
    page = open_browser("technician")
    page.goto(f"{application}/setups/{setup.pk}/record")
    page.get_by_text("On paper:").wait_for()
    put_on_bench(page)
    expect(page.get_by_role("button", name="Start the programme")).to_be_enabled()
    page.keyboard.press("F8")
    legs = page.get_by_role("region", name="Legs")
    legs.wait_for()
    page.keyboard.press("F10")
    page.keyboard.type("sound at crown")
    page.keyboard.press("Enter")
    page.get_by_role("list", name="Markers").get_by_text("sound at crown").wait_for()
    page.keyboard.press("F9")
    expect(page.get_by_role("heading", name="Paused")).to_be_visible()
    expect(legs.get_by_text("held", exact=True)).to_be_visible()
    page.keyboard.press("F9")
    # A recorder that was held up by a busy computer holds the programme, and records on.
    going = page.get_by_role("heading", name=re.compile("^(Recording|Held)$"))
    expect(going).to_be_visible()
    run = Run.objects.get(setup=setup)
    paused = run.streams.get(device_label="A3", rule="everything").segments.filter(
        cause=Cause.PAUSE
    )
    processes.wait_for(paused.exists, "samples after the pause")
    page.keyboard.press("F8")
    processes.wait_for(lambda: Run.objects.filter(pk=run.pk, state="kept").exists(), "its end")
    kinds = set(Marker.objects.filter(run=run).values_list("kind", flat=True))
    assert kinds >= {"person", "pause"}
    assert paused.count() == 1
