"""What a cell's text means, and what it changes of a channel."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from yoke_server.common.problems import Problem
from yoke_server.wire.models import Channel
from yoke_server.wire.specs.conditioning import BridgeConditioning
from yoke_server.wire.specs.wiring import BridgeWiring

LONGEST = 60
SPACES = re.compile("[\\s\u00a0\u2009\u202f]+")


class NotTaken(Exception):
    """A cell that is left as it was; the text says why."""


@dataclass(frozen=True, slots=True)
class Figure:
    """A number as somebody typed it; ``comma`` if it had a decimal comma."""

    value: float
    comma: bool


def read_figure(text: str, unit: str) -> Figure:
    """From `2,5`, `2.5 V` or `1 000`; raises `NotTaken` naming what is no figure.

    A comma is a decimal sign unless a point stands there too: then nobody can tell.
    """
    bare = SPACES.sub("", text).removesuffix(unit.replace(" ", "")).replace("\u2212", "-")
    if "," in bare and "." in bare:
        raise NotTaken(f"“{text}” has a comma and a point: write one decimal sign")
    comma = bare.count(",") == 1
    plain = bare.replace(",", ".")
    try:
        if not re.fullmatch(r"[+-]?\d+(\.\d*)?([eE][+-]?\d{1,3})?|[+-]?\.\d+", plain):
            raise ValueError
        return Figure(float(plain), comma)
    except ValueError:
        raise NotTaken(_why_no_figure(text, bare)) from None


def _why_no_figure(text: str, bare: str) -> str:
    letters = [c for c in bare if c.isalpha()]
    if not bare:
        return "there is nothing in it"
    if letters:
        return f"letter {letters[0]} is no figure"
    return f"“{text}” is no figure"


@dataclass(frozen=True, slots=True)
class Column:
    """One column that can be edited: how it is shown as text, and what a text changes."""

    words: str
    unit: str
    show: Callable[[Channel], str]
    changes: Callable[[Channel, str], tuple[dict[str, Any], bool]]  # and whether it had a comma


def _name(channel: Channel, text: str) -> tuple[dict[str, Any], bool]:
    name = SPACES.sub(" ", text).strip()
    if not 1 <= len(name) <= 30:
        raise NotTaken("a name has 1 to 30 characters")
    return {"name": name}, False


def _of_wiring(field: str, unit: str) -> Callable[[Channel, str], tuple[dict[str, Any], bool]]:
    def changes(channel: Channel, text: str) -> tuple[dict[str, Any], bool]:
        if not isinstance(channel.wiring, BridgeWiring):
            raise NotTaken(f"a {channel.wiring.words} has none")
        figure = read_figure(text, unit)
        spec = channel.wiring.model_dump(mode="json") | {field: figure.value}
        return {"wiring": _read(channel, "wiring", spec)}, figure.comma

    return changes


def _of_conditioning(
    field: str, unit: str
) -> Callable[[Channel, str], tuple[dict[str, Any], bool]]:
    def changes(channel: Channel, text: str) -> tuple[dict[str, Any], bool]:
        if not isinstance(channel.conditioning, BridgeConditioning):
            raise NotTaken("nothing can be set at this input")
        figure = read_figure(text.replace("±", ""), unit)
        spec = channel.conditioning.model_dump(mode="json") | {field: figure.value}
        return {"conditioning": _read(channel, "conditioning", spec)}, figure.comma

    return changes


def _read(channel: Channel, name: str, spec: dict[str, Any]) -> Any:
    """A spec by the rules of its kind."""
    try:
        return Channel._meta.get_field(name).read(spec)  # type: ignore[union-attr]
    except Problem as problem:
        raise NotTaken(reason(problem)) from problem


def reason(problem: Problem) -> str:
    """A problem as the words of a cell: without the sentence's end."""
    text = problem.title.rstrip(".")
    return text[:1].lower() + text[1:]


def _show(part: str, field: str) -> Callable[[Channel], str]:
    def show(channel: Channel) -> str:
        value = getattr(getattr(channel, part), field, None)
        return "" if value is None else f"{value:g}"

    return show


COLUMNS: dict[str, Column] = {
    "name": Column("Channel", "", lambda c: c.name, _name),
    "resistance": Column(
        "Resistance", "Ω", _show("wiring", "resistance_ohm"), _of_wiring("resistance_ohm", "Ω")
    ),
    "excitation": Column(
        "Excitation", "V", _show("conditioning", "excitation_v"),
        _of_conditioning("excitation_v", "V"),
    ),
    "range": Column(
        "Range", "mV/V", _show("conditioning", "range_mv_v"),
        _of_conditioning("range_mv_v", "mV/V"),
    ),
    "lead": Column(
        "Lead", "m", _show("wiring", "lead_length_m"), _of_wiring("lead_length_m", "m")
    ),
}  # fmt: skip
SENSOR = "sensor"  # the column that gives an input its sensor, by serial
