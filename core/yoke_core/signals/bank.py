"""The chains of many channels at once, as they run with every block of samples."""

from collections.abc import Sequence

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.bridge.circuit import FLAT
from yoke_core.scaling.line import Line
from yoke_core.signals.chain import SignalChain

Array = NDArray[np.float64]
NO_BRIDGE = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)  # where a gauge factor stands above zero


@numba.njit(cache=True, nogil=True)
def _strain(u, a0, a1, b0, b1, c, gauge_factor, least, most):  # type: ignore[no-untyped-def]
    """`yoke_core.bridge.circuit.solve` of one output, compiled; that one needs no compiler."""
    if not np.isfinite(u):
        return u
    b, c = b0 - b1 * u, c * u
    if b <= FLAT:
        return np.nan
    t = 2 * c / (b + np.sqrt(b * b + 4 * (a0 - a1 * u) * c))
    return t / gauge_factor if least < t < most else np.nan


@numba.njit(cache=True, nogil=True)
def _read(signal, rows, before, bridge, after, out):  # type: ignore[no-untyped-def]
    for i in range(len(rows)):
        a0, a1, b0, b1, c, gauge_factor, least, most = bridge[i]
        for j in range(signal.shape[1]):
            value = signal[rows[i], j] * before[i, 0] + before[i, 1]
            if gauge_factor > 0:
                value = _strain(value, a0, a1, b0, b1, c, gauge_factor, least, most)
                value = value * after[i, 0] + after[i, 1]
            out[i, j] = value


class ChainBank:
    """Chains that are a line, or a bridge between two lines, run compiled; others one by one.

    Parameters
    ----------
    chains : one a channel
    rows : (channels,)
        Where each channel stands among the signals.
    """

    def __init__(self, chains: Sequence[SignalChain], rows: Sequence[int]) -> None:
        self._rows = np.array(rows, dtype=np.intp)
        parts = [_parts(c) for c in chains]
        self._before, self._bridge, self._after = (
            np.array([p[i] for p in parts], dtype=float).reshape(len(parts), width)
            for i, width in enumerate((2, len(NO_BRIDGE), 2))
        )
        self._others = [
            (i, row, c)
            for i, (c, row) in enumerate(zip(chains, rows, strict=True))
            if c.line is None and c.bridge is None
        ]

    def apply(self, signal: Array) -> Array:
        """Readings (channels, n) in SI of (any, n) signals."""
        found = np.empty((len(self._rows), signal.shape[1]))
        _read(signal, self._rows, self._before, self._bridge, self._after, found)
        for i, row, chain in self._others:
            found[i] = chain.apply(signal[row])
        return found


def _parts(chain: SignalChain) -> tuple[tuple[float, ...], ...]:
    """Of a chain its line before a bridge, the bridge's equation, its line after it."""
    if found := chain.bridge:
        before, bridge, after = found
        return _line(before), bridge.equation, _line(after)
    return _line(chain.line or Line(1.0)), NO_BRIDGE, _line(Line(1.0))


def _line(line: Line) -> tuple[float, float]:
    return line.slope, line.offset
