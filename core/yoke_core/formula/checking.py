"""Checking a formula: the dimension of every part, and the signal node that it stands for."""

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from yoke_core.formula.calls import check_call
from yoke_core.formula.dimension import NONE
from yoke_core.formula.errors import FormulaError
from yoke_core.formula.names import Names
from yoke_core.formula.parsing import parse
from yoke_core.formula.tree import Call, ChannelPart, Number, Operation, Part, RosettePart
from yoke_core.formula.typed import Typed, computed_unit
from yoke_core.signals.graph import Measured, SignalGraph
from yoke_core.signals.nodes.pointwise import Constant, Pointwise

CONDITIONS = ("above", "below", "and", "or", "not")


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula that has been checked.

    Attributes
    ----------
    result : Typed
        The whole, with its node.
    parts : tuple of Typed
        Channels, numbers and calls in the order in which they end, for their units.
    """

    result: Typed
    parts: tuple[Typed, ...]


class _Checker:
    def __init__(self, text: str, names: Names) -> None:
        self._text, self._names = text, names
        self.parts: list[Typed] = []

    def check(self, part: Part) -> Typed:
        match part:
            case Number():
                found = self._number(part)
            case ChannelPart():
                found = self._channel(part)
            case Call():
                found = check_call(part, self.check, self._names, self._text)
            case RosettePart():
                raise FormulaError(
                    part.place,
                    f"{part.rosette.name} is a rosette of three channels.",
                    proposal=f"strain1({part.rosette.name})",
                )
            case Operation():
                return self._operation(part)
        self.parts.append(found)
        return found

    def _number(self, part: Number) -> Typed:
        unit = part.unit
        value = part.value * unit.factor + unit.offset if unit else part.value
        return Typed(
            Constant(value),
            unit.dimension if unit else NONE,
            unit.name if unit else "",
            part.place,
            self._text[slice(*part.place)],
            is_temperature=bool(unit and unit.offset),
        )

    def _channel(self, part: ChannelPart) -> Typed:
        unit = part.channel.unit
        return Typed(
            part.channel.node or Measured(part.channel.key),
            unit.dimension,
            unit.name,
            part.place,
            part.channel.name,
            is_temperature=bool(unit.offset),
        )

    def _operation(self, part: Operation) -> Typed:
        sides = [self.check(p) for p in part.parts]
        rule = getattr(self, f"_{part.operation}", self._alike)
        found: Typed = rule(part, sides)
        return found

    def _made(self, part: Operation, sides: list[Typed], **facts: object) -> Typed:
        first = sides[0]
        facts = {"dimension": first.dimension, "unit": first.unit} | facts
        node = Pointwise(part.operation, tuple(s.node for s in sides))
        text = self._text[slice(*part.place)]
        return Typed(node=node, place=part.place, text=text, **facts)  # type: ignore[arg-type]

    def _alike(self, part: Operation, sides: list[Typed]) -> Typed:
        """Of sums and comparisons: both sides have one dimension."""
        self._require_values(sides)
        self._require_same(sides)
        if part.operation in CONDITIONS:
            return self._made(part, sides, dimension=NONE, unit="", is_condition=True)
        return self._made(part, sides, unit=sides[0].unit or sides[1].unit)

    def _add(self, part: Operation, sides: list[Typed]) -> Typed:
        found = self._alike(part, sides)
        warm = [s for s in sides if s.is_temperature]
        if len(warm) == 2:
            raise FormulaError(
                part.place, "Two temperatures cannot be added.", "Add a difference, as 5 K."
            )
        return replace(found, unit=warm[0].unit, is_temperature=True) if warm else found

    def _subtract(self, part: Operation, sides: list[Typed]) -> Typed:
        """The difference of two temperatures is none; a temperature less a difference is one."""
        found = self._alike(part, sides)
        first, second = sides
        if first.is_temperature and not second.is_temperature:
            return replace(found, is_temperature=True)
        return replace(found, unit=first.difference_unit(self._names) or second.unit)

    def _require_same(self, sides: list[Typed]) -> None:
        first, second = sides
        if first.dimension == second.dimension:
            if {first.is_plain, second.is_plain} == {False, True}:
                self._require_unit(first, second)
            return
        self._require_unit(first, second)
        raise FormulaError(
            second.place,
            f"{first.words}, {second.words}: they do not go together.",
            "Bring both to one unit.",
        )

    def _require_unit(self, first: Typed, second: Typed) -> None:
        """A number that lacks the unit of the other side is told which."""
        for one, other in ((second, first), (first, second)):
            if one.is_plain and isinstance(one.node, Constant) and other.unit:
                raise FormulaError(
                    one.place,
                    f"{one.text} has no unit, {other.words}.",
                    proposal=f"{one.text} {other.unit}",
                )

    def _require_values(self, sides: list[Typed]) -> None:
        for side in sides:
            if side.is_condition:
                raise FormulaError(
                    side.place,
                    f"{side.text} is true or false, not a value.",
                    "Use if(condition, signal, signal), or while.",
                )

    def _require_condition(self, side: Typed) -> None:
        if not side.is_condition:
            raise FormulaError(
                side.place,
                f"{side.text} is a value, not true or false.",
                "Compare it: above or below a value.",
            )

    def _negative(self, part: Operation, sides: list[Typed]) -> Typed:
        self._require_values(sides)
        return self._made(part, sides, unit=sides[0].difference_unit(self._names))

    def _multiply(self, part: Operation, sides: list[Typed]) -> Typed:
        self._require_values(sides)
        first, second = sides
        dimension = first.dimension * second.dimension
        for one, other in ((first, second), (second, first)):
            if one.is_plain:
                unit = other.difference_unit(self._names)
                return self._made(part, sides, dimension=dimension, unit=unit)
        words = "·".join(s.difference_unit(self._names) for s in sides)
        unit = computed_unit(self._names, dimension, words)
        return self._made(part, sides, dimension=dimension, unit=unit)

    def _divide(self, part: Operation, sides: list[Typed]) -> Typed:
        self._require_values(sides)
        first, second = sides
        dimension = first.dimension / second.dimension
        over, under = (s.difference_unit(self._names) for s in sides)
        if second.is_plain:
            return self._made(part, sides, dimension=dimension, unit=over)
        # What cannot be written with signs in a row is said in base units.
        words = "" if "/" in under or not over else f"{over}/{under.replace('·', '/')}"
        unit = computed_unit(self._names, dimension, words)
        return self._made(part, sides, dimension=dimension, unit=unit)

    def _power(self, part: Operation, sides: list[Typed]) -> Typed:
        self._require_values(sides)
        base, exponent = sides
        value = _constant(exponent)
        if value is None or not exponent.is_plain:
            raise FormulaError(
                exponent.place, "A power is a number without unit.", "Write it as 2 or 0.5."
            )
        dimension = base.dimension ** Fraction(value).limit_denominator(12)
        unit = computed_unit(self._names, dimension, f"{base.unit}^{exponent.text}")
        return self._made(part, sides, dimension=dimension, unit=unit)

    def _and(self, part: Operation, sides: list[Typed]) -> Typed:
        for side in sides:
            self._require_condition(side)
        return self._made(part, sides, is_condition=True)

    _or = _and
    _not = _and

    def _while(self, part: Operation, sides: list[Typed]) -> Typed:
        value, condition = sides
        self._require_values([value])
        self._require_condition(condition)
        return self._made(part, sides, is_temperature=value.is_temperature)


def _constant(part: Typed) -> float | None:
    node = part.node
    if isinstance(node, Pointwise) and node.operation == "negative":
        (inner,) = node.inputs
        return -inner.value if isinstance(inner, Constant) else None
    return node.value if isinstance(node, Constant) else None


def check(text: str, names: Names) -> Formula:
    """A formula with the dimension of its parts, and the node that it stands for.

    Parameters
    ----------
    text : str
        With channels by their names, or by ``{key}``.
    names : Names

    Returns
    -------
    Formula

    Raises
    ------
    FormulaError
        With the place at fault, and a proposal where there is one.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> from yoke_core.formula.names import Channel, Unit
    >>> kn = Unit("kN", 1e3, Dimension.of(m=1, kg=1, s=-2))
    >>> names = Names([kn], [Channel("k1", "F", kn)])
    >>> check("2 * F", names).result.unit
    'kN'
    >>> try:
    ...     check("F + 3", names)
    ... except FormulaError as error:
    ...     print(error, error.place, error.proposal)
    3 has no unit, F is in kN. (4, 5) 3 kN
    """
    checker = _Checker(text, names)
    result = _value_of(checker, text, names)
    if not SignalGraph({"result": result.node}).keys:
        raise FormulaError(
            result.place, "The formula names no channel.", "It would be the same at each instant."
        )
    return Formula(result, tuple(checker.parts))


def _value_of(checker: _Checker, text: str, names: Names) -> Typed:
    result = checker.check(parse(text, names))
    if result.is_condition:
        raise FormulaError(
            result.place,
            "The formula is true or false, not a value.",
            proposal=f"if({text}, 1, 0)",
        )
    return result


def constant_value(text: str, names: Names) -> tuple[float, Typed]:
    """What a formula without channels comes to.

    Parameters
    ----------
    text : str
        Of numbers and units.
    names : Names
        Its channels are of no use here.

    Returns
    -------
    (float, Typed)
        The value in SI, NaN where it has none, with its dimension.

    Raises
    ------
    FormulaError
        For what `check` refuses, and for a formula that names a channel.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> from yoke_core.formula.names import Unit
    >>> foot, _ = constant_value("12 * 25.4 mm", Names([Unit("mm", 1e-3, Dimension.of(m=1))]))
    >>> round(foot, 9)
    0.3048
    """
    result = _value_of(_Checker(text, names), text, names)
    if SignalGraph({"result": result.node}).keys:
        raise FormulaError(result.place, "A channel has no fixed value.", "Leave it out.")
    # A graph needs a channel: one that reads zero adds nothing.
    summed = Pointwise("add", (Measured(""), result.node))
    found = SignalGraph({"value": summed}).start(1.0).push({"": np.zeros(1)}, follows=False)
    return float(found["value"][0]), result
