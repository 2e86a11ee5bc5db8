"""Detecting the layout of a table in a text file: separator, decimal sign, header lines."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from yoke_core.errors import TableError

SEPARATORS = (";", "\t", ",", "|", " ")
DECIMALS = (".", ",")
COMMENT = "#"
ENOUGH = 0.5  # share of a line's filled fields that are numbers where it is one of figures
SAMPLE = 50  # lines of figures by which a way of writing is judged
NUMBER = {
    sign: re.compile(rf"[+-]?(\d+({sign}\d*)?|{sign}\d+)([eE][+-]?\d+)?") for sign in (r"\.", ",")
}
NO_NAME = re.compile(r"[^\W\d_]")  # a name or unit has a letter, or is a sign of its own


@dataclass(frozen=True, slots=True)
class Shape:
    """Lines are counted from 1.

    names_line, units_line : None where the file has none
    first_line : of the figures
    columns : fields of each line of figures
    doubt : another way in which all of it could be read as well; empty where there is none
    """

    separator: str
    decimal: str
    names_line: int | None
    units_line: int | None
    first_line: int
    columns: int
    doubt: str = ""


def fields_of(line: str, separator: str) -> list[str]:
    """The fields of a line; of blanks any number is one separator.

    Parameters
    ----------
    line : str
    separator : str
        One character.

    Returns
    -------
    list of str

    Examples
    --------
    >>> fields_of("0,1;2;", ";"), fields_of("1   2", " ")
    (['0,1', '2', ''], ['1', '2'])
    """
    text = line.strip("\r\n")
    parts = text.split() if separator == " " else text.split(separator)
    return [p.strip().strip('"').strip() for p in parts]


def is_number(field: str, decimal: str) -> bool:
    """Whether a field is a number with a decimal sign.

    Parameters
    ----------
    field : str
    decimal : str
        The decimal sign.

    Returns
    -------
    bool

    Examples
    --------
    >>> is_number("-1,5e3", ","), is_number("1,5", ".")
    (True, False)
    """
    return NUMBER[r"\." if decimal == "." else ","].fullmatch(field) is not None


def _is_figures(fields: Sequence[str], decimal: str) -> bool:
    numbers = sum(is_number(f, decimal) for f in fields)
    return numbers > 0 and numbers >= ENOUGH * sum(f != "" for f in fields)


def guess_shape(lines: Sequence[str]) -> Shape:
    """The way of writing in which most fields of the first lines are numbers.

    Two ways that read all fields as numbers are told apart by the line of names, or else doubted.

    Parameters
    ----------
    lines : sequence of str
        The first lines of a file.

    Returns
    -------
    Shape

    Raises
    ------
    TableError
        Where no line holds numbers.

    Examples
    --------
    >>> found = guess_shape(["t;F", "0,1;2,5", "0,2;3,5"])
    >>> found.separator, found.decimal
    (';', ',')
    """
    ways = [
        judged
        for separator in SEPARATORS
        for decimal in DECIMALS
        if separator != decimal and (judged := _judge(lines, separator, decimal))
    ]
    if not ways:
        raise TableError(
            "No line of this file is a row of numbers.",
            "Choose a text file with a row of figures for each instant.",
        )
    best = max(ways, key=lambda way: way.rank)
    rivals = [w for w in ways if w.rank[:2] == best.rank[:2] and w.reads_otherwise(best)]
    if not rivals:
        return best.shape
    other = max(rivals, key=lambda way: way.rank).shape
    doubt = f"{_sign(other.separator)} as separator and {_sign(other.decimal)} as decimal sign"
    return replace(best.shape, doubt=f"{doubt} would make {other.columns} columns of it")


def _sign(sign: str) -> str:
    return {" ": "a blank", "\t": "a tab", ",": "a comma", ".": "a point"}.get(sign, sign)


def shape_by(lines: Sequence[str], separator: str, decimal: str) -> Shape:
    """The shape of a table by a way of writing that a person chose.

    Parameters
    ----------
    lines : sequence of str
        The first lines of a file.
    separator, decimal : str
        One character each.

    Returns
    -------
    Shape

    Raises
    ------
    TableError
        Where no line holds numbers.

    Examples
    --------
    >>> shape_by(["t;F", "0,1;2,5"], ";", ",").columns
    2
    """
    if separator == decimal:
        raise TableError(
            "Separator and decimal sign cannot be the same.", "Choose another of the two."
        )
    if judged := _judge(lines, separator, decimal):
        return judged.shape
    raise TableError(
        "Written like this, no line of the file is a row of numbers.",
        "Choose another separator or decimal sign.",
    )


@dataclass(frozen=True, slots=True)
class _Way:
    """A way of writing: its shape, and how well it fits."""

    shape: Shape
    filled: float  # the share of fields that are numbers
    numbers: int

    @property
    def rank(self) -> tuple[float, bool, int]:
        return self.filled, self.shape.names_line is not None, self.numbers

    def reads_otherwise(self, other: "_Way") -> bool:
        return self.filled == 1 and self.shape.columns != other.shape.columns


def _judge(lines: Sequence[str], separator: str, decimal: str) -> _Way | None:
    """How well a way of writing fits, and the shape that follows from it."""
    split = [[] if line.startswith(COMMENT) else fields_of(line, separator) for line in lines]
    figures = [i for i, fields in enumerate(split) if _is_figures(fields, decimal)][:SAMPLE]
    if not figures:
        return None
    counts = [len(split[i]) for i in figures]
    columns = max(set(counts), key=lambda c: (counts.count(c), c))
    rows = [i for i in figures if len(split[i]) == columns]
    first = _first_row(split, rows, decimal)
    fields = [f for i in rows if i >= first for f in split[i] if f]
    numbers = sum(is_number(f, decimal) for f in fields)
    names, units = _head(lines[:first], separator, columns, decimal)
    shape = Shape(separator, decimal, names, units, first + 1, columns)
    return _Way(shape, numbers / len(fields), numbers)


def _first_row(split: Sequence[Sequence[str]], rows: Sequence[int], decimal: str) -> int:
    """Where the table begins: facts before it may have as many fields, but with a text where
    most rows have a number."""
    columns = range(len(split[rows[0]]))
    usual = [2 * sum(is_number(split[i][c], decimal) for i in rows) > len(rows) for c in columns]

    def fits(row: Sequence[str]) -> bool:
        return all(is_number(row[c], decimal) or not row[c] for c in columns if usual[c])

    return next((i for i in rows if fits(split[i])), rows[0])


def _head(
    before: Sequence[str], separator: str, columns: int, decimal: str
) -> tuple[int | None, int | None]:
    """Lines of names and of units: the last ones before the figures that have as many fields, none
    of them a number.

    Where no plain line has, a comment that has is taken for them.
    """
    for of_comments in (False, True):
        fits = [
            number
            for number, line in enumerate(before, start=1)
            if line.startswith(COMMENT) == of_comments
            and len(fields := fields_of(line.lstrip(COMMENT), separator)) == columns
            and NO_NAME.search(line)
            and not any(is_number(f, decimal) for f in fields)
        ][-2:]
        if len(fits) == 2 and fits[1] == fits[0] + 1:
            return fits[0], fits[1]
        if fits and (columns > 1 or fits[-1] == len(before)):  # any line fits one column
            return fits[-1], None
    return None, None
