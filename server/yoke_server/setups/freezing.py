"""A setup as its rows stand now, as plain data.

What follows from a channel's rows is made once for what stands in them: most reads of a setup
find most of its channels as they were.
"""

from functools import cache, lru_cache
from typing import Any, Generic, NamedTuple, TypeVar

from django.db.models import Model, QuerySet
from pydantic import BaseModel

from yoke_server.bench.models import Bench, Device, Input
from yoke_server.common.db.prepared import ASKED, Columns, Prepared, Raw, raw_rows, rows_in
from yoke_server.common.db.snapshot import cached_in_snapshot
from yoke_server.kinds.shunts import ShuntResistor
from yoke_server.sensors.models import Sensor
from yoke_server.setups.document import FrozenChannel, FrozenSetup, FrozenSpecimen
from yoke_server.setups.models import (
    Balance,
    Channel,
    Measured,
    Project,
    Setup,
    SetupDevice,
    ShuntCalibration,
    Tare,
)

MAX_KEPT = 1000  # channels of which is known what follows from them
T = TypeVar("T", bound=Measured)

_CHANNEL, _INPUT, _SENSOR = Columns(Channel), Columns(Input, "input__"), Columns(Sensor, "sensor__")
# What else a device tells of itself changes all the time.
_DEVICE = Columns(Device, "input__device__", only=("id", "label", "serial", "driver"))


def _wired(**of: Any) -> "QuerySet[Any, Any]":
    return Channel.objects.filter(**of).values_list(
        *_CHANNEL.names, *_INPUT.names, *_DEVICE.names, *_SENSOR.names
    )


_WIRED = Prepared(lambda: _wired(setup_id=ASKED))
_KEY, _SETUP_ID = _CHANNEL.names.index("key"), _CHANNEL.names.index("setup_id")
_RATES = Prepared(
    lambda: SetupDevice.objects.filter(setup_id=ASKED).values_list("device__label", "rate_hz")
)
_PARTS = Columns(Setup), Columns(Project, "project__"), Columns(Bench, "bench__")
_SETUP = Prepared(
    lambda: Setup.objects.filter(pk=ASKED).values_list(*(n for c in _PARTS for n in c.names))
)


class _Newest(Generic[T]):
    """What is in force of one kind."""

    def __init__(self, model: type[T]) -> None:
        self._model, self.columns = model, Columns(model)
        self.rows = Prepared(lambda: self.query(setup_id=ASKED))
        names = self.columns.names
        self.setup_id, self.key = names.index("setup_id"), names.index("channel_key")

    def query(self, **of: Any) -> "QuerySet[Any, Any]":
        rows = self._model._default_manager.filter(**of)
        newest = rows.order_by("setup_id", "channel_key", "-id").distinct("setup_id", "channel_key")
        return newest.values_list(*self.columns.names)


@cache
def _newest(model: type[T]) -> _Newest[T]:
    return _Newest(model)


def frozen_channel(setup: Setup, key: str) -> FrozenChannel:
    """One channel as it stands; raises `Channel.DoesNotExist` where somebody took it off."""
    found = next((c for c in freeze_channels(setup) if c.key == key), None)
    if found is None:
        raise Channel.DoesNotExist
    return found


def setup_row(setup_id: int) -> Setup:
    """A setup with its project and its bench; raises `Setup.DoesNotExist`."""
    if not (rows := _SETUP.rows(setup_id)):
        raise Setup.DoesNotExist
    setup: Setup
    setup, project, bench = rows_in(rows[0], *_PARTS)
    setup.project, setup.bench = project, bench
    return setup


class Wired(NamedTuple):
    """The rows that a channel as it stands follows from; none of what was not measured."""

    channel: Raw  # with its input, its device and its sensor
    balance: Raw | None
    tare: Raw | None
    shunt: Raw | None

    @property
    def key(self) -> str:
        return str(self.channel[_KEY])


@cached_in_snapshot
def newest_rows(model: type[Measured], setup_id: int) -> dict[str, Raw]:
    """What is in force of one kind, by channel key, as it stands in the database."""
    kind = _newest(model)
    return {str(row[kind.key]): row for row in kind.rows.rows(setup_id)}


def newest(model: type[T], setup_id: int) -> dict[str, T]:
    """What is in force of one kind, by channel key."""
    return {key: fact(model, row) for key, row in newest_rows(model, setup_id).items()}


