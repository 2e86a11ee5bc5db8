"""Stop conditions in samples: each sample is checked once, in order, before it is stored."""

from dataclasses import dataclass
from math import inf, isnan
from typing import TYPE_CHECKING, Any, Protocol

from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.number_text import as_text, of_text
from yoke_server.kinds.stops.watched import BLIND

if TYPE_CHECKING:
    from yoke_core.fatigue.cycle_meter import CycleMeter
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.watched import WatchedReading

FLAT = 2.0  # s in which a signal is the very same in all samples, which none is


class StopCondition(Protocol):
    """One condition, seen in the blocks of one device."""

    @property
    def device(self) -> str: ...
    @property
    def words(self) -> str: ...
    @property
    def lost_without(self) -> MeasuredChannel | None:
        """The channel without whose readings the condition would never be met."""
        ...

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        """Whether this block, the next in order, meets it.

        follows : whether it continues the one before; a gap precedes it otherwise
        """
        ...

    @property
    def state(self) -> Any:
        """The state to resume from, as JSON."""
        ...

    def resume(self, state: Any) -> None: ...


@dataclass(slots=True)
class CyclesCounted:
    """Counts the cycles of a channel; met after ``max_cycles``, if so many are wanted."""

    meter: "CycleMeter"
    max_cycles: int | None
    lost_without: MeasuredChannel
    _reading: "WatchedReading"

    @property
    def device(self) -> str:
        return self._reading.device

    @property
    def words(self) -> str:
        return f"{self.meter.cycles} cycles are done"

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        done = self.meter.push(self._reading.look(block, follows).samples)
        return self.max_cycles is not None and done >= self.max_cycles

    @property
    def state(self) -> list[str]:
        """As text: JSON knows no infinity."""
        return as_text(self.meter.state)

    def resume(self, state: list[str]) -> None:
        self.meter.state = of_text(state)


@dataclass(slots=True)
class SignalLost:
    """A channel that watches a motion tells nothing, so that what it watches for would not be
    seen: it stands at the rail, or is the very same in all samples."""

    device: str
    name: str
    _row: int
    _rate_hz: float
    _clipped: int = 0  # samples since the last one with a value
    _same: int = 0  # samples of the very same value up to now
    _value: float = inf
    words: str = ""

    @property
    def lost_without(self) -> None:
        """It is what tells that a signal is lost."""

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        all_clipped = block.clipped[self._row] == block.samples
        self._clipped = self._clipped + block.samples if all_clipped else 0
        self._count_same(block)
        if self._clipped >= BLIND * self._rate_hz:
            self.words = f"{self.name} clipped for {BLIND:g} s, so that it could not be watched"
        elif self._same >= FLAT * self._rate_hz:
            self.words = f"{self.name} did not change at all for {FLAT:g} s: it gives no reading"
        return bool(self.words)

    def _count_same(self, block: "BlockSummary") -> None:
        low, high = float(block.low[self._row].min()), float(block.high[self._row].max())
        if low != high or isnan(low):
            self._same, self._value = 0, inf
        elif low == self._value:
            self._same += block.samples
        else:
            self._same, self._value = block.samples, low

    @property
    def state(self) -> None:
        """No state: after a restart nothing moves."""

    def resume(self, state: None) -> None: ...
