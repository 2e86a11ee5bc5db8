"""Small rules: run names, preflight gaps, units, scaling figures, people."""

import json
from dataclasses import asdict
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from yoke_core.tension.results import ModulusLine, StressPoint, TensionResult
from yoke_server.bench.models import Link
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import factor, from_si
from yoke_server.derive.kinds.tension.compute import values_of
from yoke_server.derive.kinds.tension.spec import TensionParameters
from yoke_server.derive.models import Result
from yoke_server.kinds.chain import chain_of, per_signal
from yoke_server.kinds.specimens.area import AreaPiece
from yoke_server.kinds.specimens.flat import FlatPiece
from yoke_server.kinds.specimens.round_bar import RoundPiece
from yoke_server.kinds.specimens.tube import TubePiece
from yoke_server.record.preflight import preflight_issues
from yoke_server.report.words import channel_rows, result_rows
from yoke_server.sensors.models import Sensor
from yoke_server.setups.document import FrozenSetup, polarity_of, read_document
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Balance, Setup, ShuntCalibration
from yoke_server.setups.naming import free_name, next_name, run_name

from tests import recorded

GOLDEN = Path(__file__).with_name("golden")


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{specimen} run {number}", "C1 run 12"),
        ("{setup}-{number}", "Tension-12"),
        ("plain", "plain"),
        ("{project} {number:3}", "Coupons 012"),
        ("{number:04}", "0012"),
        ("{specimen}" * 60, ("C1" * 60)[:80]),
    ],
)
def test_run_names_follow_the_pattern(pattern, name):
    assert run_name(pattern, specimen="C1", number=12, setup="Tension", project="Coupons") == name


@pytest.mark.parametrize(
    "pattern",
    [
        "{operator}",
        "{0}",
        "{specimen.pk}",
        "{",
        "{specimen!r}",
        "{number:>{n}}",
        "{number:>9}",
        "{number:9}",
        "{setup:3}",
    ],
)
def test_patterns_reach_nothing_but_their_fields(pattern):
    with pytest.raises(Problem) as caught:
        run_name(pattern, specimen="C1", number=1, setup="Tension", project="Coupons")
    assert caught.value.field == "run_name_pattern"


def test_preflight_names_each_gap_and_where_to_mend_it(setup):
    setup.bench.devices.filter(label="A1").update(link=Link.LOST, link_note="no samples arrive")
    texts = {g.text: (g.code, g.stage, g.blocks) for g in preflight_issues(setup)}
    assert texts["F is not zeroed."] == ("not_zeroed", "calibrate", False)
    assert texts["A1 is not linked: no samples arrive"] == ("not_linked", "wire", False)
    assert "Load frame is not linked: it has not answered yet" in texts
    recorded.record(setup, [recorded.block(0)])
    used = "C1 was pulled already: name the next specimen."
    assert used in {g.text for g in preflight_issues(setup)}


@pytest.mark.parametrize(
    ("state", "words"),
    [
        ({"motion": "HOLD", "home": False}, "The actuator is not home."),
        ({"motion": "RETURN", "home": False}, "The actuator is moving."),
        ({"motion": "HOLD", "home": True}, None),
        ({"motion": "", "home": False}, None),
    ],
)
def test_an_actuator_away_from_home_keeps_a_run_from_starting(as_role, setup, state, words):
    setup.bench.state = state
    setup.bench.save()
    found = [
        g for g in preflight_issues(Setup.objects.get(pk=setup.pk)) if g.code == "actuator_not_home"
    ]
    assert [(g.text, g.blocks) for g in found] == ([(words, True)] if words else [])
    if words:
        client = as_role("technician")
        client.post(f"/api/benches/{setup.bench_id}/yoke", content_type="application/json")
        url = f"/api/setups/{setup.pk}/runs"
        body = {"version": setup.version}
        answer = client.post(url, body, content_type="application/json")
        assert (answer.status_code, answer.json()["title"]) == (409, words)


@pytest.mark.parametrize(
    ("unit", "si"), [("kN", 1e3), ("N", 1), ("mm", 1e-3), ("µm", 1e-6), ("µm/m", 1e-6), ("%", 0.01)]
)
def test_display_units_on_the_server(unit, si):
    assert factor(unit) == pytest.approx(si)
    assert from_si(si, unit) == pytest.approx(1)


