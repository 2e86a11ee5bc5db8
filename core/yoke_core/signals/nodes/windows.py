"""What a signal was like over the last seconds: mean, RMS, deviation, lowest, highest."""

from collections.abc import Sequence
from dataclasses import dataclass

import numba
import numpy as np

from yoke_core.errors import SignalError
from yoke_core.signals.node import Array, Node, Process

MAX_SAMPLES = 1 << 20  # of a window: some 40 MB each
MEAN, RMS, DEVIATION, LOWEST, HIGHEST = range(5)
STATISTICS = {
    "mean": MEAN,
    "rms": RMS,
    "deviation": DEVIATION,
    "lowest": LOWEST,
    "highest": HIGHEST,
}
FIGURES = 5  # of a part of a window: count, mean, sum of squared deviations, lowest, highest


@numba.njit(cache=True, nogil=True)
def _add(part, x):  # type: ignore[no-untyped-def]
    """One more sample. Source: Welford, Technometrics 4 (1962) 419."""
    part[0] += 1
    apart = x - part[1]
    part[1] += apart / part[0]
    part[2] += apart * (x - part[1])
    part[3] = min(part[3], x)
    part[4] = max(part[4], x)


@numba.njit(cache=True, nogil=True)
def _clear(part):  # type: ignore[no-untyped-def]
    part[0], part[1], part[2] = 0.0, 0.0, 0.0
    part[3], part[4] = np.inf, -np.inf


@numba.njit(cache=True, nogil=True)
def _figure(statistic, a, b):  # type: ignore[no-untyped-def]
    """A statistic of two parts together. Source: Chan, Golub and LeVeque, 1979."""
    if statistic == LOWEST:
        return min(a[3], b[3])
    if statistic == HIGHEST:
        return max(a[4], b[4])
    count = a[0] + b[0]
    apart = b[1] - a[1]
    mean = a[1] + apart * b[0] / count
    if statistic == MEAN:
        return mean
    squares = a[2] + b[2] + apart * apart * a[0] * b[0] / count
    if statistic == DEVIATION:
        return np.sqrt(squares / (count - 1)) if count > 1 else np.nan
    return np.sqrt(squares / count + mean * mean)


@numba.njit(cache=True, nogil=True)
def _window(x, statistic, width, seen, recent, ends, growing, nothing, out):  # type: ignore[no-untyped-def]
    """Windows end at each sample. Time since the start is divided into parts as long as a window.

    A window is the end of one part and the beginning of the next: ``ends`` holds the figures of
    the last part from each place to its end, ``growing`` those of the present part so far. So each
    sample costs the same, and no error builds up. Source: van Herk (1992), Gil and Werman (1993).
    """
    extreme = statistic in (LOWEST, HIGHEST)
    for i in range(x.size):
        value = x[i]
        if np.isnan(value) or (np.isinf(value) and not extreme):
            seen = 0
            out[i] = np.nan
            continue
        at = seen % width
        if at == 0:
            _clear(growing)
        recent[at] = value
        _add(growing, value)
        seen += 1
        if seen < width:
            out[i] = np.nan
        elif at == width - 1:
            out[i] = _figure(statistic, growing, nothing)
        else:
            out[i] = _figure(statistic, ends[at + 1], growing)
        if at == width - 1:
            _clear(growing)
            for k in range(width - 1, -1, -1):
                _add(growing, recent[k])
                ends[k] = growing
    return seen


@dataclass(frozen=True, slots=True)
class Window:
    """A statistic over the last ``seconds``; not known until so many samples follow each other.

    Parameters
    ----------
    statistic : one of STATISTICS
        The deviation is that of a sample (divided by n - 1).
    seconds : float
    """

    statistic: str
    seconds: float
    inputs: tuple[Node, ...]

    def start(self, rate_hz: float) -> Process:
        return _Window(STATISTICS[self.statistic], window_samples(self.seconds, rate_hz))


def window_samples(seconds: float, rate_hz: float) -> int:
    """How many samples a window holds.

    Parameters
    ----------
    seconds, rate_hz : float

    Returns
    -------
    int

    Raises
    ------
    SignalError
        If it holds none, or more than 2^20.

    Examples
    --------
    >>> window_samples(2.0, 100.0)
    200
    """
    samples = round(seconds * rate_hz)
    if not 1 <= samples <= MAX_SAMPLES:
        raise SignalError(
            "seconds",
            f"A window of {seconds:g} s holds {samples} samples at {rate_hz:g} Hz.",
            f"Give it between {1 / rate_hz:g} s and {MAX_SAMPLES / rate_hz:g} s.",
        )
    return samples


class _Window:
    def __init__(self, statistic: int, width: int) -> None:
        self._statistic, self._width, self._seen = statistic, width, 0
        self._recent = np.empty(width)
        self._ends = np.empty((width, FIGURES))
        self._growing = np.empty(FIGURES)
        self._nothing = np.array([0.0, 0.0, 0.0, np.inf, -np.inf])

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (x,) = values
        out = np.empty(len(x))
        self._seen = _window(
            x,
            self._statistic,
            self._width,
            self._seen if follows else 0,
            self._recent,
            self._ends,
            self._growing,
            self._nothing,
            out,
        )
        return out
