"""Uncertainties of results, against what their formulas give."""

from datetime import timedelta

import numpy as np
import pytest
from yoke_server.derive import uncertainty
from yoke_server.derive.computing import derive_stale
from yoke_server.derive.kinds.cycles.spec import CyclesParameters
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.record.queries import day_of
from yoke_server.report.blocks.result_table import ResultTable
from yoke_server.sensors.models import Certificate, Sensor

from tests.server.derive.test_kinds import RAMP, grids, rosette, run_of

__all__ = ["rosette"]

pytestmark = pytest.mark.django_db


def with_tolerance(tolerance=0.01):
    """All gauges of the setup come from one package."""
    gauge = Sensor.objects.get(serial="lot 0817-1")
    gauge.spec = gauge.spec.model_copy(update={"gauge_factor_tolerance": tolerance})
    gauge.save()


def derived(run, recipe=None):
    derive_stale(run.setup_id)
    found = Derivation.objects.filter(run=run)
    kept = found.get(recipe=recipe) if recipe else found.get()
    return kept, {r.symbol: r for r in kept.results.all()}


def test_grids_of_one_package_are_off_together(rosette):
    with_tolerance()
    kept, results = derived(run_of(rosette, *grids()))
    for symbol in ("ε1", "ε2", "σv"):
        result = results[symbol]
        # Limits of 1 % of all strains at once; k of a normal distribution.
        assert result.expanded == pytest.approx(2 * 0.01 / 3**0.5 * abs(result.value), rel=1e-3)
        assert result.factor == pytest.approx(2.0, abs=1e-3)
    # A direction does not depend on a gain that all share.
    assert results["φ"].expanded == pytest.approx(0.0, abs=1e-6)
    assert {t["name"] for t in results["σv"].budget} == {"gauge factor of lot 0817-1"}
    assert "R1a is not zeroed." in kept.lacks


def test_a_certificate_and_the_drift_of_a_zero_add_in_quadrature(rosette, monkeypatch):
    first, run = rosette.channels.first(), run_of(rosette, 1e-3 * RAMP, 0 * RAMP, 0 * RAMP)
    day = day_of(run)
    Certificate.objects.create(
        sensor=first.sensor, number="K-1", calibrated_on=day - timedelta(30), expanded=4e-3
    )
    # By tomorrow there is a better one, which says nothing of today's run.
    Certificate.objects.create(
        sensor=first.sensor, number="K-2", calibrated_on=day + timedelta(1), expanded=1e-4
    )
    recipe = Recipe.objects.create(setup=rosette, parameters=CyclesParameters(channel=first.key))
    _, results = derived(run, recipe)
    highest = results["max"]
    assert [t["name"] for t in highest.budget] == ["certificate K-1"]
    assert highest.expanded == pytest.approx(4e-3 * highest.value, rel=1e-3)
    # Nothing that counts cycles changes with a gain.
    assert results["n"].expanded == 0.0


def test_damage_follows_the_slope_of_its_curve(rosette):
    """D ~ amplitude^(1/0.1): ten times the relative uncertainty of the strain."""
    with_tolerance(0.001)
    wave = 1e-3 * np.sin(2 * np.pi * np.arange(2000) / 500)
    first = rosette.channels.first()
    run = run_of(rosette, wave, 0 * wave, 0 * wave)
    recipe = Recipe.objects.create(setup=rosette, parameters=CyclesParameters(channel=first.key))
    _, results = derived(run, recipe)
    relative = results["D"].expanded / results["D"].value
    assert relative == pytest.approx(10 * 2 * 0.001 / 3**0.5, rel=0.05)


def test_what_is_not_known_is_said_and_no_number_is_made_up(rosette):
    with_tolerance(None)
    kept, results = derived(run_of(rosette, *grids()))
    assert all(r.expanded is None for r in results.values())
    assert any(why.endswith("lot 0817-1 has no certificate.") for why in kept.lacks)


def test_a_long_run_is_not_computed_again_for_each_input(rosette, monkeypatch):
    with_tolerance()
    monkeypatch.setattr(uncertainty, "MAX_SAMPLES", 100)
    kept, results = derived(run_of(rosette, *grids()))
    assert results["ε1"].value is not None and results["ε1"].expanded is None
    assert any("too long" in why for why in kept.lacks)


def test_a_fault_of_ours_in_them_costs_no_value(rosette, monkeypatch):
    with_tolerance()

    def fail(*given):
        raise ZeroDivisionError

    monkeypatch.setattr(uncertainty, "_contributions", fail)
    kept, results = derived(run_of(rosette, *grids()))
    assert kept.problem is None and results["ε1"].value is not None
    assert results["ε1"].expanded is None
    assert "log" in kept.lacks[0]


def test_results_show_their_uncertainty_and_its_budget(as_role, rosette):
    with_tolerance()
    run = run_of(rosette, *grids())
    derive_stale(run.setup_id)
    (state,) = as_role("reviewer").get(f"/api/runs/{run.pk}/derivations").json()
    first = next(r for r in state["results"] if r["symbol"] == "ε1")
    assert first["budget"][0]["standard"] * first["factor"] <= first["expanded"] * 1.001
    assert state["lacks"]


def test_a_report_prints_them_with_what_is_not_in_them(rosette):
    with_tolerance()
    run = run_of(rosette, *grids())
    kept, results = derived(run)
    printed = ResultTable(run=run.pk, recipe=kept.recipe_id).contents()
    rows = {name.split(",")[0]: spread for name, _, spread, _ in printed["results"]}
    strain = results["ε1"].expanded * 1e6
    assert rows["ε1"] == f"± {strain:.2g}"
    assert rows["φ"] == "± 0"  # what is left of rounding is no uncertainty
    assert printed["coverage"] == "k = 2.00"
    assert "R1a is not zeroed." in printed["lacks"]