@pytest.mark.django_db
def test_an_unknown_unit_is_named():
    with pytest.raises(ValueError, match="no unit furlongz"):
        factor("furlongz")


LEAD = 1 + 6 * 0.128 / 350  # a core in series with the grid takes its share


def test_scaling_per_signal(setup):
    force, clip, gauge, _ = freeze(setup).channels
    assert per_signal(force) == pytest.approx(1e3 * 12.5e3)
    assert per_signal(clip) == pytest.approx(1e3 * 5e-3)
    assert per_signal(gauge) == pytest.approx(4 / 2.08 * LEAD, rel=1e-5)
    for polarity in ("cores swapped", "turned"):
        turned = gauge.model_copy(update={"polarity": polarity})
        assert per_signal(turned) == pytest.approx(-4 / 2.08 * LEAD, rel=1e-5)


def test_a_gauge_that_counts_the_other_way_is_not_one_with_swapped_cores(setup):
    """A gauge pressed by 0.01 gives -0.0051458 V/V; the bridge's equation bends."""
    gauge = freeze(setup).channels[2].model_copy(update={"zero": 0.0, "tare": None})
    wiring = gauge.wiring.model_copy(update={"lead_length_m": 0.0})
    bare = gauge.model_copy(update={"wiring": wiring})
    t = 2.08 * -0.01
    output = t / (4 + 2 * t)
    readings = {
        polarity: float(chain_of(bare.model_copy(update={"polarity": polarity})).apply(signal))
        for polarity, signal in (
            ("as wired", output),
            ("turned", output),
            ("cores swapped", -output),
        )
    }
    assert readings == pytest.approx({"as wired": -0.01, "turned": 0.01, "cores swapped": -0.01})


@pytest.mark.parametrize(
    ("wired", "reversed", "polarity"),
    [("bridge", True, "cores swapped"), ("loop", True, "turned"), ("bridge", False, "as wired")],
)
def test_what_was_reversed_reads_on_as_it_did(wired, reversed, polarity):
    assert polarity_of({"reversed": reversed, "wiring": {"kind": wired}}) == polarity


def test_a_frozen_setup_outlives_its_rows(setup):
    kept = freeze(setup).model_dump(mode="json")
    setup.channels.all().delete()
    again = FrozenSetup.model_validate(kept)
    assert [c.name for c in again.channels] == ["F", "e clip", "SG1", "SG2"]
    assert again.channel("force").due_on == date(2027, 3, 14)
    assert again.channel("torque") is None


@pytest.mark.parametrize("version", [1, 2, 3, 4, 5, 6, 7])
def test_documents_of_every_version_are_still_read(version):
    kept = json.loads((GOLDEN / f"setup-v{version}.json").read_text())
    assert kept["schema_version"] == version
    setup = read_document(kept)
    assert [c.name for c in setup.channels] == ["F", "e clip", "SG1"]
    assert setup.rates_hz == {"A1": 1000.0}
    force, _, gauge = setup.channels
    assert (force.device_label, force.input_number, round(force.zero, 9)) == ("A1", 1, -1.3e-5)
    assert per_signal(force) == pytest.approx(1e3 * 12.5e3)
    assert (gauge.scaling.gauge_factor, gauge.signal, gauge.tare) == (2.08, "bridge ratio", None)
    assert len({c.key for c in setup.channels}) == 3
    if version > 1:  # the first one did not know its specimen
        assert setup.specimen.piece.area_m2 == pytest.approx(37.5e-6)
    assert setup.motion.speed_m_s == pytest.approx(1.85e-4)
    assert [(s.kind, s.share, s.arm_n) for s in setup.stops] == [("force_drop", 0.4, 500)]
    assert [c.name for c in setup.computed] == (["bending"] if version > 5 else [])
    assert [(s.kind, s.on) for s in gauge.steps] == (
        [("low_pass", True), ("transverse_sensitivity", False)] if version > 6 else []
    )


