"""Making, copying and putting away of projects and setups."""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any, TypeVar

from django.db import transaction
from django.db.models import Model, ProtectedError
from django.forms.models import model_to_dict

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.hooks import require_unlocked
from yoke_server.bench.models import Bench
from yoke_server.bench.services import require_in_use
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import Change, assign, record
from yoke_server.setups.conditioning import require_yoke_in_use
from yoke_server.setups.freezing import newest
from yoke_server.setups.models import (
    Balance,
    Channel,
    Measured,
    Project,
    Setup,
    SetupDevice,
    ShuntCalibration,
    Tare,
    new_key,
)
from yoke_server.setups.naming import next_name
from yoke_server.setups.page_keeping import own_pages, take_along
from yoke_server.setups.services import keep_revision, take_bench
from yoke_server.setups.setup_presets import SETUP_PRESETS

M = TypeVar("M", bound=Model)
MAX_SETUPS = 100  # of a project
# What later stages copy with a setup: (original, copy, keys of its channels by the original's).
copied: list[Callable[[Setup, Setup, dict[str, str]], None]] = []


@transaction.atomic
def create_project(actor: Actor, **fields: str) -> Project:
    """A project without setups."""
    require(actor, "arrange projects")
    _check_name(fields["name"])
    project = Project.objects.create(**fields)
    record(actor, f"Began the project {project.name}")
    return project


def _check_name(name: str, but: int = 0) -> None:
    if Project.objects.filter(name__iexact=name).exclude(pk=but).exists():
        raise Problem(
            409,
            f"There is a project {name} already.",
            code=ProblemType.NAME_TAKEN,
            field="name",
            hint="Choose another name.",
        )


@transaction.atomic
def change_project(actor: Actor, project_id: int, **changes: str) -> Project:
    """Change a project's name and what is known of it."""
    require(actor, "arrange projects")
    project = Project.objects.select_for_update().get(pk=project_id)
    _check_name(changes.get("name", project.name), but=project.pk)
    name = project.name
    before = assign(project, changes)
    project.save(update_fields=list(changes))
    change = Change("project", project.pk, before, changes)
    record(actor, f"Changed the project {name}", changes=[change])
    return project


@transaction.atomic
def archive_project(actor: Actor, project_id: int, *, restore: bool = False) -> None:
    """Put a project away, or take it out again; nothing of it is lost."""
    require(actor, "arrange projects")
    project = Project.objects.select_for_update().get(pk=project_id)
    for setup in project.setups.exclude(on_bench=None):
        require_unlocked(setup.bench_id)
    project.archived_at = None if restore else datetime.now(UTC)
    project.save(update_fields=["archived_at"])
    record(actor, f"{'Took out' if restore else 'Archived'} the project {project.name}")


@transaction.atomic
def duplicate_project(actor: Actor, project_id: int) -> Project:
    """The project again, with its setups as they stand; runs and results stay behind."""
    require(actor, "arrange projects")
    original = Project.objects.select_for_update().get(pk=project_id)
    taken = set(Project.objects.values_list("name", flat=True))
    fields = model_to_dict(original, exclude=["id", "name", "archived_at"])
    stem = original.name[:74]
    copy = Project.objects.create(name=next_name(stem, taken, most=80), **fields)
    for setup in original.setups.order_by("pk"):
        _copy_setup(actor, setup, copy, setup.name)
    record(actor, f"Duplicated the project {original.name} as {copy.name}")
    return copy


@transaction.atomic
def add_setup(actor: Actor, project_id: int, *, kind: str, bench_id: int, name: str) -> Setup:
    """A setup of a kind of test; put on its bench if that works with none."""
    require(actor, "arrange projects")
    project = Project.objects.select_for_update().get(pk=project_id)
    check_room(project, name)
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=bench_id)
    require_in_use(bench)
    begins = SETUP_PRESETS[kind]
    setup = Setup.objects.create(
        project=project,
        bench=bench,
        name=name,
        specimen=begins.specimen,
        piece=begins.piece,
        motion=begins.motion,
        stops=begins.stops,
    )
    if not Setup.objects.filter(on_bench=bench).exists():
        take_bench(setup, bench)
    action = f"Added the setup {name} to {project.name}"
    record(actor, action)
    keep_revision(actor, setup, action)
    return setup


