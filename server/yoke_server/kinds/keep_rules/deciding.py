"""Keep rules at work: which samples of each block are kept."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np
from numpy.typing import NDArray

from yoke_server.kinds.number_text import as_text, of_text

if TYPE_CHECKING:
    from yoke_core.keeping.bursts import BurstPlan
    from yoke_core.keeping.changes import Changes
    from yoke_core.keeping.cycles import CycleCounter
    from yoke_core.keeping.turns import CycleTurns, FoundTurns
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.watched import WatchedReading

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]


class WindowDecider(Protocol):
    """Keeps stretches of samples.

    lead : the device whose samples decide for all; empty where each device decides by its own
        times. Such a rule has no state: one decider serves all devices
    """

    @property
    def lead(self) -> str: ...

    def decide(self, block: "BlockSummary", seconds: Array, follows: bool) -> Mask:
        """Which of (n,) samples are kept.

        seconds : of the run, of each sample
        follows : whether the block continues the one before
        """
        ...

    @property
    def state(self) -> Any:
        """The state to resume from, as JSON."""
        ...

    def resume(self, state: Any) -> None: ...


class InstantDecider(Protocol):
    """Keeps single samples; those of other devices at the same instants.

    lead : the device whose samples decide
    at : the number of the sample that comes next
    """

    @property
    def lead(self) -> str: ...
    @property
    def at(self) -> int: ...

    def decide(self, block: "BlockSummary", follows: bool) -> "FoundTurns":
        """Numbers of those that are kept, and of those that may be kept later."""
        ...

    @property
    def state(self) -> Any:
        """The state to resume from, as JSON."""
        ...

    def resume(self, state: Any) -> None: ...


@dataclass(slots=True)
class All:
    """Each sample."""

    lead: str = ""
    state: None = None

    def decide(self, block: "BlockSummary", seconds: Array, follows: bool) -> Mask:
        return np.ones(seconds.shape, np.bool_)

    def resume(self, state: None) -> None: ...


@dataclass(slots=True)
class BurstsInTime:
    """By the seconds of the run, on each device by itself."""

    plan: "BurstPlan"
    lead: str = ""
    state: None = None

    def decide(self, block: "BlockSummary", seconds: Array, follows: bool) -> Mask:
        return self.plan.covers(np.maximum(seconds, 0.0))

    def resume(self, state: None) -> None: ...


@dataclass(slots=True)
class BurstsInCycles:
    """By the cycles of a channel."""

    plan: "BurstPlan"
    counter: "CycleCounter"
    reading: "WatchedReading"

    @property
    def lead(self) -> str:
        return self.reading.device

    def decide(self, block: "BlockSummary", seconds: Array, follows: bool) -> Mask:
        if not follows:
            self.counter.restart()
        cycles = self.counter.push(self.reading.look(block, follows).samples)
        return self.plan.covers(cycles)

    @property
    def state(self) -> list[str]:
        """As text: JSON knows no infinity."""
        return as_text(self.counter.state)

    def resume(self, state: list[str]) -> None:
        self.counter.state = of_text(state)


@dataclass(slots=True)
class TurnsOfCycles:
    """The highest and the lowest of a channel's cycles."""

    turns: "CycleTurns"
    reading: "WatchedReading"

    @property
    def lead(self) -> str:
        return self.reading.device

    @property
    def at(self) -> int:
        return self.turns.at

    def decide(self, block: "BlockSummary", follows: bool) -> "FoundTurns":
        if not follows:
            self.turns.restart()
        return self.turns.push(self.reading.look(block, follows).samples)

    @property
    def state(self) -> list[str]:
        """As text: JSON knows no infinity."""
        return as_text(self.turns.state)

    def resume(self, state: list[str]) -> None:
        self.turns.state = of_text(state)


@dataclass(slots=True)
class ChangesOfChannels:
    """Where a channel has moved by its step; all of them are of one device."""

    changes: "Changes"
    readings: "Sequence[WatchedReading]"

    @property
    def lead(self) -> str:
        return self.readings[0].device

    @property
    def at(self) -> int:
        return self.changes.at

    def decide(self, block: "BlockSummary", follows: bool) -> "FoundTurns":
        from yoke_core.keeping.turns import FoundTurns

        if not follows:
            self.changes.restart()
        looks = [reading.look(block, follows).samples for reading in self.readings]
        return FoundTurns(self.changes.push(np.stack(looks)), np.empty(0, np.int64))

    @property
    def state(self) -> list[str]:
        """As text: JSON knows no infinity."""
        return as_text(self.changes.state)

    def resume(self, state: list[str]) -> None:
        self.changes.state = of_text(state)
