"""All keep rules of a run that fill streams beside the main one, and how they are resumed.

What they have reached is stored with the places from which their devices must send again. Rows
are written before that; after a restart what was written since is made again, and left out.
"""

from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any, ClassVar

from yoke_server.kinds.keep_rules.base import KeepRule, names_of
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.record.recorder.model.progress import (
    Closed,
    KeptStream,
    LinePlace,
    Place,
    StreamName,
)
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.stream.keep.instants import RowKeeper
from yoke_server.record.recorder.stream.keep.rows import KeptRows
from yoke_server.record.recorder.stream.keep.rules import InstantRule, RuleAtWork, WindowRule
from yoke_server.record.recorder.stream.keep.windows import WindowKeeper
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.store import Samples
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.watched import WatchedSetup

ROW_BYTES = 4 << 20  # or sooner, if so much waits

IsLeftOut = Callable[[PositionedBlock, Sequence[int]], bool]


@dataclass(slots=True)
class _Kept:
    """A rule with its streams, and from which sequence on it wants the blocks of each device."""

    name: str
    rule: KeepRule
    at_work: RuleAtWork
    rows: dict[str, KeptRows]
    next: dict[str, int] = field(default_factory=dict)
    left_out: set[str] = field(default_factory=set)  # devices whose last block it left out


@dataclass(slots=True)
class _Line:
    """What passed of a device, from the oldest block that some rule needs again."""

    passed: deque[tuple[int, int, PlacedSegment]] = field(default_factory=deque)
    last: PositionedBlock | None = None
    next: int | None = None  # sequence; None before the first block
    acquisition: int = 0


