"""How a signal changes: rate, integral, delay, and the most it has been."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yoke_core.signals.node import Array, Node, Process
from yoke_core.signals.nodes.windows import window_samples


class _Earlier:
    """A signal as it was some samples ago; NaN before its start."""

    def __init__(self, samples: int) -> None:
        self._past = np.full(samples, np.nan)

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (x,) = values
        if not follows:
            self._past = np.full(len(self._past), np.nan)
        both = np.concatenate([self._past, x])
        self._past = both[len(x) :]
        return both[: len(x)]


@dataclass(frozen=True, slots=True)
class Delay:
    """A signal as it was ``seconds`` ago, to the nearest sample."""

    seconds: float
    inputs: tuple[Node, ...]

    def held_samples(self, rate_hz: float) -> int:
        return window_samples(self.seconds, rate_hz)

    memory_samples = held_samples

    def start(self, rate_hz: float) -> Process:
        return _Earlier(window_samples(self.seconds, rate_hz))


@dataclass(frozen=True, slots=True)
class Rate:
    """Change over the last ``seconds``, per second: the mean of the derivative over them."""

    seconds: float
    inputs: tuple[Node, ...]

    def held_samples(self, rate_hz: float) -> int:
        return window_samples(self.seconds, rate_hz)

    memory_samples = held_samples

    def start(self, rate_hz: float) -> Process:
        samples = window_samples(self.seconds, rate_hz)
        return _Rate(_Earlier(samples), samples / rate_hz)


class _Rate:
    def __init__(self, earlier: _Earlier, seconds: float) -> None:
        self._earlier, self._seconds = earlier, seconds

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        change = values[0] - self._earlier.push(values, follows)
        return np.where(np.isfinite(change), change / self._seconds, np.nan)


@dataclass(frozen=True, slots=True)
class Integral:
    """Area under a signal since the start, by trapezoids.

    Not known any more after a gap, an unknown or a clipped sample: what it missed may be large.
    """

    inputs: tuple[Node, ...]

    def memory_samples(self, rate_hz: float) -> float:
        return math.inf

    def start(self, rate_hz: float) -> Process:
        return _Integral(1 / rate_hz)


class _Integral:
    def __init__(self, step: float) -> None:
        self._step, self._begun = step, False
        self._last, self._sum = np.nan, 0.0

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (x,) = values
        if not len(x):
            return x
        if self._begun and not follows:
            self._sum = np.nan
        areas = np.empty(len(x))
        areas[0] = (self._last + x[0]) / 2 * self._step if self._begun else 0.0 * x[0]
        areas[1:] = (x[1:] + x[:-1]) / 2 * self._step
        areas[~np.isfinite(areas)] = np.nan
        areas[0] += self._sum
        found = np.cumsum(areas)  # one by one, so that blocks of any length add alike
        self._begun, self._last, self._sum = True, float(x[-1]), float(found[-1])
        return found


@dataclass(frozen=True, slots=True)
class PeakHold:
    """The highest value since the start, gaps left out: unknown samples raise nothing."""

    inputs: tuple[Node, ...]

    def memory_samples(self, rate_hz: float) -> float:
        return math.inf

    def start(self, rate_hz: float) -> Process:
        return _PeakHold()


class _PeakHold:
    def __init__(self) -> None:
        self._highest = np.nan

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (x,) = values
        if not len(x):
            return x
        found = np.fmax.accumulate(np.concatenate([[self._highest], x]))[1:]
        self._highest = float(found[-1])
        return found
