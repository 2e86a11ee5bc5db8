"""Numbers as people type them: decimal commas, thin spaces, a unit behind."""

import re
from dataclasses import dataclass

SPACES = re.compile(r"\s+")  # thin and hard ones too


class InvalidInput(Exception):
    """A typed text that cannot be used; the message says why."""


class InvalidNumber(InvalidInput):
    """The text is not a number."""


@dataclass(frozen=True, slots=True)
class TypedNumber:
    """A number as somebody typed it; ``comma`` if it had a decimal comma."""

    value: float
    comma: bool


def read_number(text: str, unit: str) -> TypedNumber:
    """From `2,5`, `2.5 V` or `1 000`; raises `InvalidNumber` that names the wrong part.

    A comma is a decimal sign unless a point stands there too: then nobody can tell.
    """
    bare = SPACES.sub("", text).removesuffix(unit.replace(" ", "")).replace("\u2212", "-")
    if "," in bare and "." in bare:
        raise InvalidNumber(f"“{text}” has a comma and a point: write one decimal sign")
    comma = bare.count(",") == 1
    plain = bare.replace(",", ".")
    try:
        if not re.fullmatch(r"[+-]?\d+(\.\d*)?([eE][+-]?\d{1,3})?|[+-]?\.\d+", plain):
            raise ValueError
        return TypedNumber(float(plain), comma)
    except ValueError:
        raise InvalidNumber(_why_invalid(text, bare)) from None


def _why_invalid(text: str, bare: str) -> str:
    letters = [c for c in bare if c.isalpha()]
    if not bare:
        return "there is nothing in it"
    if letters:
        return f"letter {letters[0]} is no figure"
    return f"“{text}” is no figure"
