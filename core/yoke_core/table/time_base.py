"""Whether the times of a table lie evenly, stretch by stretch, looked at batch by batch."""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import TableError

Array = NDArray[np.float64]
GAP = 1.5  # steps, beyond which rows are missing
UNEVEN = 0.5  # of a step, by which a row may stand off its place
MOST_STRETCHES = 10_000


@dataclass(slots=True)
class Stretch:
    """Rows [first, first + rows) that follow each other evenly, the first at ``start`` s."""

    first: int
    start: float
    rows: int
    end: float  # time of its last row

    @property
    def step(self) -> float | None:
        return (self.end - self.start) / (self.rows - 1) if self.rows > 1 else None


@dataclass(slots=True)
class TimeBase:
    """Takes the times of rows in order (`push`); raises `TableError` where they cannot be.

    ``line_of`` says of a row in which line of its file it stands.
    """

    step: float = 0.0  # s, between the rows of a stretch
    stretches: list[Stretch] = field(default_factory=list)
    rows: int = 0

    def push(self, times: Array, lines: NDArray[np.int64]) -> None:
        """Some rows more: seconds, and the line of each."""
        if not times.size:
            return
        last = self.stretches[-1].end if self.stretches else np.nan
        steps = np.diff(times, prepend=last)
        self._check_rising(steps, times, lines)
        known = steps[np.isfinite(steps)]
        if not self.step and known.size:
            self.step = float(np.median(known))
        self._check_even(steps, lines)
        begins = np.flatnonzero(~(steps <= GAP * self.step)) if self.step else np.array([0])
        self._extend(times, begins)

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

    def _check_even(self, steps: Array, lines: NDArray[np.int64]) -> None:
        """A row between two places fits no rate; one that is late by a gap is another matter."""
        short = np.flatnonzero(steps < (1 - UNEVEN) * self.step)
        if short.size:
            i = int(short[0])
            raise TableError(
                f"The times are not even: line {lines[i]} comes {steps[i]:.6g} s after the one "
                f"before, the others {self.step:.6g} s.",
                "Choose another column for the time, or none and a rate.",
                line=int(lines[i]),
            )

    def _extend(self, times: Array, begins: NDArray[np.intp]) -> None:
        """Rows up to the first beginning go on with the last stretch."""
        ends = [*begins.tolist(), times.size]
        if ends[0] > 0:
            going_on = self.stretches[-1]
            going_on.rows += ends[0]
            going_on.end = float(times[ends[0] - 1])
        for a, b in pairwise(ends):
            if len(self.stretches) >= MOST_STRETCHES:
                raise TableError(
                    f"The times have more than {MOST_STRETCHES} gaps.",
                    "Choose another column for the time, or none and a rate.",
                )
            self.stretches.append(
                Stretch(self.rows + a, float(times[a]), b - a, float(times[b - 1]))
            )
        self.rows += times.size
