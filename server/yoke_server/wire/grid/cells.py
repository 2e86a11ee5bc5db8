"""What a cell's text means, and what it changes of a channel."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from yoke_server.common.http.number_input import SPACES, InvalidInput, read_number
from yoke_server.common.http.problems import Problem, reason
from yoke_server.setups.models import Channel


@dataclass(frozen=True, slots=True)
class Column:
    """One column that can be edited: how it is shown as text, and what a text changes."""

    words: str
    unit: str
    show: Callable[[Channel], str]
    changes: Callable[[Channel, str], tuple[dict[str, object], bool]]  # and whether it had a comma


def _name(channel: Channel, text: str) -> tuple[dict[str, object], bool]:
    name = SPACES.sub(" ", text).strip()
    if not 1 <= len(name) <= 30:
        raise InvalidInput("a name has 1 to 30 characters")
    return {"name": name}, False


def _of_wiring(field: str, unit: str) -> Callable[[Channel, str], tuple[dict[str, object], bool]]:
    def changes(channel: Channel, text: str) -> tuple[dict[str, object], bool]:
        if field not in type(channel.wiring).model_fields:
            raise InvalidInput(f"a {channel.wiring.words} has none")
        figure = read_number(text, unit)
        spec = channel.wiring.model_dump(mode="json") | {field: figure.value}
        return {"wiring": _read(channel, "wiring", spec)}, figure.comma

    return changes


def _of_conditioning(
    field: str, unit: str
) -> Callable[[Channel, str], tuple[dict[str, object], bool]]:
    def changes(channel: Channel, text: str) -> tuple[dict[str, object], bool]:
        if field not in type(channel.conditioning).model_fields:
            raise InvalidInput("nothing can be set at this input")
        figure = read_number(text.replace("±", ""), unit)
        spec = channel.conditioning.model_dump(mode="json") | {field: figure.value}
        return {"conditioning": _read(channel, "conditioning", spec)}, figure.comma

    return changes


def _read(channel: Channel, name: str, spec: dict[str, object]) -> Any:
    """A spec by the rules of its kind."""
    try:
        return Channel._meta.get_field(name).read(spec)  # type: ignore[union-attr]
    except Problem as problem:
        raise InvalidInput(reason(problem)) from problem


def _show(part: str, field: str) -> Callable[[Channel], str]:
    def show(channel: Channel) -> str:
        value = getattr(getattr(channel, part), field, None)
        return "" if value is None else f"{value:g}"

    return show


ON, OFF = "on", "off"


def _recorded(channel: Channel, text: str) -> tuple[dict[str, object], bool]:
    said = text.strip().lower()
    if said not in (ON, OFF):
        raise InvalidInput("a channel is on or off")
    return {"recorded": said == ON}, False


COLUMNS: dict[str, Column] = {
    "name": Column("Channel", "", lambda c: c.name, _name),
    "resistance": Column(
        "Resistance", "Ω", _show("wiring", "resistance_ohm"), _of_wiring("resistance_ohm", "Ω")
    ),
    "excitation": Column(
        "Excitation",
        "V",
        _show("conditioning", "excitation_v"),
        _of_conditioning("excitation_v", "V"),
    ),
    "range": Column(
        "Range",
        "mV/V",
        _show("conditioning", "range_mv_v"),
        _of_conditioning("range_mv_v", "mV/V"),
    ),
    "lead": Column("Lead", "m", _show("wiring", "lead_length_m"), _of_wiring("lead_length_m", "m")),
    "recorded": Column("Recorded", "", lambda c: ON if c.recorded else OFF, _recorded),
}
SENSOR = "sensor"  # the column that gives an input its sensor, by serial
