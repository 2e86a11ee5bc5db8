"""Programmes and guards of a setup: what is refused, what is played on paper, what a run shows."""

import pytest
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.hold import HoldLeg
from yoke_server.kinds.legs.repeat import RepeatLeg
from yoke_server.kinds.legs.travel import TravelLeg
from yoke_server.kinds.legs.wait import WaitLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.motions.paper import played
from yoke_server.record.models import MarkerKind, Run
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.work import Mark

from tests.recorded import START, begin

pytestmark = pytest.mark.django_db
JSON = "application/json"

UP = {"kind": "to_force", "force_n": 1000.0, "rate_n_s": 200.0}
HOLD = {"kind": "hold", "seconds": 5.0}
WAVE = {
    "kind": "wave", "shape": "sine", "lowest_n": 200.0, "highest_n": 1800.0, "frequency_hz": 2.0,
    "cycles": 10,
}  # fmt: skip


def repeat(first):
    return {"kind": "repeat", "first": first, "times": 2}


def programme(*legs):
    return {"motion": {"kind": "programme", "legs": list(legs), "unload_n_s": 200.0}}


@pytest.fixture
def client(driving):
    return driving("engineer")


def change(client, setup, body):
    return client.patch(f"/api/setups/{setup.pk}", body, JSON)


