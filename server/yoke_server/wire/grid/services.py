"""Pasting and filling down: many cells, one action, one undo; a cell not taken stays as it was."""

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Input
from yoke_server.common.http.number_input import InvalidInput
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem, reason
from yoke_server.ledger.services import Change, assign
from yoke_server.sensors.models import Sensor
from yoke_server.setups.conditioning import check_channel, require_yoke_in_use
from yoke_server.setups.freezing import channel_rows
from yoke_server.setups.models import Channel, Setup
from yoke_server.setups.naming import counted_on, names_given
from yoke_server.setups.services import lock, plain, revise
from yoke_server.wire.grid.cells import COLUMNS, SENSOR
from yoke_server.wire.sensor_wiring import SensorWiring


@dataclass(frozen=True, slots=True)
class Cell:
    """What is to stand in a column at an input."""

    input_id: int
    column: str
    text: str


@dataclass(frozen=True, slots=True)
class Outcome:
    """A cell as it was and is, or why it was not taken."""

    cell: Cell
    before: str = ""
    why_not: str = ""
    comma: bool = False


class Rehearsed(Exception):
    """Rolls back what was only tried."""


class Sheet:
    """A setup's channels by input while cells are put, one after the other."""

    def __init__(self, actor: Actor, setup: Setup) -> None:
        self._actor = actor
        self._setup = setup
        self.changes: list[Change] = []
        self._names: dict[int, str] = {}  # that inputs may have
        self._channels = {c.input_id: c for c in channel_rows(self._setup)}
        self._before: dict[int, dict[str, Any]] = {}  # of channels in which something was put

    def put_all(self, cells: Sequence[Cell]) -> list[Outcome]:
        """What is wired comes first: the other cells of its row need it."""
        wired = self._wire([c for c in cells if c.column == SENSOR])
        others = [c for c in cells if c.column != SENSOR]
        self._names = self._names_to_be(others)
        done = wired + [self._take(c, self._put) for c in others]
        self._save()
        return done

    def _names_to_be(self, cells: Sequence[Cell]) -> dict[int, str]:
        """The names of these cells that can be given, by input."""
        wanted: dict[int, str] = {}
        for cell in cells:
            channel = self._channels.get(cell.input_id)
            if cell.column == "name" and channel:
                with suppress(InvalidInput):
                    name = COLUMNS["name"].changes(channel, cell.text)[0]["name"]
                    wanted.setdefault(cell.input_id, str(name))
        return names_given({i: c.name for i, c in self._channels.items()}, wanted)

    def _take(self, cell: Cell, put: Callable[[Cell], bool]) -> Outcome:
        """Take a cell, or say why it stays as it was."""
        before = self.text(cell.input_id, cell.column)
        try:
            comma = put(cell)
        except InvalidInput as why:
            return Outcome(cell, before, str(why))
        except Problem as problem:
            return Outcome(cell, before, reason(problem))
        return Outcome(cell, before, comma=comma)

    def text(self, input_id: int, column: str) -> str:
        channel = self._channels.get(input_id)
        if channel is None:
            return ""
        if column == SENSOR:
            return channel.sensor.serial
        return COLUMNS[column].show(channel) if column in COLUMNS else ""

    def _put(self, cell: Cell) -> bool:
        """Whether the text had a decimal comma."""
        if cell.column not in COLUMNS:
            raise InvalidInput(f"there is no column {cell.column}")
        channel = self._channels.get(cell.input_id)
        if channel is None:
            raise InvalidInput("the input has no sensor yet")
        changes, comma = COLUMNS[cell.column].changes(channel, cell.text)
        if "name" in changes and self._names.get(cell.input_id) != changes["name"]:
            raise InvalidInput(f"there is a channel {changes['name']} already")
        check_channel(self._actor, self._setup, channel, changes)
        if channel.pk not in self._before:
            self._before[channel.pk] = plain(channel)
        assign(channel, changes)
        return comma

    def _save(self) -> None:
        """One change a channel, however many of its cells were put."""
        for channel in self._channels.values():
            before_all = self._before.get(channel.pk)
            if before_all is None:
                continue
            after_all = plain(channel)
            after = {k: v for k, v in after_all.items() if before_all[k] != v}
            if after:
                channel.save(update_fields=list(after))
                before = {k: before_all[k] for k in after}
                self.changes.append(Change("channel", channel.pk, before, after))

    def _wire(self, cells: Sequence[Cell]) -> list[Outcome]:
        if not cells:
            return []
        serials = {c.text.strip() for c in cells}
        sensors = {s.serial: s for s in Sensor.objects.filter(serial__in=serials)}
        inputs = Input.objects.select_related("device").filter(device__bench=self._setup.bench_id)
        wiring = SensorWiring(self._setup, sensors.values())
        place = partial(self._put_sensor, wiring, sensors, inputs.in_bulk())
        done = [self._take(c, place) for c in cells]
        made = wiring.save()
        self.changes += [Change("channel", c.pk, None, plain(c)) for c in made]
        return done

    def _put_sensor(
        self,
        wiring: SensorWiring,
        sensors: dict[str, Sensor],
        inputs: dict[int, Input],
        cell: Cell,
    ) -> bool:
        serial, channel = cell.text.strip(), self._channels.get(cell.input_id)
        if channel and channel.sensor.serial == serial:
            return False
        if channel:
            raise InvalidInput(f"{channel.sensor.serial} is on it: take it off first")
        sensor = sensors.get(serial)
        if sensor is None:
            raise InvalidInput(f"the library has no {serial[:40]}" if serial else "it is empty")
        if other := self._with(sensor):
            raise InvalidInput(f"{serial} is on input {other.input.label} already")
        if cell.input_id not in inputs:
            raise InvalidInput("the bench has no such input")
        made = wiring.give(inputs[cell.input_id], sensor)
        self._channels |= {c.input_id: c for c in made}
        return False

    def _with(self, sensor: Sensor) -> Channel | None:
        return next((c for c in self._channels.values() if c.sensor_id == sensor.pk), None)


