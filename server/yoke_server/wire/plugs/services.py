"""Reading plugs, moving channels after their sensors, writing data sheets."""

from collections import Counter

from django.db import transaction
from yoke_core.datasheet.sheet import SheetError, read_sheet, write_sheet

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.drivers.base import Capability
from yoke_server.bench.drivers.registry import capabilities, offers
from yoke_server.bench.models import Input, Link, Order
from yoke_server.bench.services import require_yoke, send
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.orders.devices import ReadSheets, WriteSheet
from yoke_server.ledger.services import record
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.sheets import to_sensor, to_sheet
from yoke_server.setups.models import Channel, SetupDevice
from yoke_server.setups.services import change_rows, lock, lock_channel

MAX_HEX_LENGTH = 4096  # characters of a memory in hexadecimal


@transaction.atomic
def order_reading(actor: Actor, setup_id: int) -> dict[str, Order]:
    """Have the memories of all plugs read, by device; needs the yoke."""
    require(actor, "wire channels")
    setup = lock(setup_id)
    require_yoke(actor, setup.bench)
    linked = setup.bench.devices.filter(link=Link.LINKED)
    able = [d for d in linked if Capability.SHEETS in capabilities(d.driver)]
    if not able:
        raise Problem(
            409,
            "No linked device reads the memories of plugs.",
            code=ProblemType.DEVICE_UNFIT,
            hint="Link its amplifiers first.",
        )
    return {d.label: send(actor, setup.bench, ReadSheets(device=d.label)) for d in able}


@transaction.atomic
def move_channels(actor: Actor, setup_id: int, moves: dict[int, int]) -> None:
    """Channels go to other inputs with their sensors, keeping all else: one action, one undo."""
    require(actor, "wire channels")
    setup = lock(setup_id)
    if setup.on_bench_id:
        require_yoke(actor, setup.bench)
    channels = {c.pk: c for c in setup.channels.select_related("input__device", "sensor")}
    inputs = Input.objects.select_related("device").filter(device__bench=setup.bench_id)
    if missing := set(moves) - set(channels):
        raise Problem(404, f"This setup has no channel {min(missing)}.", field="moves")
    places = {c.pk: c.input for c in channels.values()}
    places |= {pk: inputs.get(pk=to) for pk, to in moves.items()}
    _require_one_each(channels, places)
    for pk in moves:
        _require_fits(channels[pk], places[pk])
        usual = {"rate_hz": offers(places[pk].device.driver).usual_hz}
        SetupDevice.objects.get_or_create(setup=setup, device=places[pk].device, defaults=usual)
    names = ", ".join(f"{channels[pk].name} to {places[pk].label}" for pk in moves)
    rows = [(channels[pk], {"input": places[pk]}) for pk in moves]
    change_rows(actor, setup, f"Moved {names}"[:120], rows)


def _require_one_each(channels: dict[int, Channel], places: dict[int, Input]) -> None:
    taken = Counter(place.pk for place in places.values())
    for place in places.values():
        if taken[place.pk] > 1:
            both = " and ".join(channels[pk].name for pk in places if places[pk].pk == place.pk)
            raise Problem(
                409,
                f"{both} would be on input {place.label}.",
                code=ProblemType.INPUT_UNFIT,
                field="moves",
                hint="Take both moves, or take one sensor off first.",
            )


def _require_fits(channel: Channel, place: Input) -> None:
    if place.signal != channel.sensor.signal:
        raise Problem(
            409,
            f"Input {place.label} measures a {place.signal}, not a {channel.sensor.signal}.",
            code=ProblemType.INPUT_UNFIT,
            field="moves",
            hint="Plug the sensor into an input of the right kind.",
        )


@transaction.atomic
def add_from_sheet(actor: Actor, memory: str) -> Sensor:
    """A sensor that only its plug knew, new in the library."""
    require(actor, "keep the library")
    try:
        sheet = read_sheet(bytes.fromhex(memory))
    except SheetError as error:
        raise Problem(422, str(error), field="memory", hint=error.hint) from error
    except ValueError as error:
        raise Problem(422, "This is no memory of a plug.", field="memory") from error
    if sheet is None:
        raise Problem(422, "The memory is blank.", field="memory", hint="Read it again.")
    sensor = to_sensor(sheet)
    if Sensor.objects.filter(serial__iexact=sensor.serial).exists():
        raise Problem(
            409,
            f"The library has {sensor.serial} already.",
            code=ProblemType.EXISTS_ALREADY,
            field="serial",
            hint="Two instruments never have one serial: look at its plate.",
        )
    sensor.save()
    record(actor, f"Added {sensor.serial} to the library from its data sheet")
    notify(NEWS, kind="library")
    return sensor


@transaction.atomic
def order_writing(actor: Actor, channel_id: int) -> Order:
    """Have a channel's sensor written into its plug's memory; needs the yoke."""
    require(actor, "keep the library")
    setup, channel = lock_channel(channel_id)
    require_yoke(actor, setup.bench)
    device = channel.input.device
    if Capability.SHEETS not in capabilities(device.driver):
        raise Problem(
            409,
            f"{device.label} does not reach the memories of plugs.",
            code=ProblemType.DEVICE_UNFIT,
            hint="Plug the sensor into an amplifier that does.",
        )
    try:
        memory = write_sheet(to_sheet(channel.sensor))
    except SheetError as error:
        raise Problem(422, str(error), field="sensor", hint=error.hint) from error
    record(actor, f"Wrote the data sheet of {channel.sensor.serial} at input {channel.input.label}")
    wanted = WriteSheet(device=device.label, input=channel.input.number, memory=memory.hex())
    return send(actor, setup.bench, wanted)
