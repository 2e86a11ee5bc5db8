"""Checking a formula while it is typed: units of its parts, errors, suggestions."""

from dataclasses import dataclass, field

from yoke_core.formula.completion import Suggestion, suggestions
from yoke_core.formula.errors import FormulaError, Place

from yoke_server.setups.formulas import (
    check_text,
    formula_names,
    units_for,
)
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Setup

TYPED = "typed"  # key of the formula that is being typed


@dataclass(frozen=True, slots=True)
class PartUnit:
    """The unit of a part, where it stands in the text."""

    place: Place
    unit: str


@dataclass(frozen=True, slots=True)
class CheckedFormula:
    """What is known of a text; ``problem`` is empty where it is a formula."""

    unit: str = ""
    units: list[str] = field(default_factory=list)
    parts: list[PartUnit] = field(default_factory=list)
    problem: str = ""
    place: Place | None = None
    hint: str = ""
    proposal: str = ""
    suggestions: list[Suggestion] = field(default_factory=list)


def check_formula(setup: Setup, text: str, cursor: int, key: str = "") -> CheckedFormula:
    """A text that somebody types.

    cursor : how many characters stand before it
    key : of the computed channel that is changed; empty for a new one
    """
    channels = freeze_channels(setup)
    others = [c for c in setup.computed if c.key != key]
    offered = suggestions(text[:cursor], formula_names(channels, others))
    try:
        found = check_text(text, key or TYPED, channels, others)
    except FormulaError as error:
        return CheckedFormula(
            problem=str(error),
            place=error.place,
            hint=error.hint,
            proposal=error.proposal,
            suggestions=offered,
        )
    return CheckedFormula(
        unit=found.result.unit,
        units=units_for(found),
        parts=[PartUnit(p.place, p.unit) for p in found.parts],
        suggestions=offered,
    )
