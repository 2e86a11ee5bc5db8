"""The signal graph: filters and formulas against real time, as the recorder would run them."""

import time

import numpy as np
from yoke_core.bridge.circuit import BridgeStrain
from yoke_core.formula.checking import check
from yoke_core.formula.dimension import FREQUENCY, NONE, STRESS, TIME
from yoke_core.formula.names import Channel, Names, Unit
from yoke_core.scaling.line import Line
from yoke_core.signals.bank import ChainBank
from yoke_core.signals.chain import SignalChain
from yoke_core.signals.filter_design import Band, FilterDesign
from yoke_core.signals.graph import Measured, SignalGraph
from yoke_core.signals.node import Node
from yoke_core.signals.nodes.filters import Filter
from yoke_core.uncertainty.readings import ReadingBudgets

from tests.benchmarks.measure import ROUNDS, Row, interleaved

CHANNELS = 16
RATE = 50_000.0
BLOCK = 5000  # samples: 100 ms
BLOCKS = 50
LIVE, LIVE_BLOCK, AGAIN = 64, 100, 200  # channels, samples, times
LOW_PASS = FilterDesign(Band.LOW, (1000.0,), 4)
UNITS = [
    Unit("µm/m", 1e-6, NONE),
    Unit("MPa", 1e6, STRESS),
    Unit("GPa", 1e9, STRESS),
    Unit("s", 1.0, TIME),
    Unit("ms", 1e-3, TIME),
    Unit("Hz", 1.0, FREQUENCY),
]
FORMULAS = (
    "(c0 - mean(c0, last 2 s)) * 205 GPa",
    "rms(c1, last 100 ms)",
    "rate(c2, over 10 ms)",
    "highest(c3, last 1 s) - lowest(c3, last 1 s)",
    "lowpass(c4 + c5, to 500 Hz, order 8)",
    "mains(c6, at 50 Hz)",
    "sqrt(c7 ^ 2 + c8 ^ 2 - c7 * c8) * 205 GPa while c9 above 0 µm/m",
    "peak(abs(c10))",
)


def _filtered() -> list[Node]:
    return [Filter(LOW_PASS, (Measured(f"c{i}"),)) for i in range(CHANNELS)]


def _with_formulas() -> dict[str, Node]:
    """Formulas of channels that each have a filter, as a setup would have them."""
    channels = [Channel(f"c{i}", f"c{i}", UNITS[0], node) for i, node in enumerate(_filtered())]
    names = Names(UNITS, channels)
    formulas = {text: check(text, names).result.node for text in FORMULAS}
    return {c.key: c.node for c in channels if c.node} | formulas


def _share_of_a_core(outputs: dict[str, Node], readings: dict[str, np.ndarray]) -> float:
    """CPU seconds for a second of samples, the best of some rounds."""
    best = np.inf
    for _ in range(ROUNDS):
        process = SignalGraph(outputs).start(RATE)
        process.push(readings, follows=False)
        begun = time.process_time()
        for _ in range(BLOCKS):
            process.push(readings, follows=True)
        best = min(best, (time.process_time() - begun) / (BLOCKS * BLOCK / RATE))
    return float(best)


def _uncertain_readings() -> Row:
    """U of 64 readings against the readings themselves: their chains over a block of 100 ms."""
    chains = [SignalChain((Line(1.0, -1e-5), BridgeStrain(2.08), Line(1.0, 0.0)))] * LIVE
    bank = ChainBank(chains, list(range(LIVE)))
    dice = np.random.default_rng(2)
    signal = 1e-4 * dice.normal(size=(LIVE, LIVE_BLOCK))
    budgets = ReadingBudgets(*(dice.uniform(0, 1e-3, size=(3, LIVE))))
    readings = bank.apply(signal)
    last, spread = readings[:, -1], readings.std(axis=1)

    def uncertainties() -> None:
        for _ in range(AGAIN):
            budgets.expanded(last, spread)

    def plain() -> None:
        for _ in range(AGAIN):
            bank.apply(signal)

    ours, floor = interleaved(uncertainties, plain)
    return Row(
        "the uncertainty of 64 live readings",
        ours / AGAIN * 1e6,
        floor / AGAIN * 1e6,
        "µs",
        "no more than the readings",
        ours <= floor,
    )


def measure() -> list[Row]:
    dice = np.random.default_rng(1)
    readings = {f"c{i}": 1e-4 * dice.normal(size=BLOCK) for i in range(CHANNELS)}
    one = _share_of_a_core({"one": _filtered()[0]}, readings)
    all_of_it = _share_of_a_core(_with_formulas(), readings)
    return [
        Row(
            "a filter of order 4 at 50 kHz, a second of samples",
            one * 1e3,
            1e3,
            "ms",
            "300 times faster than real time",
            one * 300 <= 1,
        ),
        Row(
            "16 x 50 kHz, each filtered, and 8 formulas, a second of samples",
            all_of_it * 1e3,
            1e3,
            "ms",
            "at most a tenth of a core",
            all_of_it <= 0.1,
        ),
        _uncertain_readings(),
    ]
