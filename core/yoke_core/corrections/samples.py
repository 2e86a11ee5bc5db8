"""Operations on the samples of a stored segment. What was recorded stays; these give new ones."""

import math
from fractions import Fraction

import numpy as np

from yoke_core.errors import SignalError
from yoke_core.signals.node import Array

SIGMA = 1.4826  # standard deviations per median absolute deviation, of a normal distribution
MAX_REACH = 5000
CHUNK = 1024  # windows at once: memory stays flat
RATIO_DENOMINATOR = 1000


def despike(signal: Array, reach: int, deviations: float = 4.0) -> Array:
    """A signal without single samples that stand out, by Hampel's rule.

    Parameters
    ----------
    signal : array (n,)
        What is not known, or clipped, stays so.
    reach : int
        Samples to each side with which one is compared; 1 to 5000.
    deviations : float
        How many standard deviations a sample may lie off their median.

    Returns
    -------
    array (n,)
        Samples that lie farther off are the median; all others as they were.

    Raises
    ------
    SignalError
        If the reach is outside its bounds, or ``deviations`` not above zero.

    Notes
    -----
    The deviation is 1.4826 times the median absolute deviation. Source: Hampel, Journal of the
    American Statistical Association 69 (1974) 383; at the ends fewer samples are compared.

    Examples
    --------
    >>> despike(np.array([1.0, 1.1, 0.9, 50.0, 1.0, 1.1, 0.9]), reach=3)
    array([1. , 1.1, 0.9, 1. , 1. , 1.1, 0.9])
    """
    if not 1 <= reach <= MAX_REACH or not (math.isfinite(deviations) and deviations > 0):
        raise SignalError(
            "reach",
            f"Spikes are looked for among 1 to {MAX_REACH} samples to each side, not {reach}.",
            "Choose fewer samples, and deviations above zero.",
        )
    found = np.array(signal, dtype=float)
    finite = np.where(np.isfinite(found), found, np.nan)
    padded = np.pad(finite, reach, constant_values=np.nan)
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
    for first in range(0, len(found), CHUNK):
        part = windows[first : first + CHUNK]
        with np.errstate(invalid="ignore"):
            middle = _median(part)
            spread = SIGMA * _median(np.abs(part - middle[:, None]))
            out = np.abs(finite[first : first + CHUNK] - middle) > deviations * spread
        found[first : first + CHUNK][out] = middle[out]
    return found


def _median(windows: Array) -> Array:
    """Of each row, its unknown samples left out; NaN where all are."""
    ordered = np.sort(windows, axis=1)  # NaN comes last
    count = np.count_nonzero(~np.isnan(ordered), axis=1)
    rows = np.arange(len(ordered))
    low, high = np.maximum(count - 1, 0) // 2, np.minimum(count // 2, ordered.shape[1] - 1)
    return np.asarray((ordered[rows, low] + ordered[rows, high]) / 2)


def detrend(signal: Array) -> Array:
    """A segment without its least-squares line.

    Parameters
    ----------
    signal : array (n,)

    Returns
    -------
    array (n,)
        What is not known, or clipped, counts not and stays so.

    Examples
    --------
    >>> np.abs(detrend(np.array([1.0, 2.0, np.nan, 4.0]))).round(9)
    array([ 0.,  0., nan,  0.])
    """
    known = np.isfinite(signal)
    if np.count_nonzero(known) < 2:
        return np.array(signal, dtype=float)
    at = np.arange(len(signal)) - np.mean(np.flatnonzero(known))
    slope = np.dot(at[known], signal[known]) / np.dot(at[known], at[known])
    return np.asarray(signal - (np.mean(signal[known]) + slope * at))


def zero_on_window(signal: Array, first: int, last: int) -> Array:
    """A signal less its mean in a window.

    Parameters
    ----------
    signal : array (n,)
    first, last : int
        The window, from a sample to the one behind its last.

    Returns
    -------
    array (n,)

    Raises
    ------
    SignalError
        If no sample of the window is known.

    Examples
    --------
    >>> zero_on_window(np.array([1.0, 3.0, 5.0]), 0, 2)
    array([-1.,  1.,  3.])
    """
    window = np.asarray(signal[first:last], dtype=float)
    known = window[np.isfinite(window)]
    if not len(known):
        raise SignalError(
            "window",
            "There is no known sample in the window.",
            "Choose a window in which the channel was measured.",
        )
    return np.asarray(signal - known.mean())


def resample(signal: Array, rate_hz: float, to_hz: float) -> Array:
    """A segment at another rate, without what the lower rate could not hold.

    Parameters
    ----------
    signal : array (n,)
        Known throughout.
    rate_hz, to_hz : float
        Their ratio is taken to within a thousandth.

    Returns
    -------
    array (m,)
        From the first sample on.

    Raises
    ------
    SignalError
        If a sample is not known, or a rate not above zero.

    Examples
    --------
    >>> len(resample(np.ones(1000), 1000.0, 250.0))
    250
    """
    from scipy.signal import resample_poly

    if not (rate_hz > 0 and to_hz > 0 and math.isfinite(rate_hz * to_hz)):
        raise SignalError("to_hz", "A rate must be above zero.", "Give the rate in Hz.")
    if not np.isfinite(signal).all():
        raise SignalError(
            "signal",
            "Samples that are not known cannot be taken at another rate.",
            "Choose a stretch without gaps and clipped samples.",
        )
    ratio = Fraction(to_hz / rate_hz).limit_denominator(RATIO_DENOMINATOR)
    if not ratio:
        raise SignalError("to_hz", f"{to_hz:g} Hz is too low for {rate_hz:g} Hz.", "Go in steps.")
    # About its first value, so that no step at its ends is filtered.
    base = float(signal[0]) if len(signal) else 0.0
    found = resample_poly(np.asarray(signal) - base, ratio.numerator, ratio.denominator)
    return np.asarray(found + base)
