"""Bringing a setup back to an earlier revision, and making one from a file."""

from django.db import transaction
from pydantic import ValidationError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Bench, Input
from yoke_server.bench.services import require_in_use
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import Change, record
from yoke_server.sensors.models import Sensor
from yoke_server.setups.conditioning import require_yoke_in_use
from yoke_server.setups.document import SCHEMA_VERSION, FrozenChannel, FrozenSetup, read_document
from yoke_server.setups.models import Channel, Project, Setup, SetupDevice, new_key
from yoke_server.setups.page_keeping import pages_in, take_along
from yoke_server.setups.projects import check_room
from yoke_server.setups.revisions.file_checks import check_setup_file
from yoke_server.setups.services import changed, keep_revision, lock, plain, revise

OF_SETUP = (
    "run_name_pattern",
    "motion",
    "stops",
    "guards",
    "keep_rules",
    "trigger",
    "batch",
    "asked",
    "computed",
)
OF_CHANNEL = (
    "name",
    "quantity",
    "wiring",
    "conditioning",
    "scaling",
    "polarity",
    "steps",
    "recorded",
    "zero_each_run",
    "zero_by_itself",
    "grid",
    "unit",
    "decimals",
)


@transaction.atomic
def restore(actor: Actor, setup_id: int, number: int) -> Setup:
    """Bring the settings of an earlier revision in force again, as one action that can be undone.

    What was measured since (zeros, tares, checks) stays: it is of the sensor, not a setting.
    """
    require(actor, "wire channels")
    require(actor, "change scaling")
    setup = lock(setup_id)
    require_yoke_in_use(actor, setup)
    row = setup.revisions.get(number=number)
    changes = _bring_in_force(setup, read_document(row.document))
    if changes:
        revise(actor, setup, f"Brought back version {number}", changes)
    return setup


def _bring_in_force(setup: Setup, wanted: FrozenSetup) -> list[Change]:
    """Whatever differs is changed; channels are the same by their key."""
    rows = {c.key: c for c in setup.channels.select_related("input__device", "sensor")}
    places = _Places(setup, wanted)
    gone = [rows[key] for key in rows.keys() - {c.key for c in wanted.channels}]
    changes = [Change("channel", c.pk, plain(c), None) for c in gone]
    setup.channels.filter(pk__in=[c.pk for c in gone]).delete()
    fresh = []
    for channel in wanted.channels:
        fields = {**_fields_of(channel), **places.of(channel)}
        if row := rows.get(channel.key):
            if change := changed(row, fields):
                changes.append(change)
        else:
            fresh.append(Channel(setup=setup, key=channel.key, **fields))
    made = Channel.objects.bulk_create(fresh)
    changes += [Change("channel", c.pk, None, plain(c)) for c in made]
    if change := changed(setup, _own_of(wanted)):
        changes.append(change)
    return changes + _rates(setup, wanted)


def _own_of(wanted: FrozenSetup) -> dict[str, object]:
    own = {name: getattr(wanted, name) for name in OF_SETUP}
    return own | {"specimen": wanted.specimen.specimen, "piece": wanted.specimen.piece}


def _fields_of(channel: FrozenChannel) -> dict[str, object]:
    return {name: getattr(channel, name) for name in OF_CHANNEL}


