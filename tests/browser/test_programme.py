"""A programme of legs in the real interface: marker, pause, a guard that trips, a gentle end."""

import pytest
from playwright.sync_api import expect
from yoke_server.demo.services import load_fork
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.record.models import Cause, Marker, Run
from yoke_server.setups.services import keep_revision

from tests import processes
from tests.browser.conftest import SPEED

pytestmark = pytest.mark.django_db(transaction=True)
STRAIN = 200e-6  # which the crown, not zeroed, passes in the first cycles and not before


@pytest.fixture
def rig():
    with processes.rig(SPEED, 7, "fork", "--discoverable") as found:
        yield found


@pytest.fixture
def setup(db):
    """The fork's fatigue test, with a guard of the crown that holds."""
    made = next(s for s in load_fork() if s.name == "Fatigue")
    assert made.name == "Fatigue"
    crown = made.channels.get(name="R1b")
    made.guards = [
        *(g for g in made.guards if g.channel != crown.key),
        Outside(channel=crown.key, highest=STRAIN, action=GuardAction.HOLD),
    ]
    made.save()
    keep_revision(None, made, "test")
    return made


def put_on_bench(page):
    page.get_by_role("button", name="Take the yoke").first.click()
    page.get_by_role("button", name="Put Fatigue on the bench").click()


def test_legs_a_marker_a_pause_and_a_guard_by_keyboard(open_browser, application, setup):
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
    page.keyboard.press("F9")
    for _ in range(20):  # a recorder that was held up by a busy computer holds it too
        expect(page.get_by_role("heading", name="Held")).to_be_visible()
        if Marker.objects.filter(kind="guard").exists():
            break
        page.keyboard.press("F9")
        page.wait_for_timeout(1000)
    refused = page.get_by_role("button", name="Go on")
    expect(refused).to_be_visible()
    legs.get_by_role("button", name="End gently").press("Enter")
    expect(page.get_by_role("heading", name="Recording")).to_be_hidden()
    run = Run.objects.get(setup=setup)
    processes.wait_for(lambda: Run.objects.filter(pk=run.pk, state="kept").exists(), "its end")
    kinds = set(Marker.objects.filter(run=run).values_list("kind", flat=True))
    assert kinds == {"person", "guard", "pause", "programme"}
    tripped = Marker.objects.get(run=run, kind="guard")
    assert tripped.text.startswith("R1b went above 200 µm/m to ")
    causes = set(run.streams.get(device_label="A3").segments.values_list("cause", flat=True))
    assert Cause.PAUSE in causes
    assert Cause.GAP not in causes
