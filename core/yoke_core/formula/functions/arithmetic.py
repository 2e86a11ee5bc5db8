"""Functions that need only the present sample of each signal."""

from collections.abc import Callable, Sequence
from fractions import Fraction

from yoke_core.errors import SignalError
from yoke_core.formula.dimension import NONE, Dimension
from yoke_core.formula.functions.base import Function, Given
from yoke_core.signals.node import Node
from yoke_core.signals.nodes.pointwise import Constant, Pointwise
from yoke_core.signals.nodes.table import LookupTable

MAX_SIGNALS = 16


def _each(operation: str) -> Callable[[Given], Node]:
    return lambda given: Pointwise(operation, given.nodes)


def _folded(operation: str) -> Callable[[Given], Node]:
    def node(given: Given) -> Node:
        first, *others = given.nodes
        for other in others:
            first = Pointwise(operation, (first, other))
        return first

    return node


def _none(given: Given) -> Dimension:
    return NONE


def _of_number(name: str, summary: str) -> Function:
    """Of one number without dimension."""
    usage, takes = f"{name}(number)", lambda dimensions: [NONE]
    return Function(name, usage, summary, (1, 1), _each(name), dimension=_none, takes=takes)


def _pairs(dimensions: Sequence[Dimension]) -> list[Dimension]:
    """Of a table's signal and points: x as the signal, y all alike."""
    x, y = dimensions[0], dimensions[2]
    return [x, *([x, y] * (len(dimensions) // 2))]


def _table(given: Given) -> Node:
    values = [n.value for n in given.nodes[1:] if isinstance(n, Constant)]
    if len(values) != len(given.nodes) - 1 or len(values) % 2:
        raise SignalError(
            "points", "A table's points are pairs of numbers.", "Write x, y, x, y after the signal."
        )
    points = tuple(zip(values[::2], values[1::2], strict=True))
    return LookupTable(points, given.nodes[:1])


FUNCTIONS = (
    Function(
        "min",
        "min(signal, signal, ...)",
        "The lowest at each instant",
        (2, MAX_SIGNALS),
        _folded("min"),
        keeps_temperature=True,
    ),
    Function(
        "max",
        "max(signal, signal, ...)",
        "The highest at each instant",
        (2, MAX_SIGNALS),
        _folded("max"),
        keeps_temperature=True,
    ),
    Function("abs", "abs(signal)", "Its size without its sign", (1, 1), _each("abs")),
    Function(
        "sqrt",
        "sqrt(signal)",
        "Its square root",
        (1, 1),
        _each("sqrt"),
        dimension=lambda given: given.dimensions[0] ** Fraction(1, 2),
        takes=lambda dimensions: [None],
    ),
    _of_number("exp", "e to its power"),
    _of_number("log", "Its natural logarithm"),
    _of_number("log10", "Its logarithm to base 10"),
    _of_number("sin", "Sine of an angle"),
    _of_number("cos", "Cosine of an angle"),
    _of_number("tan", "Tangent of an angle"),
    _of_number("asin", "Angle by its sine"),
    _of_number("acos", "Angle by its cosine"),
    _of_number("atan", "Angle by its tangent"),
    Function(
        "atan2", "atan2(y, x)", "Angle of a direction", (2, 2), _each("atan2"), dimension=_none
    ),
    Function(
        "table",
        "table(signal, x, y, x, y, ...)",
        "A curve by its points",
        (5, 2 * MAX_SIGNALS + 1),
        _table,
        dimension=lambda given: given.dimensions[2],
        takes=_pairs,
    ),
)