def test_a_low_battery_is_named_before_a_run(setup):
    setup.bench.devices.filter(label="A1").update(battery=0.25)
    assert "battery_low" not in {issue.code for issue in preflight_issues(setup)}
    setup.bench.devices.filter(label="A1").update(battery=0.151)
    low = next(i for i in preflight_issues(setup) if i.code == "battery_low")
    assert low.text == "The battery of A1 has 15 % left."
    assert not low.blocks


def test_the_reports_channel_rows(setup):
    key = setup.channels.get(name="SG1").key
    Balance.objects.create(setup=setup, channel_key=key, zero=-0.12346e-3)
    ShuntCalibration.objects.create(
        setup=setup, channel_key=key, expected_mv_v=0.8735, measured_mv_v=0.8716
    )
    Sensor.objects.filter(serial="LC-2207").update(due_on=date(2026, 6, 30))
    rows = {r["name"]: r for r in channel_rows(freeze(setup), date(2026, 7, 1))}
    assert rows["F"]["zero"] == "not zeroed"
    assert rows["SG1"]["zero"] == "-0.1235 mV/V"
    assert rows["SG1"]["shunt"] == "0.8735 / 0.8716 (-0.22 %)"
    assert rows["SG1"]["due"] == "no certificate"
    assert rows["F"]["due"] == "2026-06-30, overdue"
    held = channel_rows(freeze(setup), date(2026, 6, 30))
    assert next(r for r in held if r["name"] == "F")["due"] == "2026-06-30"


def test_results_that_are_none_are_dashes_in_the_report():
    point = StressPoint(0.01, 200e6, 10)
    result = TensionResult(
        ModulusLine(70e9, 0.0, 9, 1.0), None, point, 0.007, 0.01, None, None, 1e6, ("note",)
    )
    values = [Result(**asdict(v)) for v in values_of(result, TensionParameters())]
    rows = {name.split(",")[0]: value for name, value, _, _ in result_rows(values)}
    assert (rows["Rp0.2"], rows["At"], rows["A"]) == ("–", "–", "–")
    assert (rows["E"], rows["Rm"], rows["Ag"]) == ("70.0", "200.0", "0.7")


@pytest.mark.parametrize(
    ("name", "taken", "proposed"),
    [
        ("C1", {"C1"}, "C2"),
        ("C1", {"C1", "C2", "C3"}, "C4"),
        ("C09", {"C09"}, "C10"),
        ("fork", {"fork"}, "fork 2"),
        ("7", {"7"}, "8"),
    ],
)
def test_the_next_specimens_name_is_counted_on(name, taken, proposed):
    assert next_name(name, taken) == proposed


@pytest.mark.parametrize(
    ("quantity", "taken", "name"),
    [
        ("strain", set(), "SG1"),
        ("strain", {"SG1", "SG3"}, "SG2"),
        ("force", {"SG1"}, "F"),
        ("force", {"F", "F2"}, "F3"),
        ("temperature", set(), "T"),
        ("light", {"CH"}, "CH2"),
    ],
)
def test_a_new_channel_gets_the_next_free_name_of_its_kind(quantity, taken, name):
    assert free_name(quantity, taken) == name


def test_the_span_of_a_loop_is_a_unit_of_its_current():
    assert [round(from_si(ma * 1e-3, "% of span"), 6) for ma in (4, 8, 20)] == [0, 25, 100]


@pytest.mark.parametrize(
    ("piece", "area", "words"),
    [
        (FlatPiece(width_m=0.02, thickness_m=0.003, gauge_length_m=0.05), 60e-6, "Flat coupon"),
        (RoundPiece(diameter_m=0.01, gauge_length_m=0.05), np.pi * 25e-6, "diameter 10.00 mm"),
        (
            TubePiece(outer_m=0.03, wall_m=0.002, gauge_length_m=0.05),
            np.pi * (225e-6 - 169e-6),
            "wall 2.00 mm",
        ),
        (TubePiece(outer_m=0.01, wall_m=0.02, gauge_length_m=0.05), np.pi * 25e-6, "Tube"),
        (AreaPiece(section_m2=50e-6, gauge_length_m=0.05), 50e-6, "section 50.00 mm²"),
    ],
)
def test_each_piece_knows_its_section_and_says_it(piece, area, words):
    assert piece.area_m2 == pytest.approx(area)
    assert words in piece.sentence
    assert "gauge length 50.00 mm" in piece.sentence
