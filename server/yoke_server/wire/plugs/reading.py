"""What was read in the plugs of a bench against what a setup has wired: proposals."""

from dataclasses import asdict, dataclass

from yoke_core.datasheet.sheet import DataSheet, SheetError, read_sheet

from yoke_server.bench.models import Input
from yoke_server.common.http.problems import Problem
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.sheets import sensor_of, serial_of, to_sensor
from yoke_server.setups.models import Channel, Setup


@dataclass(slots=True)
class PlugReading:
    """One input: what its plug says, what the setup has there, and what is proposed.

    ``state``: none (no memory), blank, sheet, unreadable. ``proposal``: nothing, move (of
    ``channel_id`` to here), wire (``sensor_id``), add (to the library first).
    """

    input_id: int
    input_label: str
    state: str
    serial: str = ""
    words: str = ""
    quantity: str = ""
    wired: str = ""
    proposal: str = ""
    channel_id: int | None = None
    sensor_id: int | None = None
    memory: str = ""
    problem: str = ""


def plugs_of(setup: Setup, memories: dict[str, dict[str, str]]) -> list[dict[str, object]]:
    """By input, for each device label the memories of its inputs in hexadecimal."""
    inputs = Input.objects.filter(device__bench=setup.bench_id).select_related("device")
    by_place = {(i.device.label, i.number): i for i in inputs}
    channels = list(setup.channels.select_related("input__device", "sensor"))
    sensors = list(Sensor.objects.filter(retired_at=None))
    found = []
    for label, plugs in memories.items():
        for number, memory in plugs.items():
            if plug := by_place.get((label, int(number))):
                found.append(_look(plug, memory, channels, sensors))
    return [asdict(f) for f in found]


def _look(plug: Input, memory: str, channels: list[Channel], sensors: list[Sensor]) -> PlugReading:
    here = next((c for c in channels if c.input_id == plug.pk), None)
    wired = f"{here.name}, {here.sensor.serial}" if here else ""
    found = PlugReading(plug.pk, plug.label, "none" if not memory else "blank", wired=wired)
    try:
        sheet = read_sheet(bytes.fromhex(memory))
    except SheetError as error:
        found.state, found.problem = "unreadable", f"{error} {error.hint}"
        return found
    if sheet is not None:
        found.state, found.serial, found.memory = "sheet", serial_of(sheet), memory
        _propose(found, sheet, here, channels, sensors)
    return found


def _propose(
    found: PlugReading,
    sheet: DataSheet,
    here: Channel | None,
    channels: list[Channel],
    sensors: list[Sensor],
) -> None:
    sensor = sensor_of(sheet, sensors)
    if sensor is None:
        found.proposal = "add"
        try:
            found.words = to_sensor(sheet).kind
        except Problem as problem:
            found.proposal, found.problem = "", f"{problem.title} {problem.hint}"
        return
    found.words, found.sensor_id, found.quantity = sensor.name, sensor.pk, sensor.quantity
    wired = next((c for c in channels if c.sensor_id == sensor.pk), None)
    if wired is None:
        found.proposal = "" if here else "wire"
        found.problem = f"{found.wired} is wired here: take it off first." if here else ""
    elif wired is not here:
        found.proposal, found.channel_id = "move", wired.pk
