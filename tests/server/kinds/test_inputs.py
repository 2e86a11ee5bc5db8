"""What kinds of input say of themselves."""

import pytest
from yoke_core.bridge.circuit import Circuit
from yoke_server.kinds.inputs.bridge.sensors import BridgeTransducer, GaugeSensor, RosetteSensor
from yoke_server.kinds.inputs.bridge.wiring import CIRCUIT_WORDS, BridgeWiring
from yoke_server.kinds.inputs.inductive_half import InductiveWiring
from yoke_server.kinds.inputs.loop.sensor import LoopTransmitter
from yoke_server.kinds.inputs.loop.wiring import LoopWiring
from yoke_server.kinds.inputs.thermometer.wiring import ThermometerWiring
from yoke_server.sensors.models import Sensor


def bridge(circuit: Circuit, wires: int) -> BridgeWiring:
    return BridgeWiring(circuit=circuit, wires=wires, resistance_ohm=350.0)


@pytest.mark.parametrize(
    ("wiring", "connection", "short"),
    [
        (bridge(Circuit.QUARTER, 3), "quarter bridge, 3-wire", "quarter, 3-wire"),
        (bridge(Circuit.HALF_POISSON, 4), "half bridge, Poisson pair, 4-wire", "half, 4-wire"),
        (bridge(Circuit.FULL_AXIAL, 6), "full bridge, 6-wire", "full, 6-wire"),
        (ThermometerWiring(wires=4), "resistance thermometer, 4-wire", "Pt, 4-wire"),
        (LoopWiring(), "4-20 mA loop", "4-20 mA loop"),
    ],
)
def test_an_input_says_how_its_sensor_is_connected(wiring, connection, short):
    assert (wiring.connection, wiring.connection_short) == (connection, short)


def test_every_circuit_has_words():
    assert set(CIRCUIT_WORDS) == set(Circuit)


@pytest.mark.parametrize(
    ("spec", "arms"),
    [
        (GaugeSensor(circuit=Circuit.HALF_OPPOSITE, wires=4, gauge_factor=2.0), [1, 3]),
        (GaugeSensor(circuit=Circuit.HALF_POISSON, wires=4, gauge_factor=2.0), [1, 2]),
        (RosetteSensor(angles=[0.0, 0.785, 1.571], gauge_factor=2.0), [1]),
        (
            BridgeTransducer(circuit=Circuit.FULL_TORSION, rated_output=2e-3, capacity=100.0),
            [1, 2, 3, 4],
        ),
        (LoopTransmitter(at_4_ma=0.0, at_20_ma=1.0), []),
    ],
)
def test_a_sensor_of_the_library_says_which_arms_it_strains(spec, arms):
    assert Sensor(spec=spec).active_arms == arms


def test_scalings_are_offered_by_what_a_channel_measures():
    by_points = ["two_points", "table", "polynomial"]
    assert BridgeWiring.scalings_of("strain") == ["gauge", *by_points]
    assert BridgeWiring.scalings_of("force") == ["rated_output", "stated_output", *by_points]
    assert InductiveWiring.scalings_of("displacement") == ["rated_output", *by_points]
    assert LoopWiring.scalings_of("pressure") == ["loop_span", *by_points]
