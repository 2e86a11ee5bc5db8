"""Operations on a stored signal of any length, block by block.

What they give does not depend on how the signal is divided into blocks. Each works within pieces
that follow each other without a gap.
"""

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from yoke_core.corrections.samples import despike
from yoke_core.errors import SignalError
from yoke_core.signals.filter_design import Design
from yoke_core.signals.node import Array
from yoke_core.timebase.interpolation import interpolate

NEGLIGIBLE = 1e-9  # of a step, beyond which a filter's answer changes no float32
NEIGHBOURS = 3  # samples to each side that an instant between two is interpolated from
MAX_MARGIN = 1 << 21  # samples


@dataclass(frozen=True, slots=True)
class Block:
    """Samples (n,) of a signal from sample ``first`` on; ``follows``: no gap lies before them."""

    first: int
    values: Array
    follows: bool


Source = Callable[[], Iterator[Block]]  # the signal from its beginning, each time it is called


class Operation(Protocol):
    """What is done to a stored signal."""

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        """The signal with it; raises SignalError where it has no meaning."""
        ...


def windowed(
    blocks: Iterable[Block], margin: int, change: Callable[[Array], Array]
) -> Iterator[Block]:
    """A signal through a function whose every sample depends on those near it.

    Parameters
    ----------
    blocks : iterable of Block
    margin : int
        How many samples to each side a sample depends on.
    change : from samples (n,) to as many

    Returns
    -------
    iterator of Block
        As `change` would give them of each piece as a whole.

    Examples
    --------
    >>> two = [Block(0, np.array([1.0, 9.0]), False), Block(2, np.array([1.0, 1.0]), True)]
    >>> found = windowed(two, 1, lambda x: despike(x, reach=1))
    >>> np.concatenate([block.values for block in found])
    array([1., 1., 1., 1.])
    """
    before = waiting = np.empty(0)
    first, follows = 0, False
    for block in blocks:
        if not block.follows:
            if len(waiting):
                yield Block(first, _change(before, waiting, len(waiting), change), follows)
            before = waiting = np.empty(0)
            first, follows = block.first, False
        waiting = np.concatenate([waiting, block.values])
        if (ready := len(waiting) - margin) > margin:
            yield Block(first, _change(before, waiting, ready, change), follows)
            before = np.concatenate([before, waiting[:ready]])[-margin:] if margin else before
            waiting, first, follows = waiting[ready:], first + ready, True
    if len(waiting):
        yield Block(first, _change(before, waiting, len(waiting), change), follows)


def _change(before: Array, waiting: Array, ready: int, change: Callable[[Array], Array]) -> Array:
    found = change(np.concatenate([before, waiting]))
    return found[len(before) : len(before) + ready]


@dataclass(frozen=True, slots=True)
class Linear:
    """A signal times a factor, plus an offset in its unit.

    Examples
    --------
    >>> blocks = Linear(2.0, 1.0).run(lambda: iter([Block(0, np.array([3.0]), False)]), 100.0)
    >>> next(blocks).values
    array([7.])
    """

    factor: float = 1.0
    offset: float = 0.0

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        for block in source():
            yield replace(block, values=block.values * self.factor + self.offset)


@dataclass(frozen=True, slots=True)
class Despike:
    """Single samples that stand out replaced by the median around them (`samples.despike`)."""

    reach: int
    deviations: float = 4.0

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        despike(np.zeros(1), self.reach, self.deviations)  # raises for a wrong reach
        return windowed(source(), self.reach, lambda x: despike(x, self.reach, self.deviations))


@dataclass(frozen=True, slots=True)
class BothWays:
    """A filter without delay (`filter_both_ways`): at a corner the amplitude is halved (-6 dB)."""

    design: Design

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        margin = self.margin(rate_hz)
        return windowed(source(), margin, lambda x: self.apply(x, rate_hz))

    def apply(self, signal: Array, rate_hz: float) -> Array:
        """Samples (n,) of one piece, filtered."""
        from yoke_core.signals.nodes.filters import filter_both_ways

        return filter_both_ways(self.design, signal, rate_hz)

    def margin(self, rate_hz: float) -> int:
        """How many samples to each side one depends on; raises SignalError if that is too many."""
        margin = _ringing(self.design.sections(rate_hz))
        if margin > MAX_MARGIN:
            raise SignalError(
                "design",
                f"The filter rings for {margin / rate_hz:g} s, more than can be held.",
                "Give a higher corner, or a lower order.",
            )
        return margin


