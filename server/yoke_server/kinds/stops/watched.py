"""What conditions look at: the reading of a channel in each sample of one device's blocks."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np
from numpy.typing import NDArray

from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.measured import MeasuredChannel

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain
    from yoke_core.streaming.block import BlockSummary

Array = NDArray[np.float64]
BLIND = 1.0  # s without a reading, after which nothing that it watches moves


@dataclass(frozen=True, slots=True)
class Look:
    """A channel's readings in one block, SI.

    lowest, highest : of the samples that have a reading; NaN where none has
    clipped : whether a sample that the reading needs stood at the rail
    is_lost : whether nobody can tell any more what the channel reads
    """

    lowest: float
    highest: float
    clipped: bool
    is_lost: bool
    _samples: Callable[[], Array]

    @property
    def samples(self) -> Array:
        """(n,); NaN or infinite where there is no reading."""
        return self._samples()


class Readable(Protocol):
    """A channel as people read it."""

    @property
    def name(self) -> str: ...
    @property
    def unit(self) -> str: ...
    def shown(self, si: Any) -> Any:
        """A reading (SI) in the channel's unit."""
        ...


class WatchedReading(Protocol):
    """A channel's reading, as people see it, in the blocks of one device."""

    @property
    def device(self) -> str: ...
    @property
    def of(self) -> Readable: ...

    def look(self, block: "BlockSummary", follows: bool) -> Look:
        """The readings in a block, the next in order.

        follows : whether it continues the one before; a gap precedes it otherwise
        """
        ...


@dataclass(slots=True)
class ChainReading:
    """Of a measured channel without filters: each sample has its reading by itself."""

    of: Readable
    channel: MeasuredChannel
    _chain: "SignalChain" = field(init=False)

    def __post_init__(self) -> None:
        self._chain = chain_of(self.channel)

    @property
    def device(self) -> str:
        return self.channel.device_label

    def look(self, block: "BlockSummary", follows: bool) -> Look:
        row = self.channel.input_number - 1
        low, high = self._chain.extremes(block.low[row], block.high[row])
        known = np.isfinite(low) & np.isfinite(high)
        return Look(
            float(low[known].min(initial=np.inf)) if known.any() else np.nan,
            float(high[known].max(initial=-np.inf)) if known.any() else np.nan,
            bool(block.clipped[row]),
            not known.all(),
            lambda: self._chain.apply(block.ratios[row].astype(float)),
        )


@dataclass(slots=True)
class SignalReading:
    """Of a channel with filters, or of a computed one: a signal over channels of one device.

    channels : whose chain readings it needs, by key
    process : gives the signal for the next block of those
    instead : the channel whose reading ahead of its filters counts until those have settled;
        empty where there is none
    patience : samples without a reading, after which it is lost
    """

    of: Readable
    device: str
    channels: Sequence[MeasuredChannel]
    process: Callable[[Mapping[str, Array], bool], Array]
    instead: str
    patience: int
    _unknown: int = 0  # samples without a reading up to now
    _chains: "dict[str, tuple[int, SignalChain]]" = field(init=False)

    def __post_init__(self) -> None:
        self._chains = {c.key: (c.input_number - 1, chain_of(c)) for c in self.channels}

    def look(self, block: "BlockSummary", follows: bool) -> Look:
        readings = {
            key: chain.apply(block.ratios[row].astype(float))
            for key, (row, chain) in self._chains.items()
        }
        found = self.process(readings, follows)
        known = np.isfinite(found)
        is_lost = self._longest_unknown(known) > self.patience
        if self.instead:
            found = np.where(known, found, readings[self.instead])
            known = np.isfinite(found)
            is_lost |= not known.all()
        return Look(
            float(found[known].min()) if known.any() else np.nan,
            float(found[known].max()) if known.any() else np.nan,
            any(block.clipped[row] for row, _ in self._chains.values()),
            is_lost,
            lambda: found,
        )

    def _longest_unknown(self, known: NDArray[np.bool_]) -> int:
        """The longest stretch of samples without a reading, with what came before the block."""
        edges = np.flatnonzero(np.concatenate([[True], known, [True]]))
        stretches = np.diff(edges) - 1
        stretches[0] += self._unknown
        self._unknown = int(stretches[-1])
        return int(stretches.max())
