"""What a leg looks for in the readings of a channel, while it is under way."""

from collections import deque
from dataclasses import dataclass, field
from math import nan
from typing import TYPE_CHECKING, Protocol

from yoke_server.kinds.stops.conditions import FLAT

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.watched import Look, WatchedReading


class LegWatch(Protocol):
    """Sees the blocks of one device. ``problem``: why it cannot be seen any more, or nothing."""

    reached: bool
    problem: str

    @property
    def device(self) -> str: ...

    def look(self, block: "BlockSummary", follows: bool) -> None:
        """A block, the next in order; ``follows``: whether it continues the one before."""
        ...


@dataclass(slots=True)
class _Watch:
    reading: "WatchedReading"
    rate_hz: float
    reached: bool = False
    problem: str = ""
    _last: float = nan
    _same: int = 0  # samples of the very same reading up to now

    @property
    def device(self) -> str:
        return self.reading.device

    def look(self, block: "BlockSummary", follows: bool) -> None:
        look, name = self.reading.look(block, follows), self.reading.of.name
        if look.clipped or look.is_lost:
            self.problem = f"{name} {'clipped' if look.clipped else 'gives no reading'}"
        elif look.lowest <= look.highest:  # else it has none yet
            self._count_same(look, block.samples)
            self._see(look, block.samples, follows)

    def _count_same(self, look: "Look", samples: int) -> None:
        goes_on = look.lowest == look.highest == self._last
        self._same, self._last = (self._same + samples if goes_on else 0), look.highest
        if self._same >= FLAT * self.rate_hz:
            name = self.reading.of.name
            self.problem = f"{name} did not change at all for {FLAT:g} s: it gives no reading"

    def _see(self, look: "Look", samples: int, follows: bool) -> None:
        raise NotImplementedError


@dataclass(slots=True)
class ReadingReached(_Watch):
    """A channel comes to a value (SI), from the side on which it was at first."""

    value: float = 0.0
    _side: float = 0.0

    def _see(self, look: "Look", samples: int, follows: bool) -> None:
        if not self._side:
            self._side = 1.0 if look.highest < self.value else -1.0
        beyond = look.highest if self._side > 0 else -look.lowest
        self.reached = self.reached or beyond >= self._side * self.value


@dataclass(slots=True)
class Settled(_Watch):
    """A channel stays within a span (SI) for a time."""

    span: float = 0.0
    for_samples: int = 1
    _recent: "deque[tuple[float, float, int]]" = field(default_factory=deque)
    _count: int = 0  # samples in those

    def _see(self, look: "Look", samples: int, follows: bool) -> None:
        if not follows:
            self._recent.clear()
            self._count = 0
        self._recent.append((look.lowest, look.highest, samples))
        self._count += samples
        while self._count - self._recent[0][2] >= self.for_samples:
            self._count -= self._recent.popleft()[2]
        lowest = min(low for low, _, _ in self._recent)
        highest = max(high for _, high, _ in self._recent)
        is_full, spread = self._count >= self.for_samples, highest - lowest
        self.reached = is_full and 0 < spread <= self.span  # without any noise it is no signal
