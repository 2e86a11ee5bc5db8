"""The words of a formula, each with its place.

Channels may have names of several words: the longest name that fits is taken. A name that would be
read as something else stands in quotes.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass

from yoke_core.formula.errors import FormulaError, Place
from yoke_core.formula.names import Channel, NamedRosette, Names, Unit

MAX_LENGTH = 2000
MAX_NESTING = 50

NUMBER = re.compile(r"(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?")
WORD = re.compile(r"[^\W\d]\w*")
QUOTED = re.compile(r'"([^"]*)"')
KEY = re.compile(r"\{([^}]*)\}")
SIGNS = {
    "+": "PLUS", "-": "MINUS", "−": "MINUS", "*": "TIMES", "·": "TIMES", "×": "TIMES", "/": "OVER",
    "^": "POWER", "(": "OPEN", ")": "CLOSE", ",": "COMMA", ">": "ABOVE", "<": "BELOW",
}  # fmt: skip
KEYWORDS = {word: word.upper() for word in ("while", "and", "or", "not", "above", "below")}
OPTIONS = frozenset(
    ("last", "over", "by", "from", "to", "at", "order", "bessel", "modulus", "poisson")
)


@dataclass(frozen=True, slots=True)
class Word:
    """A word of a formula: of which sort it is, how it is written, and what it means."""

    sort: str
    text: str
    place: Place
    meaning: Channel | NamedRosette | Unit | None = None


class _Reader:
    def __init__(self, text: str, names: Names) -> None:
        self._text, self._names = text, names
        self._named = sorted(names.named, key=lambda n: -len(n.name))
        self._units = sorted(names.by_unit, key=len, reverse=True)

    def words(self) -> Iterator[Word]:
        at = 0
        while at < len(self._text):
            if self._text[at].isspace():
                at += 1
                continue
            word = self._word(at)
            yield word
            at = word.place[1]

    def _word(self, at: int) -> Word:
        if (found := NUMBER.match(self._text, at)) is not None:
            return self._number(at, found.end())
        if (named := self._channel(at)) is not None:
            return named
        if self._text[at] in SIGNS:
            return Word(SIGNS[self._text[at]], self._text[at], (at, at + 1))
        if (found := WORD.match(self._text, at)) is not None:
            return self._other(found.group(), (at, found.end()))
        raise FormulaError(
            (at, at + 1),
            f"“{self._text[at]}” has no meaning here.",
            "Use channels, numbers with units, + − * / ^, and functions.",
        )

    def _number(self, at: int, end: int) -> Word:
        unit, unit_end = self.unit(end)
        text = self._text[at:end]
        return Word("NUMBER", text, (at, unit_end if unit else end), unit)

    def unit(self, at: int) -> tuple[Unit | None, int]:
        """The unit that follows a number, as mm, mm/s or N·m; and where it ends."""
        while at < len(self._text) and self._text[at].isspace():
            at += 1
        first = self._unit_name(at)
        if first is None:
            return None, at
        name, unit, end = first, self._names.by_unit[first], at + len(first)
        while end < len(self._text) and self._text[end] in "/·":
            sign, more = self._text[end], self._unit_name(end + 1)
            if more is None:
                break
            name, end = f"{name}{sign}{more}", end + 1 + len(more)
            unit = _joined(name, unit, sign, self._names.by_unit[more])
        return unit, end

    def _unit_name(self, at: int) -> str | None:
        fits = (u for u in self._units if self._stands(u, at))
        return next(fits, None)

    def _stands(self, name: str, at: int) -> bool:
        """Whether a name stands there and no letter or figure follows it."""
        end = at + len(name)
        if not self._text.startswith(name, at):
            return False
        ends_in_letter = name[-1].isalnum() or name[-1] == "_"
        return not (ends_in_letter and end < len(self._text) and _in_word(self._text[end]))

    def _channel(self, at: int) -> Word | None:
        for pattern, attribute in ((QUOTED, "name"), (KEY, "key")):
            if (found := pattern.match(self._text, at)) is not None:
                return self._named_so(found, attribute)
        word = WORD.match(self._text, at)
        if word and self._is_reserved(word):
            return None
        fitting = next((n for n in self._named if self._stands(n.name, at)), None)
        if fitting is None:
            return None
        return _of(fitting, fitting.name, (at, at + len(fitting.name)))

    def _is_reserved(self, word: re.Match[str]) -> bool:
        """A keyword, an option, or a function's name before its parenthesis."""
        text = word.group()
        return (
            text in KEYWORDS or text in OPTIONS or self._text[word.end() :].lstrip().startswith("(")
        )

    def _named_so(self, found: re.Match[str], attribute: str) -> Word:
        place = (found.start(), found.end())
        wanted = found.group(1)
        for named in self._named:
            if getattr(named, attribute) == wanted:
                return _of(named, found.group(), place)
        if attribute == "key":
            raise FormulaError(
                place, "The channel that stood here was removed.", "Name another channel."
            )
        raise FormulaError(place, f"There is no channel {wanted}.", "Choose one of the setup's.")

    def _other(self, text: str, place: Place) -> Word:
        if text in KEYWORDS:
            return Word(KEYWORDS[text], text, place)
        return Word("OPTION" if text in OPTIONS else "NAME", text, place)


