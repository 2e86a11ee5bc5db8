"""A checked part of a formula: its signal node, dimension and display unit."""

from dataclasses import dataclass

from yoke_core.formula.dimension import NONE, Dimension
from yoke_core.formula.errors import Place
from yoke_core.formula.names import Names, Unit
from yoke_core.signals.node import Node


@dataclass(frozen=True, slots=True)
class Typed:
    """A part that has been checked.

    Parameters
    ----------
    node : Node
        In SI.
    unit : str
        As it is written under the part; empty for a plain number.
    is_condition : bool
        Whether it is true or false rather than a value.
    is_temperature : bool
        Whether its zero is nature's: a temperature, and not a difference of two.
    text, place : as it stands in the formula
    """

    node: Node
    dimension: Dimension
    unit: str
    place: Place
    text: str
    is_condition: bool = False
    is_temperature: bool = False

    @property
    def is_plain(self) -> bool:
        """Whether it is a number without a unit."""
        return self.dimension.is_none and not self.unit

    def difference_unit(self, names: Names) -> str:
        """The unit of what is computed of it: of temperatures, that of their differences."""
        return computed_unit(names, self.dimension, "") if self.is_temperature else self.unit

    @property
    def words(self) -> str:
        """As an error speaks of it: what it is in."""
        return f"{self.text} is in {self.unit}" if self.unit else f"{self.text} has no unit"


def computed_unit(names: Names, dimension: Dimension, words: str) -> str:
    """The unit in which something computed is read.

    Parameters
    ----------
    names : Names
    dimension : Dimension
    words : str
        As it came about, as ``mm/s``: taken where the list has no unit of the dimension.

    Returns
    -------
    str
        Empty for a plain number.

    Examples
    --------
    >>> computed_unit(Names([]), Dimension.of(m=1, s=-1), "mm/s")
    'mm/s'
    """
    if dimension == NONE:
        return ""
    unit: Unit | None = names.unit_for(dimension)
    return unit.name if unit else words or str(dimension)
