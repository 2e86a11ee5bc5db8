"""Keep rules, guards and computed channels as a run records them, and a month of turning points.

In one process and without a database: the samples of a device, placed on its line, go through
the whole of a run; what it would store is counted.
"""

import json
import resource
import time
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.guards.base import Guard, GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.guards.too_fast import TooFast
from yoke_server.kinds.keep_rules.base import KeepRule, names_of
from yoke_server.kinds.keep_rules.bursts import Bursts, BurstUnit
from yoke_server.kinds.keep_rules.everything import Everything
from yoke_server.kinds.keep_rules.turning_points import TurningPoints
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.record.forecast import OF_ROW
from yoke_server.record.readings.live import live_nodes
from yoke_server.record.recorder.control.recording import Recording
from yoke_server.record.recorder.control.track import Track
from yoke_server.record.recorder.model.progress import KeptStream, Place
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.stream.computed_writer import ComputedWriter
from yoke_server.record.recorder.stream.keep.keeping import Keeping, columns_of
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.recorder.stream.ring import MemoryBudget, Ring
from yoke_server.record.recorder.stream.writer import StreamWriter
from yoke_server.record.runs import layout_of, planes_of
from yoke_server.setups.document import FrozenSetup

from tests.benchmarks.measure import ROUNDS, Row, percentile
from tests.simulation.stage import FORCE, two_devices

DEVICE, RAIL, SCALE = "A1", 2**23 - 1, 2e-3
START_NS = 10**18
BLOCK_S = 0.1
PARTS = 10  # of a month, one of which is played
SECONDS = 4  # of samples that are sent over and over
GATE = 2000.0  # N
MONTH_S, CYCLES_HZ, MONTH_RATE, MONTH_BLOCK = 30 * 86_400, 10.0, 200.0, 12_000


class NoLine:
    """A device's line that is pushed by hand."""

    missing_blocks = 0

    def flush(self) -> None: ...
    def unsubscribe(self, who: object) -> None: ...


@dataclass
class Load:
    """A run of one device, with all that a long test has."""

    channels: int
    rate_hz: float
    rules: list[KeepRule]
    guards: int = 6
    formulas: tuple[str, ...] = ()
    stored_bytes: int = 0
    rows: int = 0
    tripped: list[float] = field(default_factory=list)

    def setup(self) -> FrozenSetup:
        force = two_devices().channels[0]
        channels = [
            force.model_copy(
                update={"key": f"c{i}" if i else FORCE, "name": f"c{i}", "input_number": i + 1}
            )
            for i in range(self.channels)
        ]
        computed = [
            ComputedChannel(key=f"f{i}", name=f"f{i}", unit="N", decimals=1, formula=text)
            for i, text in enumerate(self.formulas)
        ]
        changes: dict[str, Any] = {
            "channels": channels,
            "computed": computed,
            "rates_hz": {DEVICE: self.rate_hz},
            "keep_rules": self.rules,
            "guards": [self._guard(c.key, i) for i, c in enumerate(channels[: self.guards])],
            "motion": NoMotion(),
            "stops": [],
        }
        return two_devices().model_copy(update=changes)

    def _guard(self, key: str, place: int) -> Guard:
        if place % 2:
            return TooFast(channel=key, per_s=1e12, action=GuardAction.WARN)
        return Outside(channel=key, highest=1e9, action=GuardAction.WARN)

    def put(self, work: Any) -> None:
        if hasattr(work, "block"):
            self.rows += 1
            self.stored_bytes += work.nbytes - 200 + OF_ROW

    def track(self) -> tuple[Recording, Track]:
        setup, clock = self.setup(), time.monotonic
        recording = Recording(
            1, "bench", setup, START_NS, lambda: START_NS, lambda why: None,
            lambda trip: self.tripped.append(time.perf_counter()), lambda words: None,
            self.put, lambda: None,
        )  # type: ignore[arg-type,return-value]  # fmt: skip
        names = list(zip(names_of(setup.keep_rules), setup.keep_rules, strict=True))
        main = next((name for name, rule in names if rule.keeps_all), None)
        streams = {
            (DEVICE, name): KeptStream.fresh(
                10 + i, *planes_of(layout_of(rule), setup.of_device(DEVICE))
            )
            for i, (name, rule) in enumerate(names)
            if name != main
        }
        keeping = Keeping(
            1, setup, streams, clock, lambda: START_NS, recording.is_left_out
        )  # fmt: skip
        recording.keeping = keeping
        columns = columns_of(setup.of_device(DEVICE))
        writer = StreamWriter(1, 1, columns, Place(1, 0), self.put, clock) if main else None
        computed = None
        if nodes := live_nodes(setup, [f"f{i}" for i in range(len(self.formulas))]).get(DEVICE):
            ids = {key: 100 + i for i, key in enumerate(nodes)}
            computed = ComputedWriter(
                1, ids, nodes, setup.of_device(DEVICE), self.rate_hz, self.put, clock, lambda: True
            )
        track = Track(
            DEVICE, NoLine(), writer, recording.look, recording.reach, lambda: False,
            Ring(MemoryBudget(), 0.0), lambda device, why: None, recording.is_left_out, keeping,
            computed,
        )  # type: ignore[arg-type]  # fmt: skip
        recording.tracks[DEVICE] = track
        return recording, track

    def counts(self, samples: int) -> Any:
        t = np.arange(samples) / self.rate_hz
        wave = 0.6 * np.sin(2 * np.pi * CYCLES_HZ * t)
        dice = np.random.default_rng(1)
        noise = dice.normal(0, 1e-3, (samples, self.channels))
        return np.rint((wave[:, None] + noise) * RAIL).astype(np.int32)

    def block(self, counts: Any, sequence: int, first: int, segment: PlacedSegment) -> Any:
        scale = np.full(self.channels, SCALE, np.float32)
        at = round(first * 1e9 / self.rate_hz)
        block = SampleBlock(1, sequence, at, self.rate_hz, scale, counts, False, RAIL)
        return PositionedBlock(block, first, segment)


