"""Reads of projects and setups as the API gives them."""

from dataclasses import asdict
from functools import lru_cache
from typing import Any

from yoke_core.bridge.heating import Ground, heat_density, heating

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import Offers
from yoke_server.common.one_state import one_state
from yoke_server.common.units import DECIMALS
from yoke_server.ledger.services import undo_and_redo
from yoke_server.wire import hooks
from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.document import (
    FrozenChannel,
    channel_rows,
    freeze,
    freeze_channels,
    newest,
    rosette_key,
    rosettes_of,
)
from yoke_server.wire.models import Channel, Project, Setup, SignTest, WiringCheck
from yoke_server.wire.naming import free_name, free_rosette, run_name
from yoke_server.wire.services import plain
from yoke_server.wire.sign.words import sign_out

MOST_PROJECTS = 100


def projects(archived: bool = False) -> list[dict[str, Any]]:
    """The newest projects with what each of their setups is at."""
    rows = Project.objects.filter(archived_at__isnull=not archived).order_by("-created_at")
    with one_state():
        return [_project(p) for p in rows[:MOST_PROJECTS]]


def project_out(project_id: int) -> dict[str, Any]:
    with one_state():
        return _project(Project.objects.get(pk=project_id))


def _project(project: Project) -> dict[str, Any]:
    setups = project.setups.select_related("bench").order_by("pk")
    return {**plain(project), "setups": [_line(s) for s in setups]}


def _line(setup: Setup) -> dict[str, Any]:
    """A setup's progress, and the deed that it waits for."""
    channels = freeze_channels(setup)
    facts = {
        "id": setup.pk, "name": setup.name, "version": setup.version, "bench_id": setup.bench_id,
        "bench_name": setup.bench.name, "on_bench": setup.bench.active_setup_id == setup.pk,
        "channels": len(channels), **hooks.gathered(hooks.line_facts, setup, channels),
    }  # fmt: skip
    return {**facts, "next": _next_deed(facts)}


def _next_deed(at: dict[str, Any]) -> dict[str, str]:
    """Which stage to go to, what to do there, and why."""
    zeroed = at["to_zero"] == 0
    for waits, stage, deed, reason in (
        (at["recording"], "record", "Watch the run", "A run is being recorded."),
        (not at["channels"], "wire", "Wire its channels", "No input has a sensor yet."),
        (at["stale"], "derive", "Look at the results", "Results are being renewed."),
        (not zeroed and not at["runs"], "calibrate", "Zero its channels",
         f"{at['to_zero']} of {at['channels']} channels have no zero."),
        (not at["runs"], "record", "Record its first run", "All is wired and zeroed."),
        (not at["reports"], "report", "Write its report", "Results are in, no report is begun."),
    ):  # fmt: skip
        if waits:
            return {"stage": stage, "deed": deed, "reason": reason}
    return {"stage": "record", "deed": "Record another run", "reason": "The report is begun."}


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
    excitation: float, resistance: float, area: float, ground: Ground, offers: Offers
) -> dict[str, Any]:
    """The same for the same gauges: a bench has many of a lot."""
    found = heating(excitation, resistance, area, ground, offers.excitations_v)
    return {**asdict(found), "well": found.well}


def channel_out(
    channel: Channel, frozen: FrozenChannel, check: WiringCheck | None, test: SignTest | None
) -> dict[str, Any]:
    fields = {f.attname: getattr(channel, f.attname) for f in channel._meta.concrete_fields}
    wiring = channel.wiring
    return {
        **fields,
        **{name: getattr(frozen, name) for name in FrozenChannel.model_fields},
        "sensor": channel.sensor,
        "device_id": channel.input.device_id,
        "input_label": channel.input.label,
        "active_arms": wiring.active_arms if wiring.kind == "bridge" else [],
        "completion_ohm": wiring.completion_ohm if wiring.kind == "bridge" else None,
        "check": check_out(channel, check),
        "heating": heating_out(channel),
        "sign": sign_out(channel, test),
        **hooks.gathered(hooks.channel_facts, frozen),
    }


def _free_names(taken: set[str]) -> dict[str, str]:
    """What a new channel of each quantity, or a rosette, would be called."""
    found = {quantity: free_name(quantity, taken) for quantity in DECIMALS}
    return found | {"rosette": free_rosette(taken)}


def setup_out(setup_id: int) -> dict[str, Any]:
    """A setup with everything its stages show, as it stood at one moment."""
    with one_state():
        return _setup_out(setup_id)


def _setup_out(setup_id: int) -> dict[str, Any]:
    setups = Setup.objects.select_related("project", "bench").prefetch_related("bench__devices")
    setup = setups.get(pk=setup_id)
    devices = {d.label: d.pk for d in setup.bench.devices.all()}
    rows = channel_rows(setup)
    frozen = freeze(setup, rows)
    undo, redo = undo_and_redo(setup.pk)
    facts = hooks.gathered(hooks.setup_facts, setup, frozen)
    checks, tests = newest(WiringCheck, setup.pk), newest(SignTest, setup.pk)
    return {
        **{f.attname: getattr(setup, f.attname) for f in setup._meta.concrete_fields},
        "project_name": setup.project.name,
        "rates": [
            {"device_id": devices[label], "device_label": label, "rate_hz": rate_hz}
            for label, rate_hz in frozen.rates_hz.items()
        ],
        "channels": [
            channel_out(c, f, checks.get(c.key), tests.get(c.key))
            for c, f in zip(rows, frozen.channels, strict=True)
        ],
        "rosettes": [
            {"name": name, "key": rosette_key(grids)}
            for name, grids in rosettes_of(frozen.channels).items()
        ],
        "free_names": _free_names({c.name for c in frozen.channels}),
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
