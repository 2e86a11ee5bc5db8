"""What a run keeps, and from when on, in the real interface and by keys: a triggered pull, a dry
run, keep rules, a guard that trips, a sweep with its table."""

from itertools import pairwise

import pytest
from playwright.sync_api import expect
from yoke_server.demo.services import load_fork
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.guards.too_fast import TooFast
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.sweep import SweepLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.triggers.level import Level
from yoke_server.record.models import Marker, Run
from yoke_server.setups.services import keep_revision

from tests import processes
from tests.browser.conftest import SPEED

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def rig():
    with processes.rig(SPEED, 7, "fork", "--discoverable") as found:
        yield found


@pytest.fixture
def setup(db):
    """The fork's fatigue test, which is a programme with keep rules."""
    return next(s for s in load_fork() if s.name == "Fatigue")


def change(setup, **changes):
    setup.refresh_from_db()  # it may have come onto its bench meanwhile
    for name, value in changes.items():
        setattr(setup, name, value)
    setup.save()
    keep_revision(None, setup, "for this test")


def opened(open_browser, application, setup):
    page = open_browser("technician")
    page.goto(f"{application}/setups/{setup.pk}/record")
    page.get_by_text("On paper:").wait_for()
    page.get_by_role("button", name="Take the yoke").first.click()
    page.get_by_role("button", name="Put Fatigue on the bench").click()
    expect(page.get_by_role("button", name="Start the programme")).to_be_enabled()
    return page


def heading(page, words):
    return page.get_by_role("heading", name=words, exact=True)


def ended():
    """A run was begun, and is over."""
    runs = Run.everything
    processes.wait_for(runs.exists, "its begin")
    processes.wait_for(lambda: not runs.filter(state="recording").exists(), "its end")


def test_a_triggered_run_keeps_from_before_its_trigger(open_browser, application, setup):
    force = setup.channels.get(name="F axle")
    level = Level(channel=force.key, level=700.0, hysteresis=100.0, before_s=0.5)
    change(setup, trigger=level)
    page = opened(open_browser, application, setup)
    page.keyboard.press("F8")
    expect(heading(page, "Waiting for trigger")).to_be_visible()
    expect(heading(page, "Recording")).to_be_visible()
    rules = page.get_by_role("region", name="Keep rules")
    expect(rules.get_by_text("each cycle of F axle")).to_be_visible()
    page.keyboard.press("F8")
    ended()
    run = Run.objects.get(setup=setup)
    (marker,) = Marker.objects.filter(run=run, kind="trigger")
    assert marker.text == "Trigger: F axle rises above 0.7 kN"
    assert 0.4e9 < marker.at_ns - run.start_ns < 1.5e9 * SPEED


def test_a_dry_run_by_its_key_leaves_nothing(open_browser, application, setup):
    page = opened(open_browser, application, setup)
    page.keyboard.press("F6")
    expect(heading(page, "Dry run")).to_be_visible()
    page.get_by_role("region", name="Legs").wait_for()
    page.keyboard.press("F8")
    ended()
    assert not Run.objects.exists()
    expect(page.get_by_text("None yet.")).to_be_visible()


def test_a_guard_that_trips_holds_and_says_so(open_browser, application, setup):
    force = setup.channels.get(name="F axle")
    legs = [ForceLeg(force_n=1500.0, rate_n_s=500.0)]
    guard = Outside(channel=force.key, highest=900.0, action=GuardAction.HOLD)
    change(setup, motion=Programme(legs=[ForceLeg(force_n=800.0, rate_n_s=500.0)]))
    page = opened(open_browser, application, setup)
    # Played on paper a leg beyond a guard does not start: one that comes down to it does.
    change(setup, motion=Programme(legs=legs), guards=[guard])
    page.reload()
    refused = page.get_by_text("The programme goes to 1500 N; F axle is guarded at 900 N.")
    expect(refused.first).to_be_visible()
    wide = Outside(channel=force.key, lowest=-500.0, highest=2000.0, action=GuardAction.HOLD)
    slow = TooFast(channel=force.key, per_s=300.0, over_s=0.2, action=GuardAction.HOLD)
    change(setup, guards=[wide, slow])
    page.reload()
    expect(page.get_by_role("button", name="Start the programme")).to_be_enabled()
    page.keyboard.press("F8")
    expect(heading(page, "Held")).to_be_visible()
    markers = page.get_by_role("list", name="Markers")
    expect(markers.get_by_text("F axle changed by").first).to_be_visible()
    page.keyboard.press("F8")
    ended()


def test_a_sweep_fills_its_table(open_browser, application, setup):
    sweep = SweepLeg(from_n=200.0, to_n=600.0, steps=3, rate_n_s=500.0, settle_s=1.0, average_s=1.0)
    change(setup, motion=Programme(legs=[sweep, ForceLeg(force_n=0.0, rate_n_s=500.0)]))
    page = opened(open_browser, application, setup)
    page.keyboard.press("F8")
    ended()
    table = page.get_by_role("region", name="Table of steps")
    expect(table.get_by_text("Step 3: 600 N")).to_be_visible()
    rows = page.request.get(f"{application}/api/runs/{Run.objects.get().pk}/steps").json()
    force = setup.channels.get(name="F axle").key
    means = [next(a for a in row["averages"] if a["channel"] == force)["mean"] for row in rows]
    ways = [after - before for before, after in pairwise(means)]  # it was not zeroed
    assert ways == pytest.approx([200.0, 200.0], abs=5.0)


