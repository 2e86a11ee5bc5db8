"""Reads of projects and setups as the API gives them."""

from dataclasses import asdict
from datetime import date
from functools import lru_cache
from typing import Any

from django.db.models import prefetch_related_objects
from yoke_core.bridge.heating import Substrate, heat_density, heating

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import Offers
from yoke_server.common.clock import laboratory_today
from yoke_server.common.pages import Page, searched
from yoke_server.common.prepared import Raw
from yoke_server.common.snapshot import read_snapshot
from yoke_server.common.units import DECIMALS
from yoke_server.ledger.services import undo_and_redo
from yoke_server.wire import hooks
from yoke_server.wire.calibration_status import status_of
from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.document import FrozenChannel, rosette_key, rosettes_of
from yoke_server.wire.freezing import (
    MAX_KEPT,
    Wired,
    channel_of,
    fact,
    freeze,
    frozen,
    frozen_of_setups,
    newest_rows,
    setup_row,
    standing,
)
from yoke_server.wire.models import Channel, Project, Sensor, Setup, SignTest, WiringCheck
from yoke_server.wire.naming import free_name, free_rosette, run_name
from yoke_server.wire.schemas import ChannelOut, SensorOut
from yoke_server.wire.services import plain
from yoke_server.wire.sign.words import sign_out

SEARCHED = ("name", "customer", "article", "standard", "setups__name")


def projects(page: Page, *, archived: bool = False, search: str = "") -> dict[str, Any]:
    """A page of projects, the newest first, with what each of their setups is at."""
    rows = Project.objects.filter(archived_at__isnull=not archived)
    with read_snapshot():
        found = page.of(searched(rows, SEARCHED, search))
        return found.out(_projects(found.rows))


def project_out(project_id: int) -> dict[str, Any]:
    with read_snapshot():
        return _projects([Project.objects.get(pk=project_id)])[0]


def _projects(rows: list[Project]) -> list[dict[str, Any]]:
    of_page = Setup.objects.filter(project__in=[p.pk for p in rows])
    lines: dict[int, list[dict[str, Any]]] = {p.pk: [] for p in rows}
    setups = list(of_page.select_related("bench").order_by("pk"))
    for setup, line in zip(setups, _lines(setups), strict=True):
        lines[setup.project_id].append(line)
    return [{**plain(p), "setups": lines[p.pk]} for p in rows]


def _lines(setups: list[Setup]) -> list[dict[str, Any]]:
    """Each setup's progress, and the action that it waits for."""
    channels = frozen_of_setups([s.pk for s in setups])
    found = [
        {
            "id": s.pk, "name": s.name, "version": s.version, "bench_id": s.bench_id,
            "bench_name": s.bench.name, "on_bench": s.bench.active_setup_id == s.pk,
            "channels": len(channels[s.pk]),
        }
        for s in setups
    ]  # fmt: skip
    for facts in hooks.line_facts:
        known = facts(setups, channels)
        for line, setup in zip(found, setups, strict=True):
            line.update(known[setup.pk])
    return [{**line, "next": _next_action(line)} for line in found]


def _next_action(at: dict[str, Any]) -> dict[str, str]:
    """Which stage to go to, what to do there, and why."""
    zeroed = at["to_zero"] == 0
    for waits, stage, action, reason in (
        (at["recording"], "record", "Watch the run", "A run is being recorded."),
        (not at["channels"], "wire", "Wire its channels", "No input has a sensor yet."),
        (at["stale"], "derive", "Look at the results", "Results are being renewed."),
        (not zeroed and not at["runs"], "calibrate", "Zero its channels",
         f"{at['to_zero']} of {at['channels']} channels have no zero."),
        (not at["runs"], "record", "Record its first run", "All is wired and zeroed."),
        (not at["reports"], "report", "Write its report", "Results are in, no report is begun."),
    ):  # fmt: skip
        if waits:
            return {"stage": stage, "action": action, "reason": reason}
    return {"stage": "record", "action": "Record another run", "reason": "The report is begun."}


def check_out(channel: Channel, check: WiringCheck | None) -> dict[str, Any] | None:
    if check is None:
        return None
    return {**check.found, "at": check.at, "old": check.of != wired_as(channel)}