def _of(named: Channel | NamedRosette, text: str, place: Place) -> Word:
    sort = "CHANNEL" if isinstance(named, Channel) else "ROSETTE"
    return Word(sort, text, place, named)


def _joined(name: str, first: Unit, sign: str, second: Unit) -> Unit:
    if sign == "/":
        return Unit(name, first.factor / second.factor, first.dimension / second.dimension)
    return Unit(name, first.factor * second.factor, first.dimension * second.dimension)


def _in_word(letter: str) -> bool:
    return letter.isalnum() or letter == "_"


def read_unit(words: str, names: Names) -> Unit | None:
    """A unit made of others, as it stands under a part.

    Parameters
    ----------
    words : str
        As ``mm/s`` or ``kN·s``.
    names : Names

    Returns
    -------
    Unit or None
        None for what is made of other units than those of the list.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> mm, s = Unit("mm", 1e-3, Dimension.of(m=1)), Unit("s", 1.0, Dimension.of(s=1))
    >>> read_unit("mm/s", Names([mm, s])).factor
    0.001
    """
    unit, end = _Reader(words, names).unit(0)
    return unit if end == len(words) else None


def words_of(text: str, names: Names) -> list[Word]:
    """The words of a formula in order.

    Parameters
    ----------
    text : str
        At most 2000 characters, at most 50 parentheses within each other.
    names : Names

    Returns
    -------
    list of Word

    Raises
    ------
    FormulaError
        For a sign or quoted name without meaning, and for what is too long or too deep.

    Examples
    --------
    >>> from yoke_core.formula.dimension import Dimension
    >>> kn = Unit("kN", 1e3, Dimension.of(m=1, kg=1, s=-2))
    >>> names = Names([kn], [Channel("k1", "F axle", kn)])
    >>> [(w.sort, w.text) for w in words_of("F axle + 3 kN", names)]
    [('CHANNEL', 'F axle'), ('PLUS', '+'), ('NUMBER', '3')]
    """
    if len(text) > MAX_LENGTH:
        raise FormulaError(
            (MAX_LENGTH, len(text)),
            f"The formula has {len(text)} characters; {MAX_LENGTH} are the most.",
            "Give parts of it channels of their own.",
        )
    words = list(_Reader(text, names).words())
    depth = 0
    for word in words:
        depth += {"OPEN": 1, "CLOSE": -1}.get(word.sort, 0)
        if depth > MAX_NESTING:
            raise FormulaError(
                word.place,
                f"More than {MAX_NESTING} parentheses are open here.",
                "Give parts of it channels of their own.",
            )
    return words
