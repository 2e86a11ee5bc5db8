"""Fewer samples a second, through a low-pass that leaves nothing to be folded back."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import SignalError

Array = NDArray[np.float64]
REACH = 8  # samples of the new rate, that the filter looks at to either side
SHAPE = 5.65  # of its Kaiser window: 60 dB down
CORNER = 0.78  # of half the new rate, where the amplitude is a half
MAX_FACTOR = 50_000


def factor_of(rate_hz: float, wanted_hz: float) -> int:
    """By which a rate is divided so that at least a wanted one is left.

    Parameters
    ----------
    rate_hz : float
        Of the samples, above zero.
    wanted_hz : float
        Above zero.

    Returns
    -------
    int
        1 where the samples have no more than the wanted rate.

    Examples
    --------
    >>> factor_of(600.0, 100.0), factor_of(600.0, 90.0), factor_of(50.0, 100.0)
    (6, 6, 1)
    """
    return max(1, int(rate_hz / wanted_hz * (1 + 1e-9)))


@lru_cache(maxsize=32)
def _taps(factor: int) -> Array:
    from scipy.signal import firwin

    taps: Array = firwin(2 * REACH * factor + 1, CORNER / factor, window=("kaiser", SHAPE))
    return taps


class Decimator:
    """Every n-th sample of a low-pass with a straight phase, without delay; block by block.

    Output k stands at input k times ``factor``. Before the first and after the last sample the
    signal is taken to have stood. Where the filter reaches a sample that clipped, the output is
    infinite. Any division into blocks gives the same.

    Parameters
    ----------
    factor : int
        From 1; 1 gives the samples as they are.
    channels : int

    Raises
    ------
    SignalError
        For another factor.

    Examples
    --------
    >>> of = Decimator(2, channels=1)
    >>> given = [of.push(np.ones((1, 40))), of.finish()]
    >>> np.concatenate(given, axis=1).round(9).tolist() == [[1.0] * 20]
    True
    """

    def __init__(self, factor: int, channels: int) -> None:
        if not 1 <= factor <= MAX_FACTOR:
            raise SignalError("rate_hz", f"A rate cannot be divided by {factor}.")
        self.factor = factor
        self._half = REACH * factor if factor > 1 else 0
        self._channels = channels
        self.restart()

    def restart(self) -> None:
        """What comes now joins nothing of before; `finish` gives what was waiting."""
        self._waiting = np.empty((self._channels, 0))
        self._start = 0  # input of the first that waits, a multiple of the factor
        self._taken = 0  # inputs so far
        self.given = 0  # outputs so far

    @property
    def first_needed(self) -> int:
        """The first input that outputs to come depend on."""
        return max(0, (self.given - REACH) * self.factor) if self.factor > 1 else self._taken

    def go_on(self, given: int) -> None:
        """So many outputs of this stretch are given; inputs follow from `first_needed` on."""
        self.restart()
        self.given = given
        self._start = self._taken = self.first_needed

    def push(self, values: Array) -> Array:
        """Outputs (channels, m) that are certain with (channels, n) inputs more."""
        if self.factor == 1:
            self._taken += values.shape[1]
            self.given += values.shape[1]
            return values
        if not self._taken and values.shape[1]:
            self._waiting = np.repeat(values[:, :1], self._half, axis=1)
            self._start = -self._half
        self._taken += values.shape[1]
        self._waiting = np.concatenate([self._waiting, values], axis=1)
        return self._give((self._taken - 1 - self._half) // self.factor + 1)

    def finish(self) -> Array:
        """The last outputs; another stretch may begin then."""
        if self.factor == 1 or not self._waiting.shape[1]:
            self.restart()
            return np.empty((self._channels, 0))
        last = np.repeat(self._waiting[:, -1:], self._half, axis=1)
        self._waiting = np.concatenate([self._waiting, last], axis=1)
        found = self._give((self._taken - 1) // self.factor + 1)
        self.restart()
        return found

    def _give(self, until: int) -> Array:
        """Outputs up to ``until``; their last inputs are there."""
        count = until - self.given
        if count <= 0:
            return np.empty((self._channels, 0))
        first = self.given + REACH - self._start // self.factor
        found = _filtered(self._waiting, self.factor)[:, first : first + count]
        self.given = until
        self._forget((until - REACH) * self.factor)
        return found

    def _forget(self, before: int) -> None:
        if before > self._start:
            self._waiting = self._waiting[:, before - self._start :]
            self._start = before


def _filtered(values: Array, factor: int) -> Array:
    """The low-pass at every n-th of its positions; infinite where it reaches what clipped."""
    from scipy.signal import upfirdn

    taps = _taps(factor)
    lost = ~np.isfinite(values)
    if not lost.any():
        found: Array = upfirdn(taps, values, down=factor, axis=-1)
        return found
    found = upfirdn(taps, np.where(lost, 0.0, values), down=factor, axis=-1)
    met = upfirdn(np.ones_like(taps), lost.astype(float), down=factor, axis=-1) > 0.5
    return np.where(met, np.inf, found)
