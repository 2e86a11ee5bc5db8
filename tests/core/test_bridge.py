import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.bridge.circuit import FACTS, Circuit, bridge_factor
from yoke_core.bridge.scaling import RatedOutputScaling, StrainScaling, TwoPointScaling
from yoke_core.bridge.shunt import expected_shunt_ratio
from yoke_core.errors import CoreError, ScalingError


def divider_output(arms):
    """U/E of four arms by two voltage dividers; signal + right, excitation + at the top."""
    r1, r2, r3, r4 = arms
    return r3 / (r2 + r3) - r4 / (r1 + r4)


def strained_arms(circuit, gauge_factor, strain, poisson):
    """Arm resistances of a circuit under the principal strain, by the signs of its grids."""
    share = {
        Circuit.QUARTER: (1, 0, 0, 0),
        Circuit.HALF_BENDING: (1, -1, 0, 0),
        Circuit.HALF_POISSON: (1, -poisson, 0, 0),
        Circuit.HALF_OPPOSITE: (1, 0, 1, 0),
        Circuit.FULL_BENDING: (1, -1, 1, -1),
        Circuit.FULL_AXIAL: (1, -poisson, 1, -poisson),
        Circuit.FULL_TORSION: (1, -1, 1, -1),
    }[circuit]
    return [350 * (1 + gauge_factor * strain * s) for s in share]


@pytest.mark.parametrize("circuit", list(Circuit))
def test_bridge_factor_is_the_divider_outputs_slope(circuit):
    strain, k, poisson = 1e-7, 2.08, 0.29
    output = divider_output(strained_arms(circuit, k, strain, poisson))
    assert output / (k * strain / 4) == pytest.approx(bridge_factor(circuit, poisson), rel=1e-5)
    assert len(FACTS[circuit].active_arms) in (1, 2, 4)


@given(strain=st.floats(-0.05, 0.05), k=st.floats(1.8, 4.0))
def test_quarter_bridge_is_solved_exactly(strain, k):
    output = divider_output(strained_arms(Circuit.QUARTER, k, strain, 0))
    assert StrainScaling(k, exact_quarter=True).apply(output) == pytest.approx(strain, abs=1e-12)


def test_linear_quarter_bridge_is_off_by_the_known_share():
    """At 10 000 microstrain and k = 2 the linear reading is about 1 % too small."""
    output = divider_output(strained_arms(Circuit.QUARTER, 2.0, 0.01, 0))
    assert StrainScaling(2.0).apply(output) == pytest.approx(0.01 / 1.01, rel=1e-9)


def test_rated_output_reads_capacity_at_its_rated_output():
    cell = RatedOutputScaling(rated_output=2e-3, capacity=25e3)
    assert cell.apply([2e-3, -1e-3, 0]).tolist() == [25e3, -12.5e3, 0]


def test_two_points_pass_through_both():
    line = TwoPointScaling(1e-4, 10.0, 3e-4, -30.0)
    assert line.apply([1e-4, 2e-4, 3e-4]) == pytest.approx([10, -10, -30])


@pytest.mark.parametrize(
    ("make", "argument", "words"),
    [
        (lambda: StrainScaling(0), "gauge_factor", "gauge factor must be above zero"),
        (lambda: StrainScaling(-2.0), "gauge_factor", "not -2"),
        (lambda: StrainScaling(float("nan")), "gauge_factor", "above zero"),
        (lambda: RatedOutputScaling(0, 1), "rated_output", "rated output"),
        (lambda: RatedOutputScaling(1, -5), "capacity", "capacity"),
        (lambda: TwoPointScaling(1, 0, 1, 5), "point_2_mv_v", "same signal"),
        (lambda: TwoPointScaling(1, 5, 2, 5), "point_2_value", "same value"),
    ],
)
def test_scaling_without_sense_is_refused(make, argument, words):
    with pytest.raises(ScalingError, match=words) as caught:
        make()
    assert caught.value.argument == argument


@pytest.mark.parametrize("shunt", [10e3, 100e3, 1e6])
def test_shunt_is_what_the_dividers_give(shunt):
    lowered = 350 * shunt / (350 + shunt)
    assert expected_shunt_ratio(350, shunt) == pytest.approx(
        divider_output([350, 350, 350, lowered]), rel=1e-12
    )


def test_shunt_needs_resistances():
    with pytest.raises(CoreError, match="shunt resistance"):
        expected_shunt_ratio(350, 0)


def test_nan_stays_nan():
    assert np.isnan(StrainScaling(2.0, exact_quarter=True).apply([np.nan])).all()
