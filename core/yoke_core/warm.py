"""`python -m yoke_core.warm`: compile what is compiled, once, so that no recording waits for it.

The recorder calls it too before it takes up a bench: what is compiled is loaded then.
"""

import numpy as np

from yoke_core.fatigue.cycle_meter import CycleMeter
from yoke_core.fatigue.rainflow import rainflow
from yoke_core.keeping.changes import Changes
from yoke_core.keeping.cycles import CycleCounter
from yoke_core.keeping.decimation import Decimator
from yoke_core.keeping.turns import CycleTurns
from yoke_core.rosette.series import principal_strains
from yoke_core.rosette.state import Rosette
from yoke_core.scaling.line import Line
from yoke_core.signals.bank import ChainBank
from yoke_core.signals.chain import SignalChain
from yoke_core.signals.filter_design import Band, FilterDesign
from yoke_core.signals.graph import Measured, SignalGraph, compute
from yoke_core.signals.nodes.filters import Filter
from yoke_core.signals.nodes.windows import Window
from yoke_core.streaming.block import summarise_block
from yoke_core.streaming.envelope import EnvelopeFolder
from yoke_core.streaming.live import FIGURES, LiveFigures

CHANNELS, SAMPLES, BINS = 2, 20, 5


def compile_all() -> None:
    """Call each kernel with the kinds of arrays that the processes give it."""
    for writeable in (True, False):  # blocks that come out of bytes are not
        counts, scale = np.zeros((SAMPLES, CHANNELS), np.int32), np.ones(CHANNELS, np.float32)
        counts.flags.writeable = scale.flags.writeable = writeable
        summarise_block(counts, scale, 10**9, BINS)  # numbers of nine digits
        found = summarise_block(counts, scale, 2**23 - 1, BINS)
    for samples in (found.ratios, found.ratios[:, ::2], found.ratios[:, 1:]):
        for factor in (16, 4):  # finer groups go another way than samples
            EnvelopeFolder(CHANNELS, factor).push(samples, samples)
    width = FIGURES + 3 * BINS
    table = np.zeros((CHANNELS, 1 + width), np.float32)
    rows = np.arange(CHANNELS)
    scaled = ChainBank([SignalChain((Line(2.0),))] * CHANNELS, list(rows)).apply(found.shown)
    live = LiveFigures(rows, np.zeros(CHANNELS, bool), np.ones(CHANNELS))
    for means in (found.mean, np.zeros((CHANNELS, 2))[:, 0]):  # a column of the bins as well
        for part in (table[:, 1:], table[:, 1:].copy()):
            live.take(scaled, means, found.clipped, SAMPLES, found.deviation, part)
            live.take(scaled, found.mean, found.clipped, SAMPLES, means, part)
    ramp = np.array([0, 2, 1, 3, 0], np.float32)
    rainflow(ramp)
    CycleMeter(0.0, 1.0).push(ramp)
    CycleCounter(1.0).push(ramp)
    CycleTurns(1.0).push(ramp)
    Changes([1.0], 5).push(ramp[None, :])
    Decimator(2, 1).push(ramp[None, :].astype(np.float64))
    principal_strains(Rosette(), ramp, ramp, ramp)
    x = Measured("x")
    low_pass = Filter(FilterDesign(Band.LOW, (10.0,)), (x,))
    graph = SignalGraph({"filtered": low_pass, "mean": Window("mean", 0.05, (x,))})
    compute(graph, {"x": ramp.astype(np.float64)}, rate_hz=100.0)


if __name__ == "__main__":
    compile_all()