def test_a_run_is_discarded_with_a_reason_and_restored(open_browser, application, setup):
    change(setup, motion=Programme(legs=[ForceLeg(force_n=100.0, rate_n_s=500.0)]))
    page = opened(open_browser, application, setup)
    page.keyboard.press("F8")
    ended()
    name = Run.objects.get().name
    page.get_by_role("button", name=f"Discard {name}").click()
    page.keyboard.type("the grips slipped")
    page.keyboard.press("Enter")
    page.get_by_text("1 discarded").click()
    assert not Run.objects.exists()
    page.get_by_role("button", name="Restore").click()
    expect(page.get_by_role("button", name=f"Discard {name}")).to_be_visible()


ROAD = "time (s); force (kN)\n" + "\n".join(f"{0.5 * i}; {0.4 + 0.2 * (i % 3)}" for i in range(12))


def test_a_history_from_a_file_until_a_guard_takes_the_load_off(open_browser, application, setup):
    """Of the second specimen of a batch, with what is asked for first; told to who comes back."""
    force = setup.channels.get(name="F axle")
    slow = TooFast(channel=force.key, per_s=330.0, over_s=0.2, action=GuardAction.UNLOAD)
    change(setup, motion=Programme(legs=[ForceLeg(force_n=300.0, rate_n_s=200.0)]), guards=[slow])
    page = opened(open_browser, application, setup)
    panel = page.get_by_role("region", name="Programme")
    for label, text in (("Specimens", "FK-1; FK-2"), ("Asked at the start", "Humidity")):
        panel.get_by_label(label).fill(text)
        page.keyboard.press("Enter")
    panel.get_by_role("button", name="FK-2").click()
    panel.get_by_label("One leg more").select_option(label="History from a file")
    file = {"name": "road.csv", "mimeType": "text/csv", "buffer": ROAD.encode()}
    panel.locator("input[type=file]").set_input_files(file)
    panel.get_by_text("road.csv, 12 forces").wait_for()
    page.get_by_role("button", name="Start the programme").click()
    page.get_by_role("dialog", name="Before FK-2 run 1 begins").wait_for()
    page.keyboard.type("45 %")
    page.keyboard.press("Enter")
    ended()
    run = Run.objects.get()
    assert (run.state, run.answers) == ("kept", {"Humidity": "45 %"})
    (trip,) = Marker.objects.filter(run=run, kind="guard")
    assert trip.text.endswith(": goes to no load")
    page.goto(f"{application}/setups/{setup.pk}/derive")
    page.get_by_text("45 %").wait_for()
    page.goto(application)
    told = page.get_by_role("region", name="Since you last looked")
    told.get_by_text("FK-2 run 1 trips").wait_for()
    told.get_by_role("button", name="I have seen it").click()
    expect(told).to_have_count(0)


def test_who_comes_back_sees_how_far_it_has_gone(open_browser, application, setup):
    wave = WaveLeg(lowest_n=200.0, highest_n=1200.0, frequency_hz=4.0, cycles=8, held_within=0.1)
    change(setup, motion=Programme(legs=[ForceLeg(force_n=700.0, rate_n_s=500.0), wave]))
    page = opened(open_browser, application, setup)
    page.keyboard.press("F8")
    ended()
    page.goto(application)
    told = page.get_by_role("region", name="Since you last looked")
    told.get_by_text("cycles since").wait_for()
    (found,) = page.request.get(f"{application}/api/since").json()["drifts"]
    assert found["cycles"] == found["cycles_in_all"] >= 6
    force = next(d for d in found["drifts"] if d["channel"] == "F axle")
    assert force["now"] == pytest.approx(1.2, abs=0.1)
    assert force["unit"] == "kN"


def test_a_second_screen_shows_it_from_afar_and_changes_nothing(open_browser, application, setup):
    page = opened(open_browser, application, setup)
    page.keyboard.press("F8")
    expect(heading(page, "Recording")).to_be_visible()
    wall = open_browser("reviewer")
    wall.goto(f"{application}/setups/{setup.pk}/far")
    expect(wall.get_by_role("region", name="F axle")).to_be_visible()
    expect(heading(wall, "Recording")).to_be_visible()
    expect(wall.get_by_text("guards inside")).to_be_visible()
    expect(wall.get_by_role("button", name="Stop recording")).to_have_count(0)
    wall.get_by_role("button", name="Readings").click()
    wall.get_by_role("checkbox", name="B1").click()
    expect(wall.get_by_role("region", name="B1")).to_be_visible()
    wall.reload()
    expect(wall.get_by_role("region", name="B1")).to_be_visible()
    page.keyboard.press("f")
    page.get_by_role("button", name="Stop recording").click()
    ended()
    expect(wall.get_by_text("guards inside")).to_have_count(0)
