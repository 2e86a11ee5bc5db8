"""Keeping stretches of samples of one device, whole or at a lower rate."""

from collections import deque
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from yoke_core.keeping.decimation import Decimator

from yoke_server.record.models import Cause
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.stream.keep.rows import KeptRows
from yoke_server.record.recorder.stream.positioned import PositionedBlock

Mask = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Origin:
    """Where the samples of a stretch from ``at`` on were taken: ``first`` is its number on the
    device's line."""

    at: int
    first: int
    cause: Cause
    segment: PlacedSegment
    device_ns: int
    rate_hz: float  # by the device's clock
    missing: int


class WindowKeeper:
    """Fills the stream of one device with the stretches that a rule keeps.

    columns : of the device's inputs, in the order of the stream
    needs : the sequence of the oldest block that a restart must see again
    """

    def __init__(self, rows: KeptRows, columns: list[int], factor: int) -> None:
        self._rows, self._columns = rows, columns
        self._decimator = Decimator(factor, len(columns))
        self._taken = 0  # samples of the stretch so far
        self._origins: deque[Origin] = deque()
        self._segment: PlacedSegment | None = None
        self._blocks: deque[tuple[int, int, int]] = deque()  # sequence, taken before it, begins at
        self._is_open = False  # whether the last sample was kept
        self._left_out = False  # whether something was left out on purpose since then
        self._skip = 0  # samples of the next block that are not needed again

    def keep(self, placed: PositionedBlock, mask: Mask, follows: bool, missing: int) -> None:
        """The next block.

        mask : (n,), which samples are kept
        follows, missing : whether it continues the one before, else how many blocks are missing
        """
        if not follows:
            self._end()
            self._is_open = False
        first, self._skip = self._skip, 0
        mask[:first] = False
        for begin, end in stretches(mask):
            if begin > first or not self._is_open:
                self._end()
                self._begin(placed, begin, 0 if begin else missing)
                self._is_open = True
            elif placed.segment != self._segment:
                self._note(placed, begin, Cause.CLOCK, 0)
            self._push(placed, begin, end)
        if not mask[-1]:
            self._end()
        self._is_open, self._left_out = bool(mask[-1]), not mask[-1]

    def finish(self) -> None:
        """No more comes."""
        self._end()

    def leave_out(self) -> None:
        """Keep nothing of a block, also where the rule would keep it."""
        self._end()
        self._is_open, self._left_out = False, True

    def _begin(self, placed: PositionedBlock, begin: int, missing: int) -> None:
        self._taken = 0
        if not self._rows.samples:
            cause = Cause.START
        elif begin or self._left_out:
            cause = Cause.BURST
        else:
            cause = Cause.GAP if missing else Cause.STEP
        self._note(placed, begin, cause, missing if cause is not Cause.BURST else 0)

    def _note(self, placed: PositionedBlock, begin: int, cause: Cause, missing: int) -> None:
        block, self._segment = placed.block, placed.segment
        self._origins.append(
            Origin(
                self._taken,
                placed.first_sample + begin,
                cause,
                placed.segment,
                block.time_ns + round(begin * 1e9 / block.rate_hz),
                block.rate_hz,
                missing,
            )
        )

    def _push(self, placed: PositionedBlock, begin: int, end: int) -> None:
        first = self._decimator.given
        self._blocks.append((placed.block.sequence, self._taken, begin))
        values = placed.summary.ratios[self._columns, begin:end].astype(np.float64)
        self._taken += end - begin
        self._give(self._decimator.push(values), first)
        while len(self._blocks) > 1 and self._blocks[1][1] <= self._decimator.first_needed:
            self._blocks.popleft()

    def _end(self) -> None:
        first = self._decimator.given
        self._give(self._decimator.finish(), first)
        self._origins.clear()
        self._blocks.clear()
        self._taken = 0

    def _give(self, values: NDArray[np.float64], first: int) -> None:
        """Outputs from number ``first`` of the stretch on, with the segments that begin there."""
        factor, done, count = self._decimator.factor, 0, values.shape[1]
        while self._origins and -(-self._origins[0].at // factor) < first + count:
            origin = self._origins.popleft()
            at = max(first, -(-origin.at // factor))
            self._rows.push(values[:, done : at - first])
            done = at - first
            self._begin_segment(origin, at * factor - origin.at)
        self._rows.push(values[:, done:])

    def _begin_segment(self, origin: Origin, after: int) -> None:
        """A segment that begins some samples after an origin."""
        line = origin.segment
        self._rows.begin_segment(
            origin.cause.value,
            origin.device_ns + round(after * 1e9 / origin.rate_hz),
            line.bench_of(origin.first + after),
            line.rate_hz / self._decimator.factor,
            line.acquisition,
            origin.missing,
        )

    # Resuming

    @property
    def needs(self) -> int | None:
        """None: those that come next will do."""
        return self._blocks[0][0] if self._blocks and self._decimator.factor > 1 else None

    @property
    def state(self) -> dict[str, Any]:
        """As JSON. What waits for its filter is not in it: it is made again from `needs` on."""
        given, cause = self._decimator.given, self._origins[0].cause if self._origins else None
        from_sample = 0
        if self._blocks and self._decimator.factor > 1:
            _, taken, begin = self._blocks[0]
            from_sample = begin + self._decimator.first_needed - taken
        begun = self._decimator.factor == 1 or given > 0
        return {
            "given": given,
            "from": from_sample,
            "open": self._is_open and begun,
            "left": self._left_out if begun else cause is Cause.BURST,
        }

    def resume(self, state: dict[str, Any]) -> None:
        """Go on; the next block is the one that it `needs`, or follows the last one."""
        self._is_open, self._left_out = state["open"], state["left"]
        self._skip = state["from"]
        if self._is_open and self._decimator.factor > 1:
            self._decimator.go_on(state["given"])
            self._taken = self._decimator.first_needed


def stretches(mask: Mask) -> list[tuple[int, int]]:
    """(first, behind the last) of each stretch that is kept."""
    if mask.all():
        return [(0, len(mask))]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]
