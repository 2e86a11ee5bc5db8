"""Keeping single rows of one device, each with its time."""

from collections import deque
from collections.abc import Callable, Sequence
from math import floor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yoke_server.kinds.number_text import as_text, of_text
from yoke_server.record.recorder.stream.keep.rows import KeptRows
from yoke_server.record.recorder.stream.positioned import PositionedBlock

Array = NDArray[np.float64]
NEAR = 1e-3  # of a sample's time, within which an instant is that sample's
PATIENCE_NS = 20_000_000_000  # for which blocks are kept until the lead has seen their time


class RowKeeper:
    """Fills the stream of one device with its readings at the instants of a rule.

    An instant between two samples is interpolated; one at which samples are missing has no
    values (NaN). An instant may be named before it is known whether it is kept.
    """

    def __init__(self, rows: KeptRows, columns: list[int], start_ns: Callable[[], int]) -> None:
        self._rows, self._columns, self._start_ns = rows, columns, start_ns
        self._nothing = np.full(len(columns), np.nan)
        self._history: deque[tuple[PositionedBlock, bool]] = deque()  # and whether it follows
        self._told_ns = 0  # up to which the lead has seen samples
        self._values: dict[int, Array] = {}  # of instants that may be kept
        self._wanted: set[int] = set()  # not sampled yet
        self._kept: deque[int] = deque()  # not given out yet

    def push_block(self, placed: PositionedBlock, follows: bool) -> None:
        """The next block of this device."""
        self._history.append((placed, follows))
        self._look()
        self._forget()

    def tell(self, kept: Sequence[int], candidates: Sequence[int], until_ns: int) -> None:
        """Instants (bench time, ns) that are kept, and those that may be later; what else was
        named before is not kept.

        until_ns : up to which it is known
        """
        self._told_ns = max(self._told_ns, until_ns)
        self._kept.extend(kept)
        named = {*self._kept, *candidates}
        self._values = {at: row for at, row in self._values.items() if at in named}
        self._wanted = named - set(self._values)
        self._look()
        self._forget()

    def finish(self) -> None:
        """No more comes: instants that were not reached have no values."""
        for at in self._kept:
            self._values.setdefault(at, self._nothing)
        self._wanted.clear()
        self._look()

    def _look(self) -> None:
        for at in sorted(self._wanted):
            row = self._sample(at)
            if row is not None:
                self._values[at] = row
        self._wanted -= set(self._values)
        while self._kept and self._kept[0] in self._values:
            at = self._kept.popleft()
            seconds = (at - self._start_ns()) * 1e-9
            self._rows.push(np.append(self._values[at], seconds)[:, None])

    def _sample(self, at_ns: int) -> Array | None:
        """The readings at an instant; None where they are still to come."""
        for place, (placed, _) in enumerate(self._history):
            if at_ns < placed.end_ns:
                return self._between(place, placed, at_ns)
        return None

    def _between(self, place: int, placed: PositionedBlock, at_ns: int) -> Array | None:
        """At an instant before the end of the block at a place of the history."""
        away = (at_ns - placed.begin_ns) * 1e-9 * placed.segment.rate_hz
        first, share = floor(away), away - floor(away)
        if share > 1 - NEAR:
            first, share = first + 1, 0.0
        if first < -1:
            return self._nothing
        last = placed.block.samples - 1
        left = self._row(placed, min(first, last)) if first >= 0 else self._before(place)
        if share < NEAR or first > last:
            return left
        if first < last:
            return _mean(left, self._row(placed, first + 1), share)
        if place + 1 == len(self._history):
            return None
        then, follows = self._history[place + 1]
        return _mean(left, self._row(then, 0) if follows else self._nothing, share)

    def _before(self, place: int) -> Array:
        """The last sample before a block; nothing where it is missing."""
        follows = self._history[place][1]
        if not follows or not place:
            return self._nothing
        before = self._history[place - 1][0]
        return self._row(before, before.block.samples - 1)

    def _row(self, placed: PositionedBlock, sample: int) -> Array:
        found: Array = placed.summary.ratios[self._columns, sample].astype(np.float64)
        return found

    def _forget(self) -> None:
        newest = self._history[-1][0].end_ns if self._history else 0
        until = max(min(self._told_ns, *self._wanted, newest), newest - PATIENCE_NS)
        while len(self._history) > 1 and self._history[0][0].end_ns <= until:
            if self._history[1][0].end_ns > until:
                break  # the last one before it, for what lies between
            self._history.popleft()

    # Resuming

    @property
    def needs(self) -> int | None:
        """The sequence of the oldest block that a restart must see again."""
        return self._history[0][0].block.sequence if self._history else None

    @property
    def state(self) -> dict[str, Any]:
        """As JSON."""
        return {
            "values": {str(at): as_text(row.tolist()) for at, row in self._values.items()},
            "wanted": sorted(self._wanted),
            "kept": list(self._kept),
        }

    def resume(self, state: dict[str, Any]) -> None:
        """Go on; the next block is the one that it `needs`."""
        self._values = {int(at): np.array(of_text(row)) for at, row in state["values"].items()}
        self._wanted, self._kept = set(state["wanted"]), deque(state["kept"])


def _mean(left: Array, right: Array, share: float) -> Array:
    with np.errstate(invalid="ignore"):
        found: Array = np.where(left == right, left, left + share * (right - left))
    return found
