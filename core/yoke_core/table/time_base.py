"""How the times of a table lie: in straight segments, found as the rows come."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from itertools import zip_longest

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import TableError

Array = NDArray[np.float64]
GAP = 1.5  # steps, beyond which rows are missing
OFF = 0.05  # of a step, by which a row may stand off its segment's straight line
FINEST = 1e-9  # s; finer times no text file has
OFTEN = 0.05  # of the steps, from which their differences come of rounding
LOOKED_AT = 2000  # times, by which it is told to how many decimals they are written
MAX_SEGMENTS = 10_000


@dataclass(slots=True)
class RowSegment:
    """Rows [first, first + rows) on a straight line of time, the first at ``start`` s.

    step : s from row to row; None of a single row
    is_gap : rows before it are missing; else it goes on with another step
    """

    first: int
    start: float
    rows: int
    end: float  # time of its last row
    step: float | None
    is_gap: bool


@numba.njit(cache=True, nogil=True)
def _goes_on(times, at, state, off, longest):  # type: ignore[no-untyped-def]
    """Take times from ``at`` on into the segment that ``state`` describes; where the next begins.

    state : start, rows, last time, last step, least and largest step that fits all its rows
    longest : s without a row, beyond which some are missing unless the one before took as long
    """
    while at < times.size:
        step = times[at] - state[2]
        if step > max(longest, GAP * state[3]):
            return at, True
        passed, rows = times[at] - state[0], state[1]
        least = max(state[4], (passed - off) / rows)
        largest = min(state[5], (passed + off) / rows)
        if least > largest:
            return at, False
        state[1], state[2], state[3] = rows + 1, times[at], step
        state[4], state[5] = least, largest
        at += 1
    return at, False


@dataclass(slots=True)
class TimeBase:
    """Takes the times of rows in order (`push`); raises `TableError` where they cannot be.

    Times that drift, or are uneven, lie in many segments, each straight to `OFF` of a step
    (and to what they are rounded to).
    """

    step: float = 0.0  # s, the usual one
    found_segments: list[RowSegment] = field(default_factory=list)
    rows: int = 0
    _state: Array = field(default_factory=lambda: np.zeros(6))
    _off: float = 0.0
    _longest: float = np.inf

    def push(self, times: Array, lines: NDArray[np.int64]) -> None:
        """Some rows more: seconds, and the line of each."""
        if not times.size:
            return
        last = self.found_segments[-1].end if self.found_segments else np.nan
        steps = np.diff(times, prepend=last)
        self._check_rising(steps, times, lines)
        known = steps[np.isfinite(steps)]
        if not self.step and known.size:
            self.step = float(np.median(known))
            rounded = _rounded(times[:LOOKED_AT], self.step)
            self._off = min(max(OFF * self.step, rounded), 0.5 * self.step)
            self._longest = GAP * self.step + rounded
        self._extend(times)

    def segments(self) -> Iterator[RowSegment]:
        """The segments, each with a step and none reaching into the next one: where a row takes
        less time than those before it, it is a segment of its own."""
        for segment, after in zip_longest(self.found_segments, self.found_segments[1:]):
            step = segment.step or self.step
            room = after.start - segment.start if after else np.inf
            if segment.rows == 1 or segment.rows * step <= room + self._off:
                yield replace(segment, step=min(step, room / segment.rows))
                continue
            before, end = segment.rows - 1, segment.end
            until = min(step, (end - segment.start) / before)
            yield replace(segment, rows=before, end=end - until, step=until)
            yield RowSegment(segment.first + before, end, 1, end, after.start - end, is_gap=False)

    def _check_rising(self, steps: Array, times: Array, lines: NDArray[np.int64]) -> None:
        back = np.flatnonzero(steps <= 0)
        if back.size:
            i = int(back[0])
            what = "stands still" if steps[i] == 0 else "runs back"
            raise TableError(
                f"The time {what} in line {lines[i]}, at {times[i]:.6g} s.",
                "Choose another column for the time, or none and a rate.",
                line=int(lines[i]),
            )

    def _extend(self, times: Array) -> None:
        at, is_gap = 0, False
        if self.found_segments:
            at, is_gap = _goes_on(times, 0, self._state, self._off, self._longest)
            self._take_over()
        while at < times.size:
            self._begin(self.rows + at, float(times[at]), is_gap)
            at, is_gap = _goes_on(times, at + 1, self._state, self._off, self._longest)
            self._take_over()
        self.rows += times.size

    def _begin(self, first: int, start: float, is_gap: bool) -> None:
        if len(self.found_segments) >= MAX_SEGMENTS:
            raise TableError(
                f"The times change their step more than {MAX_SEGMENTS} times.",
                "Choose another column for the time, or none and a rate.",
            )
        self.found_segments.append(RowSegment(first, start, 1, start, None, is_gap))
        self._state[:] = start, 1, start, self.step, -np.inf, np.inf

    def _take_over(self) -> None:
        segment, state = self.found_segments[-1], self._state
        segment.rows, segment.end = int(state[1]), float(state[2])
        if segment.rows > 1:
            # The middle of what fits; of two rows, where they are.
            segment.step = float(state[4] + state[5]) / 2


def _rounded(times: Array, step: float) -> float:
    """By how much times stand off because they are rounded, s: a row, and the one that its segment
    begins with. 0 where the steps show nothing of it."""
    resolution = _resolution(times)
    off = np.abs(np.diff(times) - step) > 0.25 * resolution
    return 1.02 * resolution if off.sum() > OFTEN * off.size else 0.0


def _resolution(times: Array) -> float:
    """To what times are rounded, s: the largest power of ten that all are multiples of."""
    finest = FINEST
    for power in range(9, -1, -1):
        unit = 10.0**-power
        if np.abs(times / unit - np.round(times / unit)).max() > 1e-6 * max(
            1.0, np.abs(times).max() / unit * 1e-6
        ):
            break
        finest = unit
    return finest
