"""The converter against what it stands for, written out input by input."""

import numpy as np
import pytest
from yoke_rig.converter import OVERSAMPLING, TAPS, Converter, low_pass
from yoke_rig.faults import Fault
from yoke_rig.network import Wiring
from yoke_rig.plugs import CABLE_6, Plug
from yoke_rig.state import State
from yoke_rig.wired import Setting, mode_of


def one_by_one(instants, samples, before, per_tick, last, past):
    """Straight lines between instants, the filter over past and present, every fourth value."""
    fine = samples * OVERSAMPLING
    where = (np.arange(1, fine + 1) / OVERSAMPLING - before) / per_tick
    grid = np.linspace(0, 1, instants.shape[1] + 1)
    rows = []
    for n, row in enumerate(instants):
        signal = np.interp(where, grid, [last[n], *row])
        run = [*past[n], *signal]
        rows.append(np.convolve(run, low_pass(), "valid")[OVERSAMPLING - 1 :: OVERSAMPLING])
        past[n] = run[-(TAPS - 1) :]
    return np.array(rows)


def test_all_inputs_at_once_are_as_one_by_one():
    random = np.random.default_rng(5)
    converter = Converter(3, np.random.default_rng(1), noise_density=0.0)
    instants = random.normal(0, 1e-3, (3, 50))
    last, past = instants[:, 0], [[v] * (TAPS - 1) for v in instants[:, 0]]
    before = 0.0
    for samples in (100, 99, 101, 0, 37):
        per_tick = samples + 0.25
        expected = one_by_one(instants, samples, before, per_tick, last, past)
        found = converter.sample(instants, 1000.0, samples, before, per_tick)
        assert found == pytest.approx(expected, abs=1e-15)
        last, before = instants[:, -1], 0.25
        instants = random.normal(0, 1e-3, (3, 50))


PLUGS = {
    "quarter": Plug(Wiring.QUARTER_3, "strain", 350.0, 1.5e-4, 2.08, CABLE_6),
    "full": Plug(Wiring.FULL_6, "strain", 350.0, -1.3e-5, 2.0, CABLE_6),
    "wiper": Plug(Wiring.POTENTIOMETER, "strain", 5000.0, 0.0, 1 / 100e-3),
    "free": Plug(),
}


@pytest.mark.parametrize("name", PLUGS)
@pytest.mark.parametrize("faults", [(), (Fault("broken", (4.0,)),)])
def test_what_rests_reads_as_what_moves_through_the_same_place(name, faults):
    """A part at rest is solved once; it must read what a moving one reads there."""
    plug = PLUGS[name]
    for mode in (mode_of(plug.wiring), "HALF"):
        setting = Setting(mode, 350.0, 5.0)
        moving = np.linspace(-1e-3, 1e-3, 5)
        passing = plug.output(moving, setting, faults)
        for strain, reads in zip(moving, passing, strict=True):
            still = np.full(7, strain)
            state = State(still * 0, still * 0, still * 0, {"strain": still})
            assert plug.ratio(state, setting, faults) == pytest.approx(np.full(7, reads))


def test_a_torn_grid_at_rest_stays_torn():
    strain = np.full(5, np.inf)
    state = State(np.zeros(5), np.zeros(5), np.zeros(5), {"strain": strain})
    reads = PLUGS["quarter"].ratio(state, Setting("QUARTER", 350.0, 5.0))
    assert (np.abs(reads) > 0.4).all()
