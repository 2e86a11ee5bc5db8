"""Statistics of a stretch of samples that come in pieces, in one pass over them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import SummaryError

Array = NDArray[np.float64]
GAP = 1.5  # steps, beyond which samples are missing between two


@dataclass(frozen=True, slots=True)
class Statistics:
    """Of ``count`` samples that have a value; SI, times in s.

    deviation : n - 1 under the root; 0 of a single sample
    rms : root of the mean square
    area : under the straight lines between samples, over ``seconds``; gaps are left out
    slope : of the straight line with the least squares, per s; None where all are at one time
    above : seconds above the level, by straight lines between samples; None without a level
    """

    count: int
    left_out: int
    seconds: float
    lowest: float
    highest: float
    mean: float
    deviation: float
    rms: float
    area: float
    slope: float | None
    above: float | None

    @property
    def peak_to_peak(self) -> float:
        return self.highest - self.lowest


class StretchStatistics:
    """Takes samples in order, in pieces of any size, and gives what they come to.

    Samples without a value (NaN; infinite where they clipped) are left out, and no line is drawn
    over them.

    Parameters
    ----------
    step : float, s
        Between two samples; those further apart than 1.5 of it have a gap between them.
    level : float, optional
        Of which the time above is wanted.

    Notes
    -----
    Means and sums of squares are merged by pieces, so that no digits are lost over many samples.
    Source: Chan, Golub and LeVeque, Updating formulae and a pairwise algorithm for computing
    sample variances (1979).

    Examples
    --------
    >>> found = StretchStatistics(step=0.5, level=1.0)
    >>> found.push(np.array([0.0, 0.5, 1.0]), np.array([0.0, 2.0, 2.0]))
    >>> got = found.finish()
    >>> got.mean, got.area, got.above
    (1.3333333333333333, 1.5, 0.75)
    """

    def __init__(self, step: float, level: float | None = None) -> None:
        if not step > 0:
            raise SummaryError("step", "The time between two samples must be more than nothing.")
        self._step, self._level = step, level
        self._count = self._left_out = 0
        self._lowest, self._highest = np.inf, -np.inf
        self._mean = self._time = 0.0  # means of values and of times
        self._m2 = self._tt = self._ty = 0.0  # sums of squares and products about the means
        self._seconds = self._area = self._above = 0.0
        self._last: tuple[float, float] | None = None

    def push(self, seconds: Array, values: Array) -> None:
        """The next samples: (n,) times and (n,) values."""
        known = np.isfinite(values)
        self._left_out += int(len(values) - known.sum())
        self._draw(seconds, values)
        if known.any():
            self._merge(seconds[known], values[known])

    def _merge(self, times: Array, values: Array) -> None:
        count, before = len(values), self._count
        mean, time = float(values.mean()), float(times.mean())
        dy, dt = values - mean, times - time
        apart, way = mean - self._mean, time - self._time
        share = count / (before + count)
        weight = before * share
        self._m2 += float(dy @ dy) + apart * apart * weight
        self._tt += float(dt @ dt) + way * way * weight
        self._ty += float(dt @ dy) + way * apart * weight
        self._mean += apart * share
        self._time += way * share
        self._count += count
        self._lowest = min(self._lowest, float(values.min()))
        self._highest = max(self._highest, float(values.max()))

    def _draw(self, times: Array, values: Array) -> None:
        """Straight lines between neighbours that both have a value, with the sample before."""
        if self._last is not None:
            times, values = np.append(self._last[0], times), np.append(self._last[1], values)
        if not len(times):
            return
        self._last = float(times[-1]), float(values[-1])
        width, left, right = np.diff(times), values[:-1], values[1:]
        joined = np.isfinite(left) & np.isfinite(right) & (width <= GAP * self._step)
        width, left, right = width[joined], left[joined], right[joined]
        self._seconds += float(width.sum())
        self._area += float(width @ (left + right)) / 2
        if self._level is not None:
            self._above += float(width @ _share_above(left - self._level, right - self._level))

    def finish(self) -> Statistics:
        """What all samples come to; raises SummaryError where none has a value."""
        if not self._count:
            raise SummaryError("stretch", "No sample of the stretch has a value.")
        spread = self._m2 / (self._count - 1) if self._count > 1 else 0.0
        square = self._mean**2 + self._m2 / self._count
        return Statistics(
            self._count,
            self._left_out,
            self._seconds,
            self._lowest,
            self._highest,
            self._mean,
            float(np.sqrt(spread)),
            float(np.sqrt(square)),
            self._area,
            self._ty / self._tt if self._tt > 0 else None,
            None if self._level is None else self._above,
        )


def _share_above(left: Array, right: Array) -> Array:
    """How much of each straight line lies above nothing."""
    high, low = np.maximum(left, right), np.minimum(left, right)
    with np.errstate(divide="ignore", invalid="ignore"):
        crossing = high / (high - low)
    share: Array = np.where(low >= 0, 1.0, np.where(high <= 0, 0.0, crossing))
    return np.where((low == 0) & (high == 0), 0.0, share)