def _ringing(sections: Array) -> int:
    """Samples after which nothing of a step is left that a float32 could show."""
    poles = np.abs(np.concatenate([np.roots(row[3:]) for row in sections]))
    slowest = float(max(poles, default=0.0))
    if slowest < NEGLIGIBLE:
        return 1
    return math.ceil(math.log(NEGLIGIBLE) / math.log(slowest))


@dataclass(frozen=True, slots=True)
class Shift:
    """A signal some seconds later, interpolated at the instants of its samples.

    Examples
    --------
    >>> ramp = Block(0, np.arange(5.0), False)
    >>> next(Shift(0.25).run(lambda: iter([ramp]), rate_hz=2.0)).values
    array([nan, 0.5, 1.5, 2.5, 3.5])
    """

    seconds: float

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        samples = self.seconds * rate_hz
        margin = math.ceil(abs(samples)) + NEIGHBOURS
        if margin > MAX_MARGIN:
            raise SignalError(
                "seconds",
                f"A shift by {self.seconds:g} s is more than can be held.",
                f"Shift by {MAX_MARGIN / rate_hz:g} s at most.",
            )

        def shifted(x: Array) -> Array:
            at = np.arange(len(x), dtype=float)
            return interpolate(at, x, at - samples, 1.0)

        return windowed(source(), margin, shifted)


@dataclass(frozen=True, slots=True)
class Detrend:
    """Each piece without its least-squares line; what is not known, or clipped, counts not.

    Examples
    --------
    >>> blocks = [Block(0, np.array([1.0, 2.0]), False), Block(2, np.array([3.0]), True)]
    >>> found = Detrend().run(lambda: iter(blocks), 100.0)
    >>> np.concatenate([block.values for block in found]).round(12)
    array([0., 0., 0.])
    """

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        lines = list(_lines(source()))
        piece = -1
        for block in source():
            piece += not block.follows
            at, level, slope = lines[piece]
            place = np.arange(block.first, block.first + len(block.values)) - at
            yield replace(block, values=block.values - (level + slope * place))


def _lines(blocks: Iterable[Block]) -> Iterator[tuple[float, float, float]]:
    """Of each piece its least-squares line: a place, the level there, the slope per sample."""
    sums = _LineSums()
    for block in blocks:
        if not block.follows and sums.begun:
            yield sums.line
            sums = _LineSums()
        sums.add(block)
    if sums.begun:
        yield sums.line


class _LineSums:
    """Running sums about the first sample and its value, so that few digits are lost."""

    def __init__(self) -> None:
        self.begun = False
        self._count = 0
        self._sums = np.zeros(4)  # of x, y, x*x, x*y

    def add(self, block: Block) -> None:
        known = np.flatnonzero(np.isfinite(block.values))
        if not self.begun:
            self.begun, self._origin, self._base = True, block.first, 0.0
        if not len(known):
            return
        if not self._count:
            self._base = float(block.values[known[0]])
        x = (block.first - self._origin + known).astype(float)
        y = block.values[known] - self._base
        self._count += len(known)
        self._sums += x.sum(), y.sum(), x @ x, x @ y

    @property
    def line(self) -> tuple[float, float, float]:
        if self._count < 2:
            return float(self._origin), 0.0, 0.0
        x, y, xx, xy = self._sums / self._count
        slope = (xy - x * y) / (xx - x * x)
        return self._origin + x, self._base + y, slope


@dataclass(frozen=True, slots=True)
class ZeroOnWindow:
    """A signal less its mean from sample ``first`` to the one before ``last``.

    Raises SignalError if no sample of the window is known.

    Examples
    --------
    >>> found = ZeroOnWindow(0, 2).run(lambda: iter([Block(0, np.array([1.0, 3, 5]), False)]), 1.0)
    >>> next(found).values
    array([-1.,  1.,  3.])
    """

    first: int
    last: int

    def run(self, source: Source, rate_hz: float) -> Iterator[Block]:
        total, count = 0.0, 0
        for block in source():
            if block.first >= self.last:
                break
            window = block.values[max(0, self.first - block.first) : self.last - block.first]
            known = window[np.isfinite(window)]
            total, count = total + float(known.sum()), count + len(known)
        if not count:
            raise SignalError(
                "window",
                "There is no known sample in the window.",
                "Choose a window in which the channel was measured.",
            )
        return Linear(offset=-total / count).run(source, rate_hz)
