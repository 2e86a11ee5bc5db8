"""The description that every function of the formula language gives."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from yoke_core.formula.dimension import FREQUENCY, NONE, STRESS, TIME, Dimension
from yoke_core.formula.names import NamedRosette
from yoke_core.signals.node import Node

Options = Mapping[str, float]
# Of each option which dimension it has; None: it stands alone.
OPTIONS: dict[str, Dimension | None] = {
    "last": TIME,
    "over": TIME,
    "by": TIME,
    "from": FREQUENCY,
    "to": FREQUENCY,
    "at": FREQUENCY,
    "order": NONE,
    "bessel": None,
    "modulus": STRESS,
    "poisson": NONE,
}
EXAMPLES = {
    "last": "2 s",
    "over": "1 s",
    "by": "20 ms",
    "from": "1 Hz",
    "to": "20 Hz",
    "at": "50 Hz",
    "order": "4",
    "modulus": "205 GPa",
    "poisson": "0.3",
}


@dataclass(frozen=True)
class Given:
    """What a function was given: signals with their dimensions, options in SI."""

    nodes: tuple[Node, ...]
    dimensions: tuple[Dimension, ...]
    options: Options
    rosette: NamedRosette | None = None


def _first(given: Given) -> Dimension:
    return given.dimensions[0]


def _alike(dimensions: Sequence[Dimension]) -> list[Dimension | None]:
    return [dimensions[0]] * len(dimensions)


@dataclass(frozen=True)
class Function:
    """A function of the language.

    Parameters
    ----------
    usage : str
        As it is written, for people: ``mean(signal, last 2 s)``.
    signals : (int, int)
        The fewest and the most signals; 0 for a function of a rosette.
    node : from what was given to the node
    needs, may : names in OPTIONS
    dimension : of the result, from what was given; without it the first signal's
    takes : which dimensions the signals must have, from those that they have: all the first's
        unless it says otherwise, None where any will do
    unit : of the result, from the first signal's unit; without it the list's for the dimension
    keeps_temperature : whether what it gives of a temperature is one, and no difference
    """

    name: str
    usage: str
    summary: str
    signals: tuple[int, int]
    node: Callable[[Given], Node]
    needs: tuple[str, ...] = ()
    may: tuple[str, ...] = ()
    dimension: Callable[[Given], Dimension] = _first
    takes: Callable[[Sequence[Dimension]], Sequence[Dimension | None]] = _alike
    unit: Callable[[str], str] | None = None
    keeps_temperature: bool = False

    @property
    def keeps_unit(self) -> bool:
        """Whether its result is read in the unit of its first signal."""
        return self.dimension is _first and self.unit is None

    @property
    def of_rosette(self) -> bool:
        return self.signals == (0, 0)
