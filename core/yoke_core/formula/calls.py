"""Checking calls of functions: arguments, options and dimensions."""

from collections.abc import Callable
from difflib import get_close_matches

from yoke_core.errors import CoreError
from yoke_core.formula.dimension import FREQUENCY, NONE, Dimension
from yoke_core.formula.errors import FormulaError
from yoke_core.formula.functions import FUNCTIONS
from yoke_core.formula.functions.base import EXAMPLES, OPTIONS, Function, Given
from yoke_core.formula.names import Names
from yoke_core.formula.tree import Call, Option, Part, RosettePart
from yoke_core.formula.typed import Typed, computed_unit
from yoke_core.signals.graph import Measured
from yoke_core.signals.nodes.pointwise import Constant, Pointwise

CONDITIONAL = "if"
Check = Callable[[Part], Typed]


def check_call(call: Call, check: Check, names: Names, text: str) -> Typed:
    """A call as a checked part.

    Parameters
    ----------
    call : Call
    check : callable
        Of its arguments.
    names : Names
    text : str
        The whole formula, for the words of errors.

    Returns
    -------
    Typed

    Raises
    ------
    FormulaError
    """
    if call.function == CONDITIONAL:
        return _conditional(call, check, text)
    function = FUNCTIONS.get(call.function)
    if function is None:
        raise _unknown(call)
    if function.of_rosette:
        return _of_rosette(function, call, names, text)
    arguments = [check(part) for part in call.arguments]
    _require_count(function, call)
    _require_fitting(function, arguments)
    given = Given(
        tuple(a.node for a in arguments),
        tuple(a.dimension for a in arguments),
        _options(function, call),
    )
    is_temperature = function.keeps_temperature and arguments[0].is_temperature
    first = arguments[0].unit if is_temperature else arguments[0].difference_unit(names)
    unit = _unit(function, given, first, names)
    return _made(function, call, given, text, unit, is_temperature)


def _made(
    function: Function, call: Call, given: Given, text: str, unit: str, is_temperature: bool = False
) -> Typed:
    try:
        node = function.node(given)
    except CoreError as error:
        raise FormulaError(call.place, str(error), error.hint) from None
    words = text[slice(*call.place)]
    dimension = function.dimension(given)
    return Typed(node, dimension, unit, call.place, words, is_temperature=is_temperature)


def _unknown(call: Call) -> FormulaError:
    near = get_close_matches(call.function, [*FUNCTIONS, CONDITIONAL], n=1)
    hint = "" if near else "Choose one of the list."
    message = f"There is no function {call.function}."
    return FormulaError(call.name_place, message, hint, proposal=near[0] if near else "")


def _require_count(function: Function, call: Call) -> None:
    fewest, most = function.signals
    if fewest <= len(call.arguments) <= most:
        return
    wanted = f"{fewest}" if fewest == most else f"{fewest} to {most}"
    raise FormulaError(
        call.place,
        f"{function.name} takes {wanted} {'signal' if most == 1 else 'signals'}, "
        f"not {len(call.arguments)}.",
        f"Write {function.usage}.",
    )


def _require_fitting(function: Function, arguments: list[Typed]) -> None:
    for argument in arguments:
        if argument.is_condition:
            raise FormulaError(
                argument.place,
                f"{argument.text} is true or false, not a value.",
                f"Write {function.usage}.",
            )
    wanted = function.takes([a.dimension for a in arguments])
    for argument, dimension in zip(arguments, wanted, strict=False):
        if dimension is not None and argument.dimension != dimension:
            raise _wrong_dimension(function, arguments[0], argument, dimension)


