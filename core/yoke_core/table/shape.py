"""How a text file writes its table: separator, decimal sign, where names, units, figures stand."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

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
    """

    separator: str
    decimal: str
    names_line: int | None
    units_line: int | None
    first_line: int
    columns: int


def fields_of(line: str, separator: str) -> list[str]:
    """The fields of a line; of blanks any number is one separator."""
    text = line.strip("\r\n")
    parts = text.split() if separator == " " else text.split(separator)
    return [p.strip().strip('"').strip() for p in parts]


def is_number(field: str, decimal: str) -> bool:
    return NUMBER[r"\." if decimal == "." else ","].fullmatch(field) is not None


def _is_figures(fields: Sequence[str], decimal: str) -> bool:
    numbers = sum(is_number(f, decimal) for f in fields)
    return numbers > 0 and numbers >= ENOUGH * sum(f != "" for f in fields)


def guess_shape(lines: Sequence[str]) -> Shape:
    """The way of writing that makes most numbers of the first lines of a file.

    Raises `TableError` where no line holds numbers.
    """
    found: tuple[int, Shape] | None = None
    for separator in SEPARATORS:
        for decimal in DECIMALS:
            if separator != decimal and (judged := _judge(lines, separator, decimal)):
                found = max(found or judged, judged, key=lambda f: f[0])
    if found is None:
        raise TableError(
            "No line of this file is a row of numbers.",
            "Choose a text file with a row of figures for each instant.",
        )
    return found[1]


def shape_by(lines: Sequence[str], separator: str, decimal: str) -> Shape:
    """The same for a way of writing that a person chose; raises `TableError` likewise."""
    if separator == decimal:
        raise TableError(
            "Separator and decimal sign cannot be the same.", "Choose another of the two."
        )
    if judged := _judge(lines, separator, decimal):
        return judged[1]
    raise TableError(
        "Written like this, no line of the file is a row of numbers.",
        "Choose another separator or decimal sign.",
    )


def _judge(lines: Sequence[str], separator: str, decimal: str) -> tuple[int, Shape] | None:
    """How many numbers a way of writing makes, and the shape that follows from it."""
    split = [[] if line.startswith(COMMENT) else fields_of(line, separator) for line in lines]
    figures = [i for i, fields in enumerate(split) if _is_figures(fields, decimal)][:SAMPLE]
    if not figures:
        return None
    counts = [len(split[i]) for i in figures]
    columns = max(set(counts), key=lambda c: (counts.count(c), c))
    first = next(i for i in figures if len(split[i]) == columns)
    numbers = sum(
        is_number(f, decimal) for i in figures if len(split[i]) == columns for f in split[i]
    )
    names, units = _head(lines[:first], separator, columns)
    return numbers, Shape(separator, decimal, names, units, first + 1, columns)


def _head(before: Sequence[str], separator: str, columns: int) -> tuple[int | None, int | None]:
    """Lines of names and of units: the last ones before the figures that have as many fields.

    Where no plain line has, a comment that has is taken for them.
    """
    for of_comments in (False, True):
        fits = [
            number
            for number, line in enumerate(before, start=1)
            if line.startswith(COMMENT) == of_comments
            and len(fields_of(line.lstrip(COMMENT), separator)) == columns
            and NO_NAME.search(line)
        ][-2:]
        if len(fits) == 2 and fits[1] == fits[0] + 1:
            return fits[0], fits[1]
        if fits and (columns > 1 or fits[-1] == len(before)):  # any line fits one column
            return fits[-1], None
    return None, None
