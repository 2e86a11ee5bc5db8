"""Pin by pin, a plug that is well reads what its circuit's closed form says."""

import numpy as np
import pytest
from yoke_rig.amplifier import SHUNT, Amplifier
from yoke_rig.faults import Fault, read_faults
from yoke_rig.network import Cable, Wiring
from yoke_rig.plugs import CABLE_6, Plug
from yoke_rig.state import State
from yoke_rig.wired import Setting, mode_of, ratio

PLUGS = {
    "quarter 3": Plug(Wiring.QUARTER_3, "strain", 350.0, 1.5e-4, 2.08, CABLE_6),
    "quarter 2": Plug(Wiring.QUARTER_2, "strain", 350.0, 1.5e-4, 2.08, Cable(1.5)),
    "half 3": Plug(Wiring.HALF_3, "strain", 350.0, -0.8e-4, 2.05, CABLE_6),
    "half 5": Plug(Wiring.HALF_5, "strain", 350.0, -0.8e-4, 2.05, Cable(3.0)),
    "full 6": Plug(Wiring.FULL_6, "strain", 350.0, -1.3e-5, 2.0, CABLE_6),
    "full 4": Plug(Wiring.FULL_4, "strain", 350.0, -1.3e-5, 2.0, CABLE_6),
}


@pytest.mark.parametrize(
    ("name", "shunt"),
    [(name, shunt) for name in PLUGS for shunt in (None, SHUNT)],
)
def test_both_ways_agree_where_nothing_is_wrong(name, shunt):
    plug, strain = PLUGS[name], np.linspace(-2e-3, 2e-3, 5)
    state = State(strain * 0, strain * 0, strain * 0, {"strain": strain})
    setting = Setting(mode_of(plug.wiring), 350.0, 5.0, shunt)
    by_pins = ratio(plug._wires(state.of(plug.source), ()), setting)
    assert by_pins == pytest.approx(plug.ratio(state, setting), abs=2e-7)


def test_a_torn_grid_and_a_broken_core_clip_and_a_mended_one_does_not():
    amp = Amplifier()
    state = State(*np.zeros((3, 50)), {"gauge": np.zeros(50), "extension": np.zeros(50)})
    amp.inputs[2].bridge = "QUARTER"
    for fault, clips in (("torn 1", True), ("broken 4", True), ("none", False)):
        amp.pretend(3, read_faults(fault))
        for _ in range(3):
            counts = amp.next_block(state).counts[:, 2]
        assert (np.abs(counts[-1]) >= 2**23 - 1) == clips


@pytest.mark.parametrize(
    "text",
    [
        "broken",
        "broken 1 2",
        "melted 3",
        "hum loud",
        "flat," * 5,
        "other 7",
        "other 3",
        "torn 9",
        "resistance 0",
        "resistance -1",
        "arm 1.5 1",
        "leak 0 0.5",
        "leak 1 nan",
        "hum inf",
    ],
)
def test_faults_that_cannot_be_are_refused(text):
    with pytest.raises(ValueError, match=r"known are|at most|could not convert|bounds"):
        read_faults(text)


@pytest.mark.parametrize(
    "text",
    [
        "swapped 1 1",
        "swapped 3 5",
        "broken 2",
        "torn 4, broken 6, nothing, other 6",
        "resistance 0.001",
        "arm 4 1000",
        "leak 0.1 0",
        "offset 1, drift -1",
        "other 1, torn 1",
    ],
)
@pytest.mark.parametrize("bridge", ["QUARTER", "HALF", "OPPOSITE", "FULL"])
def test_whatever_it_is_told_a_stand_in_samples_on(text, bridge):
    amp = Amplifier()
    state = State(*np.zeros((3, 50)), {"gauge": np.zeros(50), "extension": np.zeros(50)})
    for number, settings in enumerate(amp.inputs, start=1):
        settings.bridge = bridge
        amp.pretend(number, read_faults(text))
    for _ in range(2):
        assert amp.next_block(state).counts.shape[1] == 8
    assert all(np.isfinite(v).all() for n in range(1, 9) for p in amp.probe(n) for v in p)


@pytest.mark.parametrize("wiring", [Wiring.POTENTIOMETER, Wiring.INDUCTIVE])
def test_a_tap_between_the_supply_reads_where_it_stands_and_can_be_checked(wiring):
    plug = Plug(wiring, "position", 5000.0, 0.1, 2.0)
    state = State(np.zeros(1), np.array([0.05]), np.zeros(1))
    with_carrier = Setting("QUARTER", 350.0, 2.5, carrier=4800.0)
    assert plug.ratio(state, with_carrier) == pytest.approx(0.2)
    direct = plug.ratio(state, Setting("QUARTER", 350.0, 2.5))
    assert direct == pytest.approx(0.2 if wiring is Wiring.POTENTIOMETER else 0.0)
    # Pin by pin it is the same, whatever it is taken for; a core that is off leaves it open.
    broken = (Fault("broken", (6.0,)),)
    pins = plug.pins(state, Setting("QUARTER", 350.0, 2.5), (), 1.0)
    assert (pins.s_plus - pins.s_minus) / 2.5 == pytest.approx(direct, abs=0.02)
    assert abs(plug.ratio(state, Setting("QUARTER", 350.0, 2.5), broken)[0] - direct[0]) > 0.2
    assert np.isfinite(plug.ratio(state, Setting("FULL", 350.0, 2.5))).all()
