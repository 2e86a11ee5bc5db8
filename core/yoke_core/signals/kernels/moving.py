"""A statistic of a window that moves along the samples of one signal."""

import numba
import numpy as np

MEAN, RMS, DEVIATION, LOWEST, HIGHEST = range(5)
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
def run_window(x, statistic, width, seen, recent, ends, growing, nothing, out):  # type: ignore[no-untyped-def]
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
