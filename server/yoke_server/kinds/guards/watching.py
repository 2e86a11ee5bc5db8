"""Guards at work: each sample of a channel, until it is beyond for as long as the guard allows."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.watched import Look, WatchedReading

Array = NDArray[np.float64]
Beyond = NDArray[np.bool_]
CALM_S = 1.0  # after which a guard that has tripped may trip again


@dataclass(frozen=True, slots=True)
class Finding:
    """What of a block is beyond: which samples (n,), and the words for it."""

    beyond: Beyond
    words: str


# What of a look is beyond, or None where nothing is; the second argument: whether it follows.
Test = Callable[["Look", bool], Finding | None]


@dataclass(slots=True)
class GuardWatch:
    """Trips once the channel was beyond for ``debounce`` samples in one go (at least one).

    It trips again only after it was inside for `CALM_S`, so that what stays beyond is told once.
    """

    reading: "WatchedReading"
    rate_hz: float
    debounce_s: float
    test: Test
    tripped: bool = False
    words: str = ""  # on what it tripped last
    _beyond: int = field(default=0, init=False)  # samples in one go up to now
    _calm: int = field(default=0, init=False)

    @property
    def device(self) -> str:
        return self.reading.device

    def look(self, block: "BlockSummary", follows: bool) -> str:
        """What tripped it with this block, the next in order, in words; empty if nothing did.

        follows : whether it continues the one before; a gap precedes it otherwise
        """
        seen = self.reading.look(block, follows)
        name = self.reading.of.name
        if seen.is_lost:
            unseen = f"{name} gives no reading, so that its guard could not look"
            found: Finding | None = Finding(np.ones(block.samples, bool), unseen)
        else:
            found = self.test(seen, follows)
        if found is None or not found.beyond.any():
            self._rest(block.samples)
            return ""
        self._calm = 0
        longest = self._longest(found.beyond)
        if self.tripped or longest < max(1, round(self.debounce_s * self.rate_hz)):
            return ""
        self.tripped, self.words = True, found.words
        return found.words

    def _rest(self, samples: int) -> None:
        self._beyond = 0
        self._calm += samples
        if self._calm >= CALM_S * self.rate_hz:
            self.tripped = False

    def _longest(self, beyond: Beyond) -> int:
        """The longest stretch beyond, with what came before the block."""
        edges = np.flatnonzero(np.concatenate([[True], ~beyond, [True]]))
        stretches = np.diff(edges) - 1
        stretches[0] += self._beyond
        self._beyond = int(stretches[-1])
        return int(stretches.max())