@pytest.mark.parametrize(
    ("body", "field", "said"),
    [
        (programme(), "motion.legs", ""),
        (programme(repeat(1)), "motion.legs", "repeats nothing"),
        (programme(UP, repeat(2)), "motion.legs", "repeats nothing"),
        (programme(UP, repeat(1), repeat(2)), "motion.legs", "leg 3 repeats nothing"),
        (programme({**WAVE, "highest_n": 100.0}), "legs.0.highest_n", "above the lowest"),
        (programme({**WAVE, "cycles": 0}), "legs.0.cycles", "1"),
        (programme({**UP, "rate_n_s": 0.0}), "legs.0.rate_n_s", ""),
        (programme({**HOLD, "seconds": float("1e9")}), "legs.0.seconds", ""),
        (programme({"kind": "wait", "text": " "}), "legs.0.text", ""),
        (programme({"kind": "dance"}), "legs.0", ""),
        ({"guards": [{"kind": "outside", "channel": "x"}]}, "guards.0", "lowest or a highest"),
        (
            {"guards": [{"kind": "outside", "channel": "x", "lowest": 2.0, "highest": 1.0}]},
            "guards.0",
            "below highest",
        ),
        (
            {"guards": [{"kind": "too_fast", "channel": "x", "per_s": 0.0}]},
            "guards.0.per_s",
            "",
        ),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_where_it_stands(client, setup, body, field, said):
    answer = change(client, setup, body)
    assert answer.status_code == 422, answer.content
    problem = answer.json()
    assert field in problem["field"], problem
    assert said in problem["title"] + problem.get("hint", "")


def issues(client, setup, code):
    listed = client.get(f"/api/setups/{setup.pk}").json()["preflight"]
    return [(i["text"], i["blocks"]) for i in listed if i["code"] == code]


def test_a_bench_that_moves_asks_for_guards_with_what_its_sensor_bears(client, setup):
    force = setup.channels.get(name="F")
    answer = change(client, setup, {"guards": []})
    assert answer.status_code == 200, answer.content
    ((text, blocks),) = issues(client, setup, "no_guard")
    assert text == "No guard looks at F, which something that moves may overload."
    assert not blocks
    (proposed,) = answer.json()["proposed_guards"]
    assert (proposed["channel"], proposed["action"]) == (force.key, "hold")
    assert proposed["highest"] == pytest.approx(25e3)  # its capacity
    assert change(client, setup, {"guards": [proposed]}).status_code == 200
    assert issues(client, setup, "no_guard") == []
    change(client, setup, {"guards": [], "motion": {"kind": "none"}})
    assert issues(client, setup, "no_guard") == []


def test_a_programme_beyond_a_guard_is_not_begun(client, setup):
    force = setup.channels.get(name="F")
    guard = {"kind": "outside", "channel": force.key, "highest": 1500.0}
    answer = change(client, setup, {**programme(UP, WAVE), "guards": [guard]})
    assert answer.status_code == 200, answer.content
    said = "The programme goes to 1800 N; F is guarded at 1500 N."
    assert (said, True) in issues(client, setup, "stop_unfit")
    assert answer.json()["paper"]["highest"] == 1800.0


def test_a_guard_of_a_channel_that_is_gone_is_named(client, setup):
    guard = {"kind": "outside", "channel": "gone", "highest": 1.0}
    change(client, setup, {"guards": [guard]})
    assert [blocks for _, blocks in issues(client, setup, "stop_unfit")] == [True]


def test_on_paper_repeats_are_counted_and_a_person_takes_as_long_as_it_takes():
    up = ForceLeg(force_n=1000.0, rate_n_s=500.0)
    wave = WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=2.0, cycles=10)
    down = ForceLeg(force_n=0.0, rate_n_s=500.0)
    hold = HoldLeg(seconds=3.0)
    found = played([up, hold, wave, RepeatLeg(first=2, times=3), down])
    # 2 s up, three times 3 s and 5 s, and from the middle of the wave 2 s down
    assert found.seconds == pytest.approx(2 + 3 * (3 + 5) + 2)
    assert (found.cycles, found.lowest, found.highest) == (30, 0.0, 1800.0)
    assert [leg.end for leg in found.legs] == [1000.0, 1000.0, 1000.0, 1000.0, 0.0]
    assert played([up, WaitLeg(text="turn it"), down]).seconds is None
    assert played([TravelLeg(travel_m=1e-3, speed_m_s=1e-3)]).seconds is None


def test_repeats_within_repeats_are_counted_too():
    hold = HoldLeg(seconds=1.0)
    inner = [hold, RepeatLeg(first=1, times=3)]
    assert played([*inner, RepeatLeg(first=1, times=4)]).seconds == pytest.approx(12.0)


def test_a_programme_longer_than_can_be_played_says_no_time():
    legs = [HoldLeg(seconds=1.0), RepeatLeg(first=1, times=10**6)]
    assert played(legs).seconds is None


def test_markers_are_written_once_and_listed_newest_first(client, setup):
    run = begin(setup)
    session = PostgresRuns(setup.bench_id)
    key = "00000000-0000-0000-0000-00000000000a"
    noted = Mark(run.pk, key, START + 2 * 10**9, MarkerKind.PERSON, "sound", None)
    for _ in range(2):
        session.add_mark(noted)
    other = key[:-1] + "b"
    session.add_mark(Mark(run.pk, other, START + 5 * 10**9, MarkerKind.GUARD, "beyond: held"))
    found = client.get(f"/api/runs/{run.pk}/markers").json()
    assert [(m["at_s"], m["kind"], m["text"]) for m in found["items"]] == [
        (5.0, "guard", "beyond: held"),
        (2.0, "person", "sound"),
    ]


@pytest.mark.parametrize("path", ["commands", "markers"])
def test_a_run_that_is_over_takes_nothing_more(client, setup, path):
    run = begin(setup)
    Run.objects.update(state="kept")
    body = {"command": "pause"} if path == "commands" else {"text": "late"}
    answer = client.post(f"/api/runs/{run.pk}/{path}", body, JSON)
    assert (answer.status_code, answer.json()["title"]) == (
        409,
        f"{run.name} is no longer recorded.",
    )


def test_commands_need_the_yoke_and_markers_do_not(as_role, setup, settings):
    settings.ORDER_SECONDS = 0.05  # no recorder is there
    run, client = begin(setup), as_role("technician")
    command = client.post(f"/api/runs/{run.pk}/commands", {"command": "pause"}, JSON)
    assert "yoke" in command.json()["title"].lower()
    marker = client.post(f"/api/runs/{run.pk}/markers", {"text": "sound"}, JSON)
    assert "yoke" not in marker.json()["title"].lower()


def test_a_duplicated_setup_guards_its_own_channels(client, setup):
    copied = client.post(f"/api/setups/{setup.pk}/duplicate", {}, JSON)
    assert copied.status_code in (200, 201), copied.content
    made = type(setup).objects.latest("pk")
    (guard,) = made.guards
    assert guard.channel == made.channels.get(name="F").key != setup.guards[0].channel


def test_a_guard_is_let_pass_between_its_bounds_only():
    guard = Outside(channel="x", lowest=-1.0, action=GuardAction.WARN)
    assert guard.bounds == (-1.0, float("inf"))
