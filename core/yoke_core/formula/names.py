"""What a formula may speak of: units, channels, rosettes. The caller knows them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from yoke_core.formula.dimension import Dimension
from yoke_core.rosette.state import Rosette
from yoke_core.signals.node import Node


@dataclass(frozen=True, slots=True)
class Unit:
    """SI = value * factor + offset; an offset is that of a temperature's zero."""

    name: str
    factor: float
    dimension: Dimension
    offset: float = 0.0


@dataclass(frozen=True, slots=True)
class Channel:
    """A channel that a formula may name.

    Parameters
    ----------
    key : str
        Stays when the channel gets another name.
    unit : Unit
        In which people read it.
    node : Node
        What a computed channel is; without it the channel is measured.
    """

    key: str
    name: str
    unit: Unit
    node: Node | None = None


@dataclass(frozen=True, slots=True)
class NamedRosette:
    """A rosette that a formula may name, with the keys of its three channels."""

    key: str
    name: str
    rosette: Rosette
    grids: tuple[str, str, str]


@dataclass(frozen=True)
class Names:
    """All that may be named.

    Parameters
    ----------
    units : sequence of Unit
        Where several have a dimension, the first is preferred for what is computed.
    """

    units: Sequence[Unit]
    channels: Sequence[Channel] = ()
    rosettes: Sequence[NamedRosette] = ()

    @cached_property
    def by_unit(self) -> Mapping[str, Unit]:
        return {u.name: u for u in self.units}

    @property
    def named(self) -> "list[Channel | NamedRosette]":
        """Channels and rosettes, which a formula names in the same way."""
        return [*self.channels, *self.rosettes]

    def unit_for(self, dimension: Dimension) -> Unit | None:
        """The preferred unit of a dimension; None where the list has none."""
        fitting = (u for u in self.units if u.dimension == dimension and not u.offset)
        return next(fitting, None)