@lru_cache(maxsize=5 * MAX_KEPT)
def fact(model: type[T], row: Raw) -> T:
    """A measured fact of its row; facts never change, so that all may have the same one."""
    found: T = _newest(model).columns.row(row)
    return found


@cached_in_snapshot
def wired_channels(setup_id: int) -> list[Wired]:
    """The channels of a setup by input, each as its rows stand."""
    balances, tares = newest_rows(Balance, setup_id), newest_rows(Tare, setup_id)
    shunts = newest_rows(ShuntCalibration, setup_id)
    rows = [(str(row[_KEY]), row) for row in _WIRED.rows(setup_id)]
    return [Wired(row, balances.get(key), tares.get(key), shunts.get(key)) for key, row in rows]


def frozen_of_setups(setups: list[int]) -> dict[int, list[FrozenChannel]]:
    """The channels of many setups by input, as `freeze_channels` gives those of one: a query for
    each table, however many there are."""
    found: dict[int, list[FrozenChannel]] = {setup: [] for setup in setups}
    balances, tares, shunts = (
        {
            (row[kind.setup_id], row[kind.key]): row
            for row in raw_rows(kind.query(setup_id__in=setups))
        }
        for kind in (_newest(m) for m in (Balance, Tare, ShuntCalibration))
    )
    for row in raw_rows(_wired(setup_id__in=setups)):
        key = row[_SETUP_ID], row[_KEY]
        wired = Wired(row, balances.get(key), tares.get(key), shunts.get(key))
        found[row[_SETUP_ID]].append(frozen(wired))
    return found


def channel_rows(setup: Setup) -> list[Channel]:
    """Its channels by input, with all that a frozen one holds."""
    return [channel_of(w) for w in wired_channels(setup.pk)]


def channel_of(wired: Wired) -> Channel:
    """A channel with its input, its device and its sensor."""
    channel: Channel
    channel, plug, device, sensor = rows_in(wired.channel, _CHANNEL, _INPUT, _DEVICE, _SENSOR)
    channel.input, plug.device, channel.sensor = plug, device, sensor
    return channel


def freeze_channels(setup: Setup) -> list[FrozenChannel]:
    """The setup's channels by input, with what is in force for each."""
    return [frozen(w) for w in wired_channels(setup.pk)]


@lru_cache(maxsize=MAX_KEPT)
def frozen(wired: Wired) -> FrozenChannel:
    """A channel as its rows say."""
    channel = channel_of(wired)
    balance = fact(Balance, wired.balance) if wired.balance else None
    tare = fact(Tare, wired.tare) if wired.tare else None
    shunt = fact(ShuntCalibration, wired.shunt) if wired.shunt else None
    zeroed = balance if balance and balance.zero is not None else None
    tared = tare if tare and tare.tare is not None else None
    checked = shunt if shunt and shunt.measured_mv_v is not None else None
    plug, sensor = channel.input, channel.sensor
    return FrozenChannel.model_construct(  # of columns, which have their types
        **_fields(channel, FrozenChannel),
        device_label=plug.device.label,
        device_serial=plug.device.serial,
        input_number=plug.number,
        signal=plug.signal,
        sensor_name=sensor.name,
        sensor_serial=sensor.serial,
        calibrated_on=sensor.calibrated_on,
        due_on=sensor.due_on,
        zero=zeroed.zero if zeroed else None,
        zeroed_at=zeroed.at if zeroed else None,
        tare=tared.tare if tared else None,
        tared_at=tared.at if tared else None,
        shunt_expected_mv_v=checked.expected_mv_v if checked else None,
        shunt_measured_mv_v=checked.measured_mv_v if checked else None,
        shunt_at=checked.at if checked else None,
        shunt_resistor=ShuntResistor(**checked.resistor) if checked and checked.resistor else None,
    )


def _fields(row: Model, shape: type[BaseModel]) -> dict[str, Any]:
    own = {f.name for f in row._meta.concrete_fields}
    return {k: getattr(row, k) for k in shape.model_fields if k in own}


def freeze(setup: Setup) -> FrozenSetup:
    return FrozenSetup(
        **_fields(setup, FrozenSetup)
        | {
            "setup_id": setup.pk,
            "bench": setup.bench.name,
            "project": setup.project.name,
            "rates_hz": dict(_RATES.rows(setup.pk)),
            "specimen": FrozenSpecimen(**_fields(setup, FrozenSpecimen)),
        },
        channels=freeze_channels(setup),
    )