def put_cells(
    actor: Actor, setup_id: int, cells: Sequence[Cell], *, dry: bool = False
) -> list[Outcome]:
    """Put texts into cells; with ``dry`` only say what would become of them."""
    return _put(actor, setup_id, lambda sheet: cells, dry=dry, action="Pasted")


def fill_down(
    actor: Actor, setup_id: int, inputs: Sequence[int], columns: Sequence[str], *, dry: bool
) -> list[Outcome]:
    """Put what stands at the first input into those below; names and serials count on."""

    def below(sheet: Sheet) -> list[Cell]:
        texts = {c: sheet.text(inputs[0], c) for c in columns}
        if not any(texts.values()):
            raise Problem(
                409,
                "The first row has no sensor to fill down from.",
                code=ProblemType.NOTHING_TO_DO,
                field="inputs",
                hint="Begin at a row that is wired.",
            )
        cells = []
        for input_id in inputs[1:]:
            for column in columns:
                if column in ("name", SENSOR):
                    texts[column] = counted_on(texts[column])
                cells.append(Cell(input_id, column, texts[column]))
        return cells

    return _put(actor, setup_id, below, dry=dry, action="Filled down")


def _put(
    actor: Actor, setup_id: int, make: Callable[[Sheet], Sequence[Cell]], *, dry: bool, action: str
) -> list[Outcome]:
    """Put the cells that ``make`` gives of the table as it stands under lock: one action."""
    require(actor, "wire channels")
    outcomes: list[Outcome] = []
    try:
        with transaction.atomic():
            setup = lock(setup_id)
            require_yoke_in_use(actor, setup)
            sheet = Sheet(actor, setup)
            cells = make(sheet)
            outcomes += sheet.put_all(cells)
            if dry:
                raise Rehearsed
            if sheet.changes:
                rows = len({c.input_id for c in cells})
                action = f"{action} {rows} rows" if rows > 1 else f"{action} a row"
                revise(actor, setup, action, sheet.changes)
    except Rehearsed:
        pass
    return outcomes


def as_plain(outcome: Outcome) -> dict[str, Any]:
    cell = outcome.cell
    return {
        "input_id": cell.input_id,
        "column": cell.column,
        "text": cell.text,
        "before": outcome.before,
        "why_not": outcome.why_not,
        "comma": outcome.comma,
    }
