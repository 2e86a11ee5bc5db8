from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.common.fields import Id
from yoke_server.common.pages import DEFAULT_LIMIT, Cursor, Limit, Page, PageOut, Search
from yoke_server.wire import projects, queries, schemas
from yoke_server.wire.setup_presets import SETUP_PRESETS

router = Router(tags=["projects"])


@router.get("/projects", response=PageOut[schemas.ProjectOut])
def list_projects(
    request: HttpRequest,
    archived: bool = False,
    search: Search = "",
    before: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> dict[str, Any]:
    """The newest first, or of those that were put away."""
    return queries.projects(Page(limit, before), archived=archived, search=search)


@router.post("/projects", response={201: schemas.ProjectOut})
def create_project(request: HttpRequest, body: schemas.ProjectIn) -> Status[Any]:
    project = projects.create_project(Actor.of(request), **body.model_dump())
    return Status(201, queries.project_out(project.pk))


@router.patch("/projects/{project_id}", response=schemas.ProjectOut)
def change_project(
    request: HttpRequest, project_id: Id, body: schemas.ProjectChange
) -> dict[str, Any]:
    projects.change_project(Actor.of(request), project_id, **body.given())
    return queries.project_out(project_id)


@router.post("/projects/{project_id}/archive", response=schemas.ProjectOut)
def archive_project(request: HttpRequest, project_id: Id, restore: bool = False) -> dict[str, Any]:
    """Put it away, or with ``restore`` take it out again."""
    projects.archive_project(Actor.of(request), project_id, restore=restore)
    return queries.project_out(project_id)


@router.post("/projects/{project_id}/duplicate", response={201: schemas.ProjectOut})
def duplicate_project(request: HttpRequest, project_id: Id) -> Status[Any]:
    copy = projects.duplicate_project(Actor.of(request), project_id)
    return Status(201, queries.project_out(copy.pk))


@router.get("/setup-presets", response=list[schemas.SetupPresetOut])
def list_setup_presets(request: HttpRequest) -> list[dict[str, str]]:
    return [{"kind": k, "name": t.name} for k, t in SETUP_PRESETS.items()]


@router.post("/projects/{project_id}/setups", response={201: schemas.ProjectOut})
def add_setup(request: HttpRequest, project_id: Id, body: schemas.SetupIn) -> Status[Any]:
    projects.add_setup(Actor.of(request), project_id, **body.model_dump())
    return Status(201, queries.project_out(project_id))


@router.post("/setups/{setup_id}/duplicate", response={201: schemas.ProjectOut})
def duplicate_setup(request: HttpRequest, setup_id: Id) -> Status[Any]:
    copy = projects.duplicate_setup(Actor.of(request), setup_id)
    return Status(201, queries.project_out(copy.project_id))
