"""What a setup from a file must keep to: the same as one that is made here, field by field."""

from typing import Annotated, Any

from pydantic import Field, TypeAdapter, ValidationError

from yoke_server.bench.models import Bench
from yoke_server.common.http import fields
from yoke_server.common.http.fields import Text, comparison_key
from yoke_server.common.http.problems import Problem, from_validation
from yoke_server.common.units import UNITS, is_unit_of, units_of
from yoke_server.kinds.computed import ComputedList
from yoke_server.kinds.guards import GuardList
from yoke_server.kinds.keep_rules import KeepRuleList
from yoke_server.kinds.stops import StopList
from yoke_server.setups.conditioning import check_rate
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.formulas import computed_of
from yoke_server.setups.naming import check_pattern

MAX_CHANNELS = 512
OF_SETUP: dict[str, TypeAdapter[Any]] = {
    "run_name_pattern": TypeAdapter(Annotated[str, Text(1, 60)]),
    "stops": TypeAdapter(StopList),
    "guards": TypeAdapter(GuardList),
    "keep_rules": TypeAdapter(KeepRuleList),
    "computed": TypeAdapter(ComputedList),
    "channels": TypeAdapter(Annotated[list[Any], Field(max_length=MAX_CHANNELS)]),
}
OF_CHANNEL: dict[str, TypeAdapter[Any]] = {
    "key": TypeAdapter(fields.Key),
    "name": TypeAdapter(fields.Name),
    "decimals": TypeAdapter(fields.Decimals),
    "input_number": TypeAdapter(Annotated[int, Field(ge=1, le=512)]),
}


def check_setup_file(wanted: FrozenSetup, bench: Bench) -> None:
    """Raise a 422 problem for the first thing that the API would not take either."""
    _check_fields(wanted, OF_SETUP, "")
    check_pattern(wanted.run_name_pattern)
    _check_fields(wanted.specimen, {"specimen": TypeAdapter(fields.Name)}, "specimen.")
    for number, channel in enumerate(wanted.channels):
        _check_channel(channel, f"channels.{number}.")
    for name in ("name", "key"):
        named = [*wanted.channels, *wanted.computed]
        _check_once([str(getattr(c, name)) for c in named], name)
    _check_formulas(wanted)
    places = [f"{c.device_label}.{c.input_number}" for c in wanted.channels]
    _check_once(places, "input")
    for device in bench.devices.filter(label__in=wanted.rates_hz):
        check_rate(device, wanted.rates_hz[device.label])


def _check_formulas(wanted: FrozenSetup) -> None:
    for number, found in enumerate(computed_of(wanted.channels, wanted.computed)):
        if found.error:
            said = f"{found.channel.name}: {found.error}"
            raise _wrong(said, f"computed.{number}.formula", found.error.hint)


def _check_channel(channel: FrozenChannel, place: str) -> None:
    _check_fields(channel, OF_CHANNEL, place)
    if channel.quantity not in UNITS:
        raise _wrong(
            f"{channel.name}: there is no quantity {channel.quantity}.", f"{place}quantity"
        )
    if not is_unit_of(channel.unit, channel.quantity):
        said = f"{channel.name}: {channel.unit} is no unit of {channel.quantity}."
        known = ", ".join(units_of(channel.quantity))
        raise _wrong(said, f"{place}unit", f"Give one of {known}.")
    if channel.scaling.kind not in channel.wiring.scaling_kinds():
        said = f"{channel.name}: a {channel.wiring.words} cannot be scaled by "
        raise _wrong(f"{said}{channel.scaling.words}.", f"{place}scaling")


def _check_fields(holder: Any, known: dict[str, TypeAdapter[Any]], place: str) -> None:
    for name, adapter in known.items():
        try:
            adapter.validate_python(getattr(holder, name))
        except ValidationError as error:
            first = error.errors()[0]
            at = ("body", "document", "document", *f"{place}{name}".split("."), *first["loc"])
            raise from_validation([{**first, "loc": at}]) from error


def _check_once(values: list[str], name: str) -> None:
    seen: set[str] = set()
    for value in values:
        if comparison_key(value) in seen:
            raise _wrong(f"Two channels have the {name} {value}.", "channels")
        seen.add(comparison_key(value))


def _wrong(title: str, field: str, hint: str = "Put it right in the file.") -> Problem:
    return Problem(422, title, field=f"document.{field}", hint=hint)
