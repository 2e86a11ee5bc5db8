import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.bridge.circuit import (
    BridgeStrain,
    Circuit,
    active_arms,
    arm_shares,
    lead_shares,
)
from yoke_core.bridge.shunt import expected_shunt_ratio
from yoke_core.errors import CoreError, ScalingError

R = 350.0
POISSON = 0.29
WIRES = {
    Circuit.QUARTER: (2, 3),
    Circuit.HALF_BENDING: (3,),
    Circuit.HALF_POISSON: (3,),
    Circuit.HALF_OPPOSITE: (4,),
}


def network_output(circuit, wires, core, strain, k=2.08):
    """U/E of the bridge with its cable, every node by Kirchhoff's current law."""
    arms = [R * (1 + k * strain * s) for s in arm_shares(circuit, POISSON)]
    supply = 1e-9
    if circuit is Circuit.QUARTER and wires == 2:
        arms[0] += 2 * core
    elif circuit is Circuit.QUARTER:
        arms[0], arms[3] = arms[0] + core, arms[3] + core
    elif circuit is Circuit.HALF_OPPOSITE:
        arms[0], arms[2] = arms[0] + 2 * core, arms[2] + 2 * core
    elif len(active_arms(circuit)) == 2 and wires == 3:
        arms[0], arms[1], supply = arms[0] + core, arms[1] + core, core
    elif wires == 4:
        supply = 2 * core
    # Unknown potentials of top, left, right; the source at 1 V, the bottom at 0.
    g = 1 / np.array(arms)
    nodes = np.array(
        [
            [1 / supply + g[0] + g[1], -g[0], -g[1]],
            [-g[0], g[0] + g[3], 0],
            [-g[1], 0, g[1] + g[2]],
        ]
    )
    top, left, right = np.linalg.solve(nodes, [1 / supply, 0, 0])
    return (right - left) / (top if supply == 1e-9 else 1.0)


@pytest.mark.parametrize("circuit", list(Circuit))
@pytest.mark.parametrize("strain", [-0.02, -1e-3, 1e-6, 2e-3, 0.03])
def test_strain_is_what_the_solved_network_was_given(circuit, strain):
    for wires in WIRES.get(circuit, (4, 6)):
        leads = lead_shares(circuit, wires, 1.6, R)
        bridge = BridgeStrain(2.08, circuit, POISSON, leads)
        rest = network_output(circuit, wires, 1.6, 0.0)
        output = network_output(circuit, wires, 1.6, strain) - rest
        assert bridge.apply(output) == pytest.approx(strain, rel=1e-6, abs=1e-10)


# Bridge factors B in U/E = B k strain / 4 (Hoffmann): constant, and times Poisson's ratio.
FACTORS = {
    Circuit.QUARTER: (1, 0),
    Circuit.HALF_BENDING: (2, 0),
    Circuit.HALF_POISSON: (1, 1),
    Circuit.HALF_OPPOSITE: (2, 0),
    Circuit.FULL_BENDING: (4, 0),
    Circuit.FULL_BENDING_POISSON: (2, 2),
    Circuit.FULL_AXIAL: (2, 2),
    Circuit.FULL_TORSION: (4, 0),
}


@pytest.mark.parametrize("circuit", list(Circuit))
def test_at_rest_the_slope_is_the_bridge_factors(circuit):
    constant, times_poisson = FACTORS[circuit]
    factor = constant + times_poisson * POISSON
    output = network_output(circuit, 6, 0.0, 1e-7)
    assert output / (2.08 * 1e-7 / 4) == pytest.approx(factor, rel=1e-5)
    found = BridgeStrain(2.08, circuit, POISSON).apply([0.0, 1e-9])
    assert 1e-9 / (found[1] - found[0]) == pytest.approx(factor * 2.08 / 4, rel=1e-6)


@given(strain=st.floats(-0.05, 0.05), k=st.floats(1.8, 4.0))
def test_quarter_bridge_is_solved_exactly(strain, k):
    output = k * strain / (4 + 2 * k * strain)
    assert BridgeStrain(k).apply(output) == pytest.approx(strain, abs=1e-12)


def test_two_wires_cost_what_three_do_not():
    """12 m of a 120 ohm gauge: the two-wire reading lacks twice the lead's share."""
    share = 0.8 / 120
    two, three = (
        BridgeStrain(2.0, leads=lead_shares(Circuit.QUARTER, w, 0.8, 120)).apply(1e-4)
        for w in (2, 3)
    )
    bare = BridgeStrain(2.0).apply(1e-4)
    # A lead in arm 1 alone also unbalances the divider: (1 + l / 2)^2 in all.
    assert two / bare == pytest.approx((1 + share) ** 2, rel=1e-4)
    assert three / bare == pytest.approx(1 + share, rel=1e-4)


def test_an_open_arm_gives_no_number_and_what_clipped_stays_infinite():
    found = BridgeStrain(2.0).apply([0.5, 0.7, -0.6, np.inf, -np.inf, np.nan])
    assert np.isnan(found[[0, 1, 2, 5]]).all()
    assert found[3:5].tolist() == [np.inf, -np.inf]


@pytest.mark.parametrize("factor", [0, -2.0, float("nan")])
def test_a_gauge_factor_is_above_zero(factor):
    with pytest.raises(ScalingError, match="gauge factor must be above zero") as caught:
        BridgeStrain(factor)
    assert caught.value.argument == "gauge_factor"


@pytest.mark.parametrize("shunt", [10e3, 100e3, 1e6])
def test_shunt_is_what_the_dividers_give(shunt):
    lowered = 350 * shunt / (350 + shunt)
    assert expected_shunt_ratio(350, shunt) == pytest.approx(0.5 - lowered / (350 + lowered))


def test_shunt_needs_resistances():
    with pytest.raises(CoreError, match="shunt resistance"):
        expected_shunt_ratio(350, 0)