class _Places:
    """Inputs and sensors that a setup's channels may be on."""

    def __init__(self, setup: Setup, wanted: FrozenSetup) -> None:
        self._bench = setup.bench
        serials = {c.sensor_serial for c in wanted.channels}
        self._sensors = {s.serial: s for s in Sensor.objects.filter(serial__in=serials)}
        inputs = Input.objects.select_related("device").filter(device__bench=self._bench)
        self._inputs = {(i.device.label, i.number): i for i in inputs}

    def of(self, channel: FrozenChannel) -> dict[str, object]:
        """Its input and its sensor as rows; a 409 problem naming what is no longer there."""
        sensor = self._sensors.get(channel.sensor_serial)
        plug = self._inputs.get((channel.device_label, channel.input_number))
        if sensor is None:
            raise Problem(
                409,
                f"The library has no {channel.sensor_serial}, which {channel.name} needs.",
                code=ProblemType.NOT_FOUND,
                hint="Add it to the library first.",
            )
        if plug is None:
            label = f"{channel.device_label}.{channel.input_number}"
            raise Problem(
                409,
                f"{self._bench.name} has no input {label}, which {channel.name} needs.",
                code=ProblemType.INPUT_UNFIT,
                hint="Add the device to the bench first.",
            )
        return {"sensor": sensor, "input": plug}


def _rates(setup: Setup, wanted: FrozenSetup) -> list[Change]:
    changes = []
    devices = {d.label: d for d in setup.bench.devices.all()}
    for label, rate in wanted.rates_hz.items():
        if label not in devices:
            continue
        row, _ = SetupDevice.objects.get_or_create(
            setup=setup, device=devices[label], defaults={"rate_hz": rate}
        )
        if change := changed(row, {"rate_hz": rate}):
            changes.append(change)
    return changes


def import_setup(
    actor: Actor, project_id: int, *, bench_id: int, name: str, document: dict[str, object]
) -> Setup:
    """A setup from a file that another one was exported to; it brings scalings along."""
    require(actor, "change scaling")
    return make_setup(actor, project_id, bench_id=bench_id, name=name, document=document)


@transaction.atomic
def make_setup(
    actor: Actor,
    project_id: int,
    *,
    bench_id: int,
    name: str,
    document: dict[str, object],
    pages: dict[str, object] | None = None,
) -> Setup:
    """A setup as a document says, with ``pages`` of panes; its channels get keys of their own."""
    require(actor, "arrange projects")
    require(actor, "wire channels")
    wanted = _read_file(document)
    project = Project.objects.select_for_update().get(pk=project_id)
    check_room(project, name)
    bench = Bench.objects.get(pk=bench_id)
    require_in_use(bench)
    check_setup_file(wanted, bench)
    setup = Setup.objects.create(project=project, bench=bench, name=name, **_own_of(wanted))
    keys = {c.key: new_key() for c in wanted.channels} | {c.key: new_key() for c in wanted.computed}
    again = {
        "channels": [c.with_keys(keys) for c in wanted.channels],
        "motion": wanted.motion.with_channels(keys),
        "stops": [s.with_channels(keys) for s in wanted.stops],
        "guards": [g.with_channels(keys) for g in wanted.guards],
        "keep_rules": [r.with_channels(keys) for r in wanted.keep_rules],
        "trigger": wanted.trigger.with_channels(keys),
        "computed": [c.with_channels(keys) for c in wanted.computed],
    }
    _bring_in_force(setup, wanted.model_copy(update=again))
    take_along(pages_in(pages), setup, keys)
    action = f"Made the setup {name} from a file"
    record(actor, action)
    keep_revision(actor, setup, action)
    return setup


def _read_file(document: dict[str, object]) -> FrozenSetup:
    """The setup in a document of any version; a 422 problem that names the key."""
    version = document.get("schema_version")
    if not isinstance(version, int) or not 1 <= version <= SCHEMA_VERSION:
        raise _wrong("The file is no setup of a version that is known.")
    try:
        return read_document(document)
    except ValidationError as error:
        first = error.errors()[0]
        key = ".".join(str(part) for part in first["loc"])
        raise _wrong(f"{key}: {first['msg'][:1].lower()}{first['msg'][1:]}.") from error
    except Exception as error:  # a foreign document can fail in any way
        raise _wrong(f"The file lacks what a setup has: {str(error)[:120]}.") from error


def _wrong(title: str) -> Problem:
    return Problem(422, title, field="document", hint="Export a setup to see what one looks like.")
