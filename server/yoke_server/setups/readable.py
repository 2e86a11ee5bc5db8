"""What can be read of a setup or a run: measured channels, and computed ones, by one shape."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from yoke_server.common.units import UNITS, units_of
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.formulas import PREFERRED, computed_of, unit_named


@dataclass(frozen=True, slots=True)
class ReadableChannel:
    """A channel as results, plots and files show it; ``measured`` is None of a computed one.

    quantity : by its unit, of a computed channel; empty where no quantity has that unit
    factor, offset : SI = value * factor + offset
    """

    key: str
    name: str
    unit: str
    decimals: int
    quantity: str
    factor: float
    offset: float
    measured: FrozenChannel | None = None

    def shown(self, si: Any) -> Any:
        """A reading (SI), or an array of them, in the channel's unit."""
        return (si - self.offset) / self.factor


def readable_channels(setup: FrozenSetup) -> list[ReadableChannel]:
    """The channels of a setup, then those that are computed and sound."""
    sound = [c.channel for c in computed_of(setup.channels, setup.computed) if c.formula]
    return [*map(measured, setup.channels), *map(computed, sound)]


def measured(channel: FrozenChannel) -> ReadableChannel:
    """A measured channel as it is read."""
    return _readable(channel, channel.quantity, channel)


def computed(channel: ComputedChannel) -> ReadableChannel:
    """A computed channel as it is read."""
    return _readable(channel, quantity_of_unit(channel.unit), None)


def _readable(
    channel: FrozenChannel | ComputedChannel, quantity: str, of: FrozenChannel | None
) -> ReadableChannel:
    unit = unit_named(channel.unit)
    return ReadableChannel(
        channel.key,
        channel.name,
        channel.unit,
        channel.decimals,
        quantity,
        unit.factor,
        unit.offset,
        of,
    )


def quantity_of_unit(unit: str) -> str:
    """The quantity that people mean by a unit; empty where it is of none."""
    others = [q for q in UNITS if q not in PREFERRED]
    return next((q for q in (*PREFERRED, *others) if unit in units_of(q)), "")


def by_key(channels: Sequence[ReadableChannel], key: str) -> ReadableChannel | None:
    """The channel with a key; None where there is none."""
    return next((c for c in channels if c.key == key), None)