def heating_out(channel: Channel) -> dict[str, Any] | None:
    """How warm a gauge makes itself; nothing where its grid's area is not known."""
    wiring, conditioning = channel.wiring, channel.conditioning
    if wiring.kind != "bridge" or conditioning.kind != "bridge" or wiring.grid_area_m2 is None:
        return None
    given = (conditioning.excitation_v, wiring.resistance_ohm, wiring.grid_area_m2)
    if wiring.ground is None:
        return {"density_w_m2": heat_density(*given)}
    return _heating(*given, wiring.ground, registry.offers(channel.input.device.driver))


@lru_cache(maxsize=1000)
def _heating(
    excitation: float, resistance: float, area: float, ground: Substrate, offers: Offers
) -> dict[str, Any]:
    """The same for the same gauges: a bench has many of a lot."""
    found = heating(excitation, resistance, area, ground, offers.excitations_v)
    return {**asdict(found), "well": found.well}


def _sensor_out(sensor: Sensor, today: date) -> dict[str, Any]:
    status = status_of(sensor.calibrated_on, sensor.due_on, today)
    names = SensorOut.model_fields.keys() - {"calibration_status"}
    return {name: getattr(sensor, name) for name in names} | {"calibration_status": status}


@lru_cache(maxsize=MAX_KEPT)
def channel_out(wired: Wired, check: Raw | None, test: Raw | None, today: date) -> ChannelOut:
    """A channel as screens show it; its sensor's calibration as it stands ``today``."""
    channel, as_frozen = channel_of(wired), frozen(wired)
    fields = {f.attname: getattr(channel, f.attname) for f in channel._meta.concrete_fields}
    wiring = channel.wiring
    return ChannelOut.model_validate(
        {
            **fields,
            **{name: getattr(as_frozen, name) for name in FrozenChannel.model_fields},
            "sensor": _sensor_out(channel.sensor, today),
            "device_id": channel.input.device_id,
            "input_label": channel.input.label,
            "active_arms": wiring.active_arms if wiring.kind == "bridge" else [],
            "completion_ohm": wiring.completion_ohm if wiring.kind == "bridge" else None,
            "check": check_out(channel, fact(WiringCheck, check) if check else None),
            "heating": heating_out(channel),
            "sign": sign_out(channel, fact(SignTest, test) if test else None),
            **hooks.gathered(hooks.channel_facts, as_frozen),
        }
    )


def _channels_out(setup_id: int) -> list[ChannelOut]:
    checks, tests = newest_rows(WiringCheck, setup_id), newest_rows(SignTest, setup_id)
    today = laboratory_today()
    return [channel_out(w, checks.get(w.key), tests.get(w.key), today) for w in standing(setup_id)]


def _free_names(taken: set[str]) -> dict[str, str]:
    """What a new channel of each quantity, or a rosette, would be called."""
    found = {quantity: free_name(quantity, taken) for quantity in DECIMALS}
    return found | {"rosette": free_rosette(taken)}


def setup_out(setup_id: int) -> dict[str, Any]:
    """A setup with everything its stages show, as it stood at one moment."""
    with read_snapshot():
        return _setup_out(setup_id)


def _setup_out(setup_id: int) -> dict[str, Any]:
    setup = setup_row(setup_id)
    prefetch_related_objects([setup.bench], "devices")
    devices = {d.label: d.pk for d in setup.bench.devices.all()}
    as_frozen = freeze(setup)
    undo, redo = undo_and_redo(setup.pk)
    facts = hooks.gathered(hooks.setup_facts, setup, as_frozen)
    return {
        **{f.attname: getattr(setup, f.attname) for f in setup._meta.concrete_fields},
        "project_name": setup.project.name,
        "rates": [
            {"device_id": devices[label], "device_label": label, "rate_hz": rate_hz}
            for label, rate_hz in as_frozen.rates_hz.items()
        ],
        "channels": _channels_out(setup.pk),
        "rosettes": [
            {"name": name, "key": rosette_key(grids)}
            for name, grids in rosettes_of(as_frozen.channels).items()
        ],
        "free_names": _free_names({c.name for c in as_frozen.channels}),
        "undo": undo,
        "redo": redo,
        **facts,
        "next_run_name": run_name(
            setup.run_name_pattern,
            specimen=setup.specimen,
            number=facts["last_run_number"] + 1,
            setup=setup.name,
        ),
    }
