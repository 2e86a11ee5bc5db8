import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.bridge.circuit import (
    BridgeStrain,
    Circuit,
    active_arms,
    arm_shares,
    resting_bridge,
)
from yoke_core.errors import CoreError, ScalingError
from yoke_core.wiring.causes import Sensor
from yoke_core.wiring.shunt import ShuntResistor, expected_shunt_ratio

R = 350.0
POISSON = 0.29
CORES = {
    Circuit.QUARTER: (2, 3),
    Circuit.HALF_BENDING: (3, 4, 5),
    Circuit.HALF_POISSON: (3, 5),
    Circuit.HALF_OPPOSITE: (4, 5, 6),
}
EVERY = [(circuit, wires) for circuit in Circuit for wires in CORES.get(circuit, (4, 5, 6))]
SENSED = {"half": 5, "full": 6}


def drawn(circuit, wires, core, completion):
    """Resistors between nodes as they are drawn: E and G are the amplifier's excitation pins,
    P3 to P5 its others, T, L, B and R the sensor's corners; then S+ and S-, None: its own half."""
    to_sensor = [("E", "T", core), ("B", "G", core)]
    if circuit is Circuit.QUARTER:
        cores = [("E", "T", core), ("L", "P5", core), ("P5", "G", completion)]
        return cores, None, "L" if wires == 3 else "P5"
    if circuit in (Circuit.HALF_BENDING, Circuit.HALF_POISSON):
        return [*to_sensor, ("L", "P4", core)], None, "P4"
    signal = [("L", "P4", core), ("R", "P3", core)]
    if circuit is Circuit.HALF_OPPOSITE:
        inside = [("P4", "G", completion), ("E", "P3", completion)]
        return [*to_sensor, *signal, *inside], "P3", "P4"
    return [*to_sensor, *signal], "P3", "P4"


SIDES = {1: ("T", "L"), 2: ("L", "B"), 3: ("B", "R"), 4: ("R", "T")}


def network_output(circuit, wires, core, strain, k=2.08, completion=R, shunt=None):
    """U/E of a bridge with its cable and completion, every node by Kirchhoff's current law."""
    core = max(core, 1e-3)
    branches, plus, minus = drawn(circuit, wires, core, completion)
    shares = arm_shares(circuit, POISSON)
    branches += [(*SIDES[a], R * (1 + k * strain * shares[a - 1])) for a in active_arms(circuit)]
    if isinstance(shunt, float):
        shunt = ("P5" if circuit is Circuit.QUARTER else "P4", "G", shunt)
    branches += [shunt] if shunt else []
    names = sorted({n for a, b, _ in branches for n in (a, b)} - {"E", "G"})
    matrix, right = np.zeros((len(names), len(names))), np.zeros(len(names))
    for a, b, ohm in branches:
        for here, there in ((a, b), (b, a)):
            if here in names:
                matrix[names.index(here), names.index(here)] += 1 / ohm
                if there in names:
                    matrix[names.index(here), names.index(there)] -= 1 / ohm
                elif there == "E":
                    right[names.index(here)] += 1 / ohm
    v = dict(zip(names, np.linalg.solve(matrix, right), strict=True)) | {"E": 1.0, "G": 0.0}
    sensed = wires >= SENSED.get(circuit.split("_")[0], 9) + (circuit is Circuit.HALF_OPPOSITE)
    high, low = (v["T"], v["B"]) if sensed else (1.0, 0.0)
    return ((v[plus] if plus else (high + low) / 2) - v[minus]) / (high - low)


@pytest.mark.parametrize(("circuit", "wires"), EVERY)
@pytest.mark.parametrize("strain", [-0.02, -1e-3, 1e-6, 2e-3, 0.03])
@pytest.mark.parametrize("completion", [R, 360.0])
@pytest.mark.parametrize("core", [1e-3, 1.6, 12.8])
def test_strain_is_what_the_solved_network_was_given(circuit, wires, strain, completion, core):
    """With 12.8 ohm a core, 100 m, and a completion that is not the gauge's resistance."""
    rest = resting_bridge(circuit, wires, core, R, completion)
    bridge = BridgeStrain(2.08, circuit, POISSON, rest)
    at_rest, strained = (
        network_output(circuit, wires, core, e, completion=completion) for e in (0.0, strain)
    )
    assert bridge.apply(strained - at_rest) == pytest.approx(strain, rel=1e-5, abs=1e-10)