def check_room(project: Project, name: str) -> None:
    if project.setups.count() >= MAX_SETUPS:
        raise Problem(
            409,
            f"{project.name} has {MAX_SETUPS} setups already.",
            code=ProblemType.LIMIT_REACHED,
            hint="Begin another project.",
        )
    if project.setups.filter(name__iexact=name).exists():
        raise Problem(
            409,
            f"{project.name} has a setup {name} already.",
            code=ProblemType.NAME_TAKEN,
            field="name",
            hint="Choose another name.",
        )


@transaction.atomic
def delete_setup(actor: Actor, setup_id: int) -> None:
    """Take a setup away for good, also one that cannot be opened; not one that has runs."""
    require(actor, "arrange projects")
    setup = (
        Setup.objects.select_for_update()
        .only("pk", "name", "project", "bench", "on_bench")
        .get(pk=setup_id)
    )
    if setup.on_bench_id:
        require_unlocked(setup.bench_id)
        require_yoke_in_use(actor, setup)
    try:
        with transaction.atomic():
            setup.delete()
    except ProtectedError as error:
        raise Problem(
            409,
            f"{setup.name} has runs, which are kept.",
            code=ProblemType.IN_USE,
            hint="Archive its project instead.",
        ) from error
    record(actor, f"Deleted the setup {setup.name} of {setup.project.name}")


@transaction.atomic
def duplicate_setup(actor: Actor, setup_id: int) -> Setup:
    """The setup again in the same project: zeros and calibration come along, runs do not."""
    require(actor, "arrange projects")
    original = Setup.objects.select_related("project").get(pk=setup_id)
    project = Project.objects.select_for_update().get(pk=original.project_id)
    taken = set(project.setups.values_list("name", flat=True))
    name = next_name(original.name[:74], taken, most=80)
    check_room(project, name)
    copy = _copy_setup(actor, original, project, name)
    record(actor, f"Duplicated the setup {original.name} as {name}")
    return copy


OF_COPY = ("bench", "run_name_pattern", "specimen", "piece", "batch", "asked")


def _copy_setup(actor: Actor, original: Setup, project: Project, name: str) -> Setup:
    named = [*original.channels.values_list("key", flat=True), *(c.key for c in original.computed)]
    keys = {key: new_key() for key in named}
    stops = [s.with_channels(keys) for s in original.stops]
    guards = [g.with_channels(keys) for g in original.guards]
    keep_rules = [r.with_channels(keys) for r in original.keep_rules]
    computed = [c.with_channels(keys) for c in original.computed]
    fields = {n: getattr(original, n) for n in OF_COPY}
    copy = Setup.objects.create(
        project=project,
        name=name,
        stops=stops,
        guards=guards,
        keep_rules=keep_rules,
        trigger=original.trigger.with_channels(keys),
        motion=original.motion.with_channels(keys),
        computed=computed,
        **fields,
    )
    SetupDevice.objects.bulk_create(
        SetupDevice(setup=copy, device_id=rate.device_id, rate_hz=rate.rate_hz)
        for rate in original.devices.all()
    )
    Channel.objects.bulk_create(
        _again(
            c,
            setup_id=copy.pk,
            key=keys[c.key],
            steps=[step.with_channels(keys) for step in c.steps],
        )
        for c in original.channels.all()
    )
    for model in (Balance, Tare, ShuntCalibration):
        _copy_measured(model, original, copy, keys)
    take_along(own_pages(original), copy, keys)
    for more in copied:
        more(original, copy, keys)
    keep_revision(actor, copy, f"Duplicated from {original.name}")
    return copy


def _copy_measured(
    model: type[Measured], original: Setup, copy: Setup, keys: dict[str, str]
) -> None:
    """What is in force, measured when it was."""
    found = [row for key, row in newest(model, original.pk).items() if key in keys]
    rows = model._default_manager.bulk_create(
        _again(row, setup_id=copy.pk, channel_key=keys[row.channel_key]) for row in found
    )
    for row, old in zip(rows, found, strict=True):
        row.at = old.at  # which is the time of now in each new row
    model._default_manager.bulk_update(rows, ["at"])


def _again(row: M, **but: Any) -> M:
    """A new row, not saved, of the same fields but some."""
    fields = {f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields}
    return type(row)(**{**fields, "id": None, **but})
