"""From the words of a formula to its parts."""

from collections.abc import Iterator
from functools import cache
from itertools import pairwise
from pathlib import Path
from typing import Any

from lark import Lark, Token, Transformer, UnexpectedToken
from lark.lexer import Lexer

from yoke_core.formula.errors import FormulaError, Place
from yoke_core.formula.lexing import Word, words_of
from yoke_core.formula.names import Channel, NamedRosette, Names, Unit
from yoke_core.formula.tree import Call, ChannelPart, Number, Operation, Option, Part, RosettePart

MAX_WORDS = 400
GRAMMAR = Path(__file__).with_name("grammar.lark")


class _Words(Lexer):
    """Lark is given words that are told apart already."""

    __future_interface__ = 0

    def __init__(self, lexer_conf: Any) -> None:
        pass

    def lex(self, words: Any, parser_state: Any = None) -> Iterator[Token]:
        for word in words:
            yield Token(word.sort, word)


@cache
def _parser() -> Lark:
    return Lark(GRAMMAR.read_text(), parser="lalr", lexer=_Words, transformer=_Parts())


def parse(text: str, names: Names) -> Part:
    """The parts of a formula.

    Parameters
    ----------
    text : str
        With channels by their names, or by ``{key}``.
    names : Names

    Returns
    -------
    Part

    Raises
    ------
    FormulaError
        With the place at fault.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> kn = Unit("kN", 1e3, Dimension.of(m=1, kg=1, s=-2))
    >>> parse("F axle + 3 kN", Names([kn], [Channel("k1", "F axle", kn)])).operation
    'add'
    """
    words = words_of(text, names)
    if not words:
        raise FormulaError((0, len(text)), "The formula is empty.", "Begin with a channel.")
    if len(words) > MAX_WORDS:
        raise FormulaError(
            words[MAX_WORDS].place,
            f"The formula has more than {MAX_WORDS} parts.",
            "Give some of it channels of their own.",
        )
    for word, following in pairwise([*words, None]):
        if word and word.sort == "NAME" and (following is None or following.sort != "OPEN"):
            raise unknown_name(word.text, word.place)
    try:
        parts: Part = _parser().parse(words)  # type: ignore[arg-type, assignment]
    except UnexpectedToken as error:
        raise _unexpected(error, words) from None
    return parts


def _unexpected(error: UnexpectedToken, words: list[Word]) -> FormulaError:
    if error.token.type == "$END":
        end = words[-1].place[1]
        if "CLOSE" in error.accepts:
            return FormulaError((end, end), "A parenthesis is not closed.", proposal=")")
        return FormulaError(
            (end, end), "The formula ends too early.", "Write what follows the last sign."
        )
    word: Word = error.token.value
    return FormulaError(
        word.place, f"“{word.text}” cannot stand here.", "Write a sign between two parts."
    )


def unknown_name(text: str, place: Place) -> FormulaError:
    """The error for a word that names nothing.

    Parameters
    ----------
    text : str
    place : (int, int)

    Returns
    -------
    FormulaError

    Examples
    --------
    >>> str(unknown_name("foo", (0, 3)))
    '“foo” is no channel, unit or function.'
    """
    return FormulaError(
        place,
        f"“{text}” is no channel, unit or function.",
        "Choose one of the list, or put a channel's name in quotes.",
    )


def _over(*parts: Part | Option | Word) -> Place:
    return min(p.place[0] for p in parts), max(p.place[1] for p in parts)


def _operation(name: str) -> Any:
    def made(self: "_Parts", found: list[Any]) -> Operation:
        parts = tuple(p for p in found if not isinstance(p, Token))
        words = [p.value if isinstance(p, Token) else p for p in found]
        return Operation(name, parts, _over(*words))

    return made


class _Parts(Transformer[Token, Any]):
    """Called by lark for each rule of the grammar, innermost first."""

    add = _operation("add")
    subtract = _operation("subtract")
    multiply = _operation("multiply")
    divide = _operation("divide")
    power = _operation("power")
    negative = _operation("negative")
    above = _operation("above")
    below = _operation("below")
    and_ = _operation("and")
    or_ = _operation("or")
    not_ = _operation("not")
    while_ = _operation("while")

    def number(self, found: list[Any]) -> Number:
        return _number(found[0].value)

    def channel(self, found: list[Any]) -> ChannelPart:
        word: Word = found[0].value
        assert isinstance(word.meaning, Channel)
        return ChannelPart(word.meaning, word.place)

    def rosette(self, found: list[Any]) -> RosettePart:
        word: Word = found[0].value
        assert isinstance(word.meaning, NamedRosette)
        return RosettePart(word.meaning, word.place)

    def group(self, found: list[Any]) -> Part:
        inner: Part = found[1]
        return inner

    def option(self, found: list[Any]) -> Option:
        word: Word = found[0].value
        value = _number(found[1].value) if len(found) > 1 and found[1] is not None else None
        return Option(word.text, value, _over(word, *([value] if value else [])))

    def negative_option(self, found: list[Any]) -> Option:
        word: Word = found[0].value
        raise FormulaError(
            (word.place[0], found[2].value.place[1]),
            f"What follows “{word.text}” is above zero.",
            "Leave the minus out.",
        )

    def call(self, found: list[Any]) -> Call:
        name: Word = found[0].value
        close: Word = found[-1].value
        given = [p for p in found[1:-1] if p is not None and not isinstance(p, Token)]
        return Call(
            name.text,
            tuple(p for p in given if not isinstance(p, Option)),
            tuple(p for p in given if isinstance(p, Option)),
            (name.place[0], close.place[1]),
            name.place,
        )


def _number(word: Word) -> Number:
    assert word.meaning is None or isinstance(word.meaning, Unit)
    value = float(word.text)
    if value in (float("inf"), float("-inf")):
        raise FormulaError(word.place, f"{word.text} is too large.", "Write a smaller number.")
    return Number(value, word.meaning, word.text, word.place)