@pytest.mark.parametrize("circuit", [Circuit.HALF_BENDING, Circuit.FULL_BENDING])
def test_two_gauges_in_series_are_a_straight_line_whatever_completes_them(circuit):
    """Half bridge of bending: U/E = k strain / 2, to the last digit."""
    strains = np.array([-0.02, 1e-5, 0.01])
    factor = 2.08 / 2 if circuit is Circuit.HALF_BENDING else 2.08
    found = BridgeStrain(2.08, circuit).apply(factor * strains)
    assert found == pytest.approx(strains, rel=1e-12)
    assert resting_bridge(Circuit.HALF_BENDING, 3, 0.5, R, 120.0).arms[2:] == (1, 1)


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
    wires = CORES.get(circuit, (6,))[-1]
    pressed, pulled = (network_output(circuit, wires, 1e-3, e) for e in (-1e-4, 1e-4))
    assert (pulled - pressed) / (2.08 * 2e-4 / 4) == pytest.approx(factor, rel=1e-5)
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
        BridgeStrain(2.0, rest=resting_bridge(Circuit.QUARTER, w, 0.8, 120, 120)).apply(1e-4)
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


def sensor(circuit, wires, core, completion=R):
    return Sensor(circuit, wires, R, core, completion, 5.0)


@pytest.mark.parametrize("shunt", [10e3, 100e3, 1e6])
def test_a_shunt_without_leads_is_what_the_dividers_give(shunt):
    lowered = R * shunt / (R + shunt)
    for circuit, wires in EVERY:
        found = expected_shunt_ratio(sensor(circuit, wires, 0.0), ShuntResistor(shunt))
        assert found == pytest.approx(0.5 - lowered / (R + lowered), rel=3e-6)


@pytest.mark.parametrize(("circuit", "wires"), EVERY)
@pytest.mark.parametrize(("core", "completion"), [(0.77, R), (12.8, R), (1.6, 360.0)])
def test_a_shunt_is_what_the_network_with_its_leads_gives(circuit, wires, core, completion):
    off, on = (
        network_output(circuit, wires, core, 0.0, completion=completion, shunt=shunt)
        for shunt in (None, 100e3)
    )
    found = expected_shunt_ratio(sensor(circuit, wires, core, completion), ShuntResistor(100e3))
    assert found == pytest.approx(on - off, rel=1e-5)


@pytest.mark.parametrize(
    ("circuit", "wires", "core", "share"),
    [
        (Circuit.QUARTER, 3, 12.8, -0.035),
        (Circuit.FULL_AXIAL, 6, 0.77, 0.009),
        (Circuit.FULL_AXIAL, 6, 12.8, 0.15),
    ],
)
def test_what_leads_do_to_a_shunt(circuit, wires, core, share):
    """100 m of lead lower a quarter bridge's step; in front of a sensed one they raise it."""
    bare = expected_shunt_ratio(sensor(circuit, wires, 0.0), ShuntResistor(100e3))
    found = expected_shunt_ratio(sensor(circuit, wires, core), ShuntResistor(100e3))
    assert found / bare - 1 == pytest.approx(share, abs=0.006)


@pytest.mark.parametrize(("circuit", "wires"), EVERY)
def test_a_resistor_at_the_sensor_acts_as_its_arm(circuit, wires):
    """Leads make of its step what they make of the strain; arms 1 and 3 fall, 2 and 4 rise."""
    for arm in active_arms(circuit):
        off, on = (
            network_output(circuit, wires, 1.6, 0.0, shunt=shunt)
            for shunt in (None, (*SIDES[arm], 100e3))
        )
        shunt = ShuntResistor(100e3, arm, at_sensor=True)
        found = expected_shunt_ratio(sensor(circuit, wires, 1.6), shunt)
        assert found == pytest.approx(on - off, rel=1e-5)
        assert np.sign(found) == (1 if arm % 2 == 0 else -1)


@pytest.mark.parametrize(
    ("circuit", "wires", "shunt", "said"),
    [
        (Circuit.QUARTER, 3, ShuntResistor(100e3, 3), "inside the amplifier"),
        (Circuit.HALF_BENDING, 3, ShuntResistor(100e3, 4), "inside the amplifier"),
        (Circuit.QUARTER, 3, ShuntResistor(100e3, 2, at_sensor=True), "not at the sensor"),
    ],
)
def test_no_resistor_lies_across_what_cannot_be_reached(circuit, wires, shunt, said):
    with pytest.raises(CoreError, match=said):
        expected_shunt_ratio(sensor(circuit, wires, 0.77), shunt)


def test_shunt_needs_resistances():
    with pytest.raises(CoreError, match="shunt resistance"):
        expected_shunt_ratio(sensor(Circuit.QUARTER, 3, 0.77), ShuntResistor(0))
