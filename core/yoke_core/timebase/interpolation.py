"""A signal of one device at the instants of another, in bench time.

Between two samples the value lies on the cubic through the two and their neighbours, so that a
sine is kept to 0.1 % from sixteen samples a period on. Beside a gap, where a neighbour is
missing, it lies on the straight line; within a gap it is not known.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yoke_core.signals.filter_design import Band, FilterDesign

Array = NDArray[np.float64]
GAP = 1.5  # periods between two samples, from which on samples are missing
ALIAS_FREE = 0.4  # of the lower rate: what is faster is filtered out where a rate falls
ALIAS_ORDER = 8


def interpolate(times: Array, values: Array, at: Array, period_s: float) -> Array:
    """Values at instants between samples.

    Parameters
    ----------
    times : array (n,), s
        When the samples were taken, rising.
    values : array (n,)
        NaN where not known, infinite where clipped.
    at : array (m,), s
        Instants, rising.
    period_s : float
        Between two samples; farther apart is a gap.

    Returns
    -------
    array (m,)
        NaN before the first sample, after the last, and within gaps; infinite beside a clipped
        sample.

    Notes
    -----
    Lagrange's polynomial through four points. Source: Abramowitz and Stegun, 25.2.13.

    Examples
    --------
    >>> t = np.arange(6.0)
    >>> interpolate(t, t**3, np.array([2.5, 4.5, 9.0]), 1.0)
    array([15.625, 94.5  ,    nan])
    """
    if len(times) < 2:
        return np.full(len(at), np.nan)
    left = np.clip(np.searchsorted(times, at, side="right") - 1, 0, len(times) - 2)
    before, after = np.maximum(left - 1, 0), np.minimum(left + 2, len(times) - 1)
    places = np.stack([before, left, left + 1, after])
    t, v = times[places], np.where(np.isinf(values), np.nan, values)[places]
    joined = np.diff(t, axis=0) <= GAP * period_s
    share = (at - t[1]) / (t[2] - t[1])
    straight = v[1] + share * (v[2] - v[1])
    cubic = _lagrange(t, v, at)
    whole = joined.all(axis=0) & (before < left) & (after > left + 1) & np.isfinite(cubic)
    found = np.where(whole, cubic, straight)
    found = np.where(share == 0, v[1], np.where(share == 1, v[2], found))
    known = joined[1] & (at >= times[0]) & (at <= times[-1])
    return np.where(known, _clipped(values, left, share, found), np.nan)


def _lagrange(t: Array, v: Array, at: Array) -> Array:
    with np.errstate(divide="ignore", invalid="ignore"):
        terms = [
            v[i] * np.prod([(at - t[j]) / (t[i] - t[j]) for j in range(4) if j != i], axis=0)
            for i in range(4)
        ]
        return np.sum(terms, axis=0)


def _clipped(values: Array, left: NDArray[np.intp], share: Array, found: Array) -> Array:
    """Between a clipped sample and another it was beyond the range, or may have been."""
    first, second = values[left], values[left + 1]
    found = np.where(np.isinf(second) & (share > 0), second, found)
    return np.where(np.isinf(first) & (share < 1), first, found)


def anti_alias(rate_hz: float) -> FilterDesign:
    """The filter through which a faster signal goes before it is taken at a lower rate.

    Parameters
    ----------
    rate_hz : float
        The lower rate.

    Returns
    -------
    FilterDesign

    Examples
    --------
    >>> anti_alias(100.0).corners_hz
    (40.0,)
    """
    return FilterDesign(Band.LOW, (ALIAS_FREE * rate_hz,), ALIAS_ORDER)


@dataclass(slots=True)
class Interpolation:
    """`interpolate` while samples come: an instant is given once it is known, or given up.

    Parameters
    ----------
    period_s : float
        Of the signal.

    Examples
    --------
    >>> live = Interpolation(1.0)
    >>> live.push_signal(np.arange(4.0), np.arange(4.0) * 10)
    >>> live.push_instants(np.array([1.5, 2.5]))
    >>> live.take(), live.take(give_up_before=3.0)
    (array([15.]), array([nan]))
    """

    period_s: float
    _times: Array = field(default_factory=lambda: np.empty(0))
    _values: Array = field(default_factory=lambda: np.empty(0))
    _instants: Array = field(default_factory=lambda: np.empty(0))
    _last: float = -np.inf  # instant that was given

    def push_signal(self, times: Array, values: Array) -> None:
        """Samples of the signal, each later than those before."""
        self._times = np.concatenate([self._times, times])
        self._values = np.concatenate([self._values, values])

    def push_instants(self, at: Array) -> None:
        """Instants at which it is wanted, each later than those before."""
        self._instants = np.concatenate([self._instants, at])

    def take(self, give_up_before: float = -np.inf) -> Array:
        """Values of the next instants in order.

        give_up_before : instants before it, for which samples are still missing, give NaN
        """
        sure = self._times[-2] if len(self._times) >= 2 else -np.inf  # its neighbours are here
        known = int(np.searchsorted(self._instants, sure, side="right"))
        lost = int(np.searchsorted(self._instants, give_up_before))
        found = interpolate(self._times, self._values, self._instants[:known], self.period_s)
        taken = max(known, lost)
        if taken:
            self._last = float(self._instants[taken - 1])
        self._instants = self._instants[taken:]
        self._forget()
        return np.concatenate([found, np.full(max(0, lost - known), np.nan)])

    def _forget(self) -> None:
        """Samples that no instant after the last one can need."""
        needed = int(np.searchsorted(self._times, self._last, side="right")) - 2
        first = max(0, min(needed, len(self._times) - 3))
        self._times, self._values = self._times[first:], self._values[first:]
