"""A setup with everything its stages show, composed of what each application knows of it."""

from dataclasses import asdict
from datetime import date
from functools import lru_cache

from django.db.models import prefetch_related_objects

from yoke_server.api.schemas import (
    ChannelOut,
    ComputedOfferOut,
    ComputedOut,
    ForecastOut,
    LegOut,
    PaperOut,
    RateOut,
    SetupOut,
)
from yoke_server.bench.drivers.registry import offers
from yoke_server.calibrate.queries import scaling_out
from yoke_server.calibrate.uncertainty import zeros_of_today
from yoke_server.common.clock import laboratory_today
from yoke_server.common.db.prepared import Raw
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.derive import queries as results
from yoke_server.kinds.motions.base import Motion
from yoke_server.ledger.services import undo_and_redo
from yoke_server.record.forecast import forecast
from yoke_server.record.guarding import proposed_guard, unguarded
from yoke_server.record.setup_runs import runs_of_setup
from yoke_server.report import queries as reports
from yoke_server.sensors.queries import sensor_out
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.formulas import (
    Computed,
    computed_of,
    computed_offers,
    shown,
    unit_named,
    units_for,
)
from yoke_server.setups.freezing import (
    MAX_KEPT,
    Wired,
    channel_of,
    fact,
    freeze,
    frozen,
    newest_rows,
    setup_row,
    wired_channels,
)
from yoke_server.setups.naming import free_names
from yoke_server.setups.readable import quantity_of_unit
from yoke_server.setups.signals import signals_of
from yoke_server.setups.watched import WatchedSetup
from yoke_server.wire.models import SignTest, WiringCheck
from yoke_server.wire.queries import check_out, heating_out, sign_out


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
            "sensor": sensor_out(channel.sensor, today),
            "device_id": channel.input.device_id,
            "input_label": channel.input.label,
            "active_arms": wiring.active_arms,
            "completion_ohm": wiring.completion,
            "connection": wiring.connection,
            "connection_short": wiring.connection_short,
            "scalings": wiring.scalings_of(channel.quantity),
            "has_shunt": wiring.has_shunt,
            "least_bit": offers(channel.input.device.driver).least_bit(channel.conditioning.reach),
            "check": check_out(channel, fact(WiringCheck, check) if check else None),
            "heating": heating_out(channel),
            "sign": sign_out(channel, fact(SignTest, test) if test else None),
            **dict(scaling_out(as_frozen)),
        }
    )


def _channels_out(setup_id: int) -> list[ChannelOut]:
    checks, tests = newest_rows(WiringCheck, setup_id), newest_rows(SignTest, setup_id)
    today, zeros = laboratory_today(), zeros_of_today(setup_id)
    shown = [
        channel_out(w, checks.get(w.key), tests.get(w.key), today) for w in wired_channels(setup_id)
    ]
    return [c.model_copy(update={"zero_of_today": zeros.get(c.key)}) for c in shown]


def _computed_out(found: Computed, text: str, device: str) -> ComputedOut:
    channel, formula = found.channel, found.formula
    unit = unit_named(channel.unit)
    return ComputedOut(
        key=channel.key,
        name=channel.name,
        quantity=quantity_of_unit(channel.unit),
        unit=channel.unit,
        units=units_for(formula) if formula else [channel.unit],
        factor=unit.factor,
        offset=unit.offset,
        decimals=channel.decimals,
        formula=text,
        device_label=device,
        problem=str(found.error) if found.error else "",
    )


def _paper_out(motion: Motion, frozen: FrozenSetup) -> PaperOut | None:
    paper = motion.on_paper
    if paper is None:
        return None
    legs, watched = zip(motion.parts, paper.legs, strict=True), WatchedSetup(frozen)
    return PaperOut(
        sentence=motion.sentence,
        seconds=paper.seconds,
        cycles=paper.cycles,
        lowest=paper.lowest,
        highest=paper.highest,
        legs=[LegOut(sentence=part.said(watched), **asdict(leg)) for part, leg in legs],
    )


def setup_out(setup_id: int) -> SetupOut:
    """A setup with everything its stages show, as it stood at one moment."""
    with read_snapshot():
        return _setup_out(setup_id)


def _setup_out(setup_id: int) -> SetupOut:
    setup = setup_row(setup_id)
    prefetch_related_objects([setup.bench], "devices")
    devices = {d.label: d.pk for d in setup.bench.devices.all()}
    as_frozen = freeze(setup)
    undo, redo = undo_and_redo(setup.pk)
    runs = runs_of_setup(setup, as_frozen)
    formulas = shown(as_frozen.channels, as_frozen.computed)
    devices_of = (
        signals_of(as_frozen.channels, as_frozen.computed, as_frozen.rates_hz).devices
        if as_frozen.computed
        else {}
    )
    return SetupOut(
        **dict(runs),
        id=setup.pk,
        name=setup.name,
        version=setup.version,
        project_id=setup.project_id,
        project_name=setup.project.name,
        bench_id=setup.bench_id,
        rates=[
            RateOut(device_id=devices[label], device_label=label, rate_hz=rate_hz)
            for label, rate_hz in as_frozen.rates_hz.items()
        ],
        run_name_pattern=setup.run_name_pattern,
        specimen=setup.specimen,
        piece=setup.piece,
        motion=setup.motion,
        stops=setup.stops,
        guards=setup.guards,
        proposed_guards=[proposed_guard(c) for c in unguarded(as_frozen.as_recorded)],
        keep_rules=setup.keep_rules,
        trigger=setup.trigger,
        asked=setup.asked,
        forecast=ForecastOut.model_validate(forecast(as_frozen.as_recorded)),
        paper=_paper_out(setup.motion, as_frozen.as_recorded),
        channels=_channels_out(setup.pk),
        computed_offers=[
            ComputedOfferOut(name=o.name, formula=o.formula) for o in computed_offers(as_frozen)
        ],
        computed=[
            _computed_out(c, formulas[c.channel.key], devices_of.get(c.channel.key, ""))
            for c in computed_of(as_frozen.channels, as_frozen.computed)
        ],
        free_names=free_names(
            [*(c.name for c in as_frozen.channels), *(c.name for c in as_frozen.computed)]
        ),
        undo=undo,
        redo=redo,
        results=results.count_of_setup(setup.pk),
        reports=reports.count_of_project(setup.project_id),
    )