def share_of_a_core(load: Load) -> tuple[float, float]:
    """CPU seconds for a second of samples, the best of some rounds; p95 of a guard's look, s."""
    each, best, looks = round(load.rate_hz * BLOCK_S), np.inf, []
    counts = load.counts(round(load.rate_hz * SECONDS))
    parts = [counts[a : a + each] for a in range(0, len(counts), each)]
    segment = PlacedSegment(0, "start", 0, START_NS, load.rate_hz, 1)
    recording, track = load.track()
    sequence = 0
    for _ in range(ROUNDS + 1):  # the first compiles
        begun = time.process_time()
        for part in parts:
            placed = load.block(part, sequence, sequence * each, segment)
            at = time.perf_counter()
            track.push_block(placed)
            looks.append(time.perf_counter() - at)
            recording.tick()
            sequence += 1
        best = min(best, (time.process_time() - begun) / SECONDS)
    return float(best), percentile(looks[len(parts) :], 0.95)


def month() -> tuple[Load, int, float]:
    """A tenth of 2.6e7 cycles through turning points, bursts and a slow stream; how memory grew,
    bytes, and how much faster than real time it went."""
    rules: list[KeepRule] = [
        TurningPoints(channel=FORCE, gate=GATE),
        Bursts(unit=BurstUnit.CYCLES, length=6, every=50_000, channel=FORCE, gate=GATE),
        Everything(rate_hz=0.1),
    ]
    load = Load(4, MONTH_RATE, rules)
    counts = load.counts(MONTH_BLOCK)  # whole cycles, so that blocks join
    segment = PlacedSegment(0, "start", 0, START_NS, MONTH_RATE, 1)
    recording, track = load.track()
    blocks = round(MONTH_S / PARTS * MONTH_RATE / MONTH_BLOCK)
    early, begun = 0, time.perf_counter()
    for sequence in range(blocks):
        track.push_block(load.block(counts, sequence, sequence * MONTH_BLOCK, segment))
        assert recording.keeping is not None
        for row in recording.keeping.take():
            load.put(row)
        if sequence == blocks // 10:
            early = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    json.dumps(recording.keeping.state, allow_nan=False)
    late = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    return load, (late - early) * 1024, MONTH_S / PARTS / (time.perf_counter() - begun)


def measure() -> list[Row]:
    rules: list[KeepRule] = [
        Everything(),
        TurningPoints(channel=FORCE, gate=GATE),
        Bursts(unit=BurstUnit.CYCLES, length=6, every=50, channel=FORCE, gate=GATE),
    ]
    formulas = ("mean({c1}, last 100 ms)", "{c2} - {c3}")
    found = []
    for channels, rate_hz in ((16, 50_000.0), (64, 5_000.0)):
        load = Load(channels, rate_hz, rules, formulas=formulas)
        share, look = share_of_a_core(load)
        words = f"{channels} x {rate_hz / 1000:g} kHz, three keep rules, guards, computed"
        found.append(Row(f"{words}: share of a core", share, 0.5, "", "at most 0.5", share <= 0.5))
        found.append(
            Row(
                f"{words}: block to guards looked, kept, p95", look * 1e3, 10.0, "ms",
                "under 10 ms", look < 0.01,
            )
        )  # fmt: skip
    load, grown, faster = month()
    size = PARTS * load.stored_bytes / 1e9
    return [
        *found,
        Row("a month at 10 Hz through keep rules: stored", size, 5.0, "GB", "under 5", size < 5),
        Row("memory that grew in nine tenths of three days", grown / 1e6, 20.0, "MB", "hardly any",
            grown < 20e6),
        Row("times real time", faster, None, "", "said only", True),
    ]  # fmt: skip
