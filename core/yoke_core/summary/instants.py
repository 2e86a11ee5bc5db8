"""Instants of a run to a fraction of a sample, found in pieces: a threshold passed, a peak."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Crossing:
    """When a channel first passes a level, having been beyond it by a hysteresis before.

    Parameters
    ----------
    level : float
    hysteresis : float
        How far below (of one that falls: above) it must have been; not below 0.
    rising : bool
        Whether it rises or falls through the level.

    Notes
    -----
    Between the two samples about the level the signal is taken as a straight line. Samples
    without a value break the line: no crossing lies beside one.

    Examples
    --------
    >>> found = Crossing(1.0, 0.5, rising=True)
    >>> found.push(np.array([0.0, 1.0, 2.0]), np.array([0.0, 0.8, 1.2]))
    True
    >>> found.at
    1.5
    """

    def __init__(self, level: float, hysteresis: float, *, rising: bool) -> None:
        self._sign = 1.0 if rising else -1.0
        self._level, self._hysteresis = level, max(0.0, hysteresis)
        self._ready = False
        self._last: tuple[float, float] | None = None
        self.at: float | None = None

    def push(self, seconds: Array, values: Array) -> bool:
        """The next samples, (n,) times and (n,) values; whether the crossing is found."""
        if self.at is not None or not len(seconds):
            return self.at is not None
        beyond = self._sign * (values - self._level)
        if self._last is not None:
            seconds = np.append(self._last[0], seconds)
            beyond = np.append(self._last[1], beyond)
        self._last = float(seconds[-1]), float(beyond[-1])
        armed = np.logical_or.accumulate(beyond <= -self._hysteresis) | self._ready
        with np.errstate(invalid="ignore"):
            passes = (beyond[:-1] < 0) & (beyond[1:] >= 0) & np.isfinite(beyond[:-1])
        passes &= np.isfinite(beyond[1:]) & armed[:-1]
        self._ready = bool(armed[-1])
        if not passes.any():
            return False
        i = int(np.argmax(passes))
        share = -beyond[i] / (beyond[i + 1] - beyond[i])
        self.at = float(seconds[i] + share * (seconds[i + 1] - seconds[i]))
        return True


class Peak:
    """When a channel is highest, by the parabola through the highest sample and its neighbours.

    Parameters
    ----------
    lowest : bool
        The lowest instead.

    Examples
    --------
    >>> found = Peak()
    >>> t = np.arange(8.0)
    >>> found.push(t, -((t - 3.25) ** 2))
    >>> round(found.finish(), 6)
    3.25
    """

    def __init__(self, *, lowest: bool = False) -> None:
        self._sign = -1.0 if lowest else 1.0
        self._height = -np.inf
        self._about: list[tuple[float, float]] = []  # the sample before, the highest, the one after
        self._before: tuple[float, float] | None = None
        self._wants_next = False

    def push(self, seconds: Array, values: Array) -> None:
        """The next samples: (n,) times and (n,) values."""
        if not len(seconds):
            return
        heights = np.where(np.isfinite(values), self._sign * values, -np.inf)
        if self._wants_next:
            self._about.append((float(seconds[0]), float(heights[0])))
            self._wants_next = False
        i = int(np.argmax(heights))
        if heights[i] > self._height:
            self._height = float(heights[i])
            before = (float(seconds[i - 1]), float(heights[i - 1])) if i else self._before
            here = (float(seconds[i]), float(heights[i]))
            self._about = [before, here] if before else [here]
            self._wants_next = i + 1 == len(seconds)
            if not self._wants_next:
                self._about.append((float(seconds[i + 1]), float(heights[i + 1])))
        self._before = float(seconds[-1]), float(heights[-1])

    def finish(self) -> float | None:
        """Its instant; None where no sample has a value."""
        if not np.isfinite(self._height):
            return None
        place = next(i for i, (_, h) in enumerate(self._about) if h == self._height)
        at = self._about[place][0]
        if place != 1 or len(self._about) < 3:
            return at
        (t0, a), (_, b), (t2, c) = self._about
        bend = a - 2 * b + c
        if not np.isfinite(bend) or bend >= 0 or abs((t2 - at) - (at - t0)) > 0.5 * (at - t0):
            return at  # level, or beside a gap
        return at + 0.25 * (a - c) / bend * (t2 - t0)
