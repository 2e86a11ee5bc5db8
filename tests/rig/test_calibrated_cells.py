"""Load cells of the rig calibrated by the core: what is stated covers what is true."""

from dataclasses import replace

import numpy as np
from yoke_core.calibration.budget import Conditions, budget_at
from yoke_core.calibration.series import Point, Series, characteristics
from yoke_rig.amplifier import BLOCK_SECONDS, Amplifier
from yoke_rig.network import Wiring
from yoke_rig.plugs import CABLE_6, Plug
from yoke_rig.stack import Cell, Stack
from yoke_rig.state import STEP, State

CAPACITY = 10e3  # N
GAIN = 2e-3 / CAPACITY  # V/V a newton
LOADS = (2e3, 4e3, 6e3, 8e3, 10e3)
SETTLING, MEASURED = 30, 5  # blocks of a tenth of a second
REFERENCE = 2e-4  # relative, k = 2, of the weights
INPUT = 2
FULL = 2**23 - 1
COUNT, MIN_COVERED = 20, 17  # of 20 with 95 % each, fewer come once in 60 times


class Bench:
    """A cell on an amplifier, on which weights are put that are off by a little."""

    def __init__(self, random):
        self._random = random
        self._weights = 1 + random.normal(0, REFERENCE / 2)
        self._cell = Cell(
            "force",
            CAPACITY,
            scale=random.normal(0, 1e-3),
            bend=random.uniform(-6e-5, 6e-5),
            loop=random.uniform(0, 1.5e-4),
            creep=random.uniform(0, 4e-5),
        )
        plug = Plug(Wiring.FULL_6, "cell", 350.0, 1.2e-5, GAIN, CABLE_6)
        plugs = tuple(plug if i == INPUT - 1 else Plug() for i in range(8))
        self._amplifier = Amplifier(seed=int(random.integers(1 << 30)), plugs=plugs)
        self._amplifier.inputs[INPUT - 1].bridge = "FULL"
        self._turned = dict.fromkeys((0.0, 120.0, 240.0), 0.0)
        for rotation in self._turned:
            self._turned[rotation] = random.normal(0, 3e-5)

    def series(self, rotation):
        """One series of rising and falling loads in a position."""
        turned = replace(self._cell, scale=self._cell.scale + self._turned[rotation])
        stack = Stack({"cell": turned})
        signals = [self._signal(stack, load) for load in (0.0, *LOADS, *LOADS[-2::-1], 0.0)]
        up = signals[1 : len(LOADS) + 1]
        down = signals[len(LOADS) + 1 : -1]
        return Series(
            rotation,
            signals[0],
            tuple(map(Point, LOADS, LOADS, up)),
            tuple(map(Point, LOADS[-2::-1], LOADS[-2::-1], down)),
            zero_after=signals[-1],
        )

    def _signal(self, stack, load):
        """Mean of what is sampled once the load has settled, V/V."""
        stack.put("force", load * self._weights)
        blocks = [self._block(stack) for _ in range(SETTLING + MEASURED)]
        return float(np.mean(blocks[-MEASURED:]))

    def _block(self, stack):
        """The mean of what is sampled in a tenth of a second."""
        block = self._amplifier.next_block(stack.on(RESTING))
        share = block.counts[:, INPUT - 1].mean() / FULL
        return share * block.full_scale[INPUT - 1]

    def truth(self, load):
        """What the cell gives under a true load, without lag, creep, noise and drift."""
        share = load / CAPACITY
        bent = 4 * self._cell.bend * share * (1 - share) * CAPACITY
        return GAIN * (load * (1 + self._cell.scale) + bent)


RESTING = State(*np.zeros((3, round(BLOCK_SECONDS / STEP))), {})


def is_covered(random):
    """Whether a true load is within what its calibration states."""
    bench = Bench(random)
    found = characteristics([bench.series(r) for r in (0.0, 0.0, 120.0, 240.0)])
    place = int(random.integers(len(LOADS)))
    conditions = Conditions(reference=REFERENCE, resolution=CAPACITY * 1e-5)
    stated = budget_at(found, conditions, place).expanded()
    read = float(found.curve.apply(bench.truth(LOADS[place])))
    return abs(read - LOADS[place]) <= stated


def test_twenty_calibrations_on_the_rig_cover_the_truth():
    random = np.random.default_rng(20261130)
    covered = sum(is_covered(random) for _ in range(COUNT))
    print(f"\n{covered} of {COUNT} calibrations on the rig cover the true load")
    assert covered >= MIN_COVERED