class Keeping:
    """Fills the streams of the rules of a run.

    streams : by device and rule name
    start_ns : bench time of the run's beginning
    is_left_out(block, legs) : whether a rule for some legs keeps nothing of a block
    """

    checkpoint_s: ClassVar = 8.0  # after which what is kept is written

    def __init__(
        self,
        run_id: int,
        setup: FrozenSetup,
        streams: Mapping[StreamName, KeptStream],
        monotonic: Callable[[], float],
        start_ns: Callable[[], int],
        is_left_out: IsLeftOut,
    ) -> None:
        self._run_id, self._monotonic = run_id, monotonic
        self._is_left_out = is_left_out
        self._due = monotonic() + self.checkpoint_s
        self._lines: dict[str, _Line] = {}
        watched = WatchedSetup(setup)
        self._rules: list[_Kept] = []
        for name, rule in zip(names_of(setup.keep_rules), setup.keep_rules, strict=True):
            rows = {
                label: KeptRows(stream) for (label, of), stream in streams.items() if of == name
            }
            if rows:
                at_work = _at_work(rule, watched, setup, rows, start_ns)
                self._rules.append(_Kept(name, rule, at_work, rows))

    @property
    def devices(self) -> set[str]:
        return {label for kept in self._rules for label in kept.rows}

    def next_of(self, label: str) -> int:
        """The sequence of the block of a device that it has not seen yet; 0 before the first."""
        line = self._lines.get(label)
        return line.next or 0 if line else 0

    def push_block(self, label: str, placed: PositionedBlock) -> None:
        """The next of a device; what a rule has had before a restart, it gets not again."""
        line = self._lines.setdefault(label, _Line())
        sequence = placed.block.sequence
        follows = line.last is None or placed.continues(line.last)
        missing = 0 if follows or line.last is None else sequence - line.last.block.sequence - 1
        line.acquisition = placed.block.acquisition
        line.passed.append((sequence, placed.first_sample, placed.segment))
        for kept in self._rules:
            self._give(kept, label, placed, follows, missing)
        line.last, line.next = placed.bare(), max(line.next or 0, sequence + 1)
        self._forget(label, line)

    def _give(
        self, kept: _Kept, label: str, placed: PositionedBlock, follows: bool, missing: int
    ) -> None:
        if (resumes_at := kept.next.get(label)) is not None:
            missing = placed.block.sequence - resumes_at
            if missing < 0:
                return
            follows = not missing
            del kept.next[label]
        left_out = self._is_left_out(placed, kept.rule.legs)
        follows = follows and label not in kept.left_out
        kept.at_work.push_block(label, placed, follows, missing, left_out)
        (kept.left_out.add if left_out else kept.left_out.discard)(label)

    def _needs(self, kept: _Kept, label: str) -> int:
        """From where on a rule wants a device's blocks after a restart now."""
        if label in kept.next:
            return kept.next[label]
        needs = kept.at_work.needs(label)
        return self.next_of(label) if needs is None else needs

    def _forget(self, label: str, line: _Line) -> None:
        oldest = min(self._needs(kept, label) for kept in self._rules)
        while len(line.passed) > 1 and line.passed[1][0] <= oldest:
            line.passed.popleft()

    @property
    def kept(self) -> dict[str, tuple[int, int]]:
        """Of each rule so far the samples of its longest stream, and the bytes of all."""
        return {
            kept.name: (
                max(rows.samples for rows in kept.rows.values()),
                sum(rows.nbytes for rows in kept.rows.values()),
            )
            for kept in self._rules
        }

    # Writing

    @property
    def is_due(self) -> bool:
        """Whether what waits is to be written."""
        waiting = sum(rows.waiting_bytes for kept in self._rules for rows in kept.rows.values())
        return bool(self._lines) and (self._monotonic() >= self._due or waiting >= ROW_BYTES)

    def take(self) -> list[Samples]:
        """What waits, a row for each stream that has some."""
        now = self._monotonic()
        self._due = now + self.checkpoint_s
        streams = (rows for kept in self._rules for rows in kept.rows.values())
        return [row for rows in streams for row in rows.take(self._run_id, now)]

    def finish(self) -> tuple[list[Samples], list[Closed]]:
        """The run is over: the last rows, and how each stream ends."""
        for kept in self._rules:
            kept.at_work.finish()
        rows = self.take()
        ends = [
            Closed(one.stream.stream_id, one.stored, one.chain, one.finish())
            for kept in self._rules
            for one in kept.rows.values()
        ]
        return rows, ends

    # Resuming

    @property
    def state(self) -> dict[str, Any]:
        """What is reached with all rows that `take` has given, as JSON."""
        return {
            "devices": {label: self._state_of(label) for label in self._lines},
            "rules": [
                {
                    "next": {label: self._needs(kept, label) for label in self._lines},
                    "left_out": sorted(kept.left_out),
                    "samples": {label: rows.samples for label, rows in kept.rows.items()},
                    "state": kept.at_work.state,
                }
                for kept in self._rules
            ],
        }

    def _state_of(self, label: str) -> dict[str, Any]:
        line = self._lines[label]
        sequence, first_sample, segment = line.passed[0]
        return {
            "acquisition": line.acquisition,
            "sequence": sequence,
            "first_sample": first_sample,
            "segment": asdict(segment),
            "next": line.next,
        }

    def resume(self, state: dict[str, Any]) -> dict[str, LinePlace]:
        """Go on from what was reached; from where each device is to send again."""
        for kept, one in zip(self._rules, state["rules"], strict=True):
            kept.next, kept.left_out = dict(one["next"]), set(one["left_out"])
            for label, rows in kept.rows.items():
                rows.samples = one["samples"][label]
            kept.at_work.resume(one["state"])
        places = {}
        for label, stored in state["devices"].items():
            place = Place(stored["acquisition"], stored["sequence"])
            segment = PlacedSegment(**stored["segment"])
            passed = deque([(place.sequence, stored["first_sample"], segment)])
            self._lines[label] = _Line(passed, None, stored["next"], place.acquisition)
            places[label] = LinePlace(place, stored["first_sample"], segment)
        return places


def _at_work(
    rule: KeepRule,
    watched: MeasuringSetup,
    setup: FrozenSetup,
    rows: Mapping[str, KeptRows],
    start_ns: Callable[[], int],
) -> RuleAtWork:
    """Raises SignalError where the rule lacks a channel to decide by."""
    columns = {label: columns_of(setup.of_device(label)) for label in rows}
    decider = rule.decider(watched)
    if rule.is_timed:
        keepers = {k: RowKeeper(one, columns[k], start_ns) for k, one in rows.items()}
        return InstantRule(decider, keepers)  # type: ignore[arg-type]
    factors = {label: rule.factor(setup.rates_hz[label]) for label in rows}
    windows = {k: WindowKeeper(one, columns[k], factors[k]) for k, one in rows.items()}
    return WindowRule(decider, windows, start_ns)  # type: ignore[arg-type]


def columns_of(channels: Sequence[FrozenChannel]) -> list[int]:
    """Where the inputs of channels stand in a block."""
    return [c.input_number - 1 for c in channels]