def _wrong_dimension(
    function: Function, first: Typed, argument: Typed, dimension: Dimension
) -> FormulaError:
    if argument.is_plain and isinstance(argument.node, Constant) and first.unit:
        return FormulaError(
            argument.place,
            f"{argument.text} has no unit, {first.words}.",
            proposal=f"{argument.text} {first.unit}",
        )
    wanted = "a number without unit" if dimension == NONE else f"the unit of {first.text}"
    return FormulaError(
        argument.place, f"{argument.words}; {function.name} takes {wanted}.", "Divide by a unit."
    )


def _options(function: Function, call: Call) -> dict[str, float]:
    """What was given by words, in SI."""
    found: dict[str, float] = {}
    for option in call.options:
        if option.word not in (*function.needs, *function.may):
            raise FormulaError(
                option.place,
                f"{function.name} knows no “{option.word}”.",
                f"Write {function.usage}.",
            )
        if option.word in found:
            raise FormulaError(
                option.place, f"“{option.word}” was given already.", "Leave one of them out."
            )
        found[option.word] = _value(option)
    for word in function.needs:
        if word not in found:
            raise FormulaError(call.place, f"“{word}” is missing.", f"Write {function.usage}.")
    return found


def _value(option: Option) -> float:
    dimension = OPTIONS[option.word]
    number, example = option.value, EXAMPLES.get(option.word, "")
    if dimension is None:
        if number is not None:
            raise FormulaError(
                number.place, f"“{option.word}” stands alone.", f"Leave {number.text} out."
            )
        return 1.0
    if number is None:
        raise FormulaError(
            option.place,
            f"A value is missing after “{option.word}”.",
            proposal=f"{option.word} {example}",
        )
    if number.unit is None and dimension != NONE:
        unit = example.split()[-1]
        raise FormulaError(
            number.place,
            f"{number.text} has no unit.",
            proposal=f"{number.text} {unit}",
        )
    given = number.unit.dimension if number.unit else NONE
    is_angular = dimension == FREQUENCY and number.unit and not number.unit.name.endswith("Hz")
    if given != dimension or is_angular:
        raise FormulaError(
            number.place,
            f"What follows “{option.word}” is written as {example}.",
            f"Write {example}.",
        )
    return number.value * (number.unit.factor if number.unit else 1.0)


def _unit(function: Function, given: Given, first: str, names: Names) -> str:
    """The unit that the result is read in; ``first`` is that of the first signal."""
    if function.keeps_unit:
        return first
    if function.unit:
        return function.unit(first)
    return computed_unit(names, function.dimension(given), "")


def _of_rosette(function: Function, call: Call, names: Names, text: str) -> Typed:
    part = call.arguments[0] if len(call.arguments) == 1 else None
    if not isinstance(part, RosettePart):
        raise FormulaError(
            call.place,
            f"{function.name} takes one rosette by its name.",
            f"Write {function.usage}.",
        )
    rosette = part.rosette
    given = Given(
        tuple(Measured(key) for key in rosette.grids), (), _options(function, call), rosette
    )
    grid = next((c.unit.name for c in names.channels if c.key == rosette.grids[0]), "")
    return _made(function, call, given, text, _unit(function, given, grid, names))


def _conditional(call: Call, check: Check, text: str) -> Typed:
    usage = "if(condition, signal, signal)"
    if len(call.arguments) != 3 or call.options:
        raise FormulaError(call.place, "if takes a condition and two signals.", f"Write {usage}.")
    condition, yes, no = (check(part) for part in call.arguments)
    if not condition.is_condition:
        raise FormulaError(
            condition.place,
            f"{condition.text} is a value, not true or false.",
            "Compare it: above or below a value.",
        )
    if yes.is_condition or no.is_condition or yes.dimension != no.dimension:
        raise FormulaError(
            no.place, f"{yes.words}, {no.words}: they do not go together.", f"Write {usage}."
        )
    return Typed(
        Pointwise("if", (condition.node, yes.node, no.node)),
        yes.dimension,
        yes.unit or no.unit,
        call.place,
        text[slice(*call.place)],
        is_temperature=yes.is_temperature and no.is_temperature,
    )
