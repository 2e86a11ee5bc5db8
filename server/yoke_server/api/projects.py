from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.api.project_list import project_out
from yoke_server.api.project_list import projects as list_of_projects
from yoke_server.api.schemas import ProjectOut
from yoke_server.common.http.fields import Id
from yoke_server.common.http.pages import DEFAULT_LIMIT, Cursor, Limit, Page, PageOut, Search
from yoke_server.setups import projects
from yoke_server.setups.schemas import ProjectChange, ProjectIn, SetupIn, SetupPresetOut
from yoke_server.setups.setup_presets import SETUP_PRESETS

router = Router(tags=["projects"])


@router.get("/projects", response=PageOut[ProjectOut])
def list_projects(
    request: HttpRequest,
    archived: bool = False,
    search: Search = "",
    before: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[ProjectOut]:
    """The newest first, or of those that were put away."""
    return list_of_projects(Page(limit, before), archived=archived, search=search)


@router.post("/projects", response={201: ProjectOut})
def create_project(request: HttpRequest, body: ProjectIn) -> Status[Any]:
    project = projects.create_project(Actor.of(request), **body.model_dump())
    return Status(201, project_out(project.pk))


@router.patch("/projects/{project_id}", response=ProjectOut)
def change_project(request: HttpRequest, project_id: Id, body: ProjectChange) -> ProjectOut:
    projects.change_project(Actor.of(request), project_id, **body.given())
    return project_out(project_id)


@router.post("/projects/{project_id}/archive", response=ProjectOut)
def archive_project(request: HttpRequest, project_id: Id, restore: bool = False) -> ProjectOut:
    """Put it away, or with ``restore`` take it out again."""
    projects.archive_project(Actor.of(request), project_id, restore=restore)
    return project_out(project_id)


@router.post("/projects/{project_id}/duplicate", response={201: ProjectOut})
def duplicate_project(request: HttpRequest, project_id: Id) -> Status[Any]:
    copy = projects.duplicate_project(Actor.of(request), project_id)
    return Status(201, project_out(copy.pk))


@router.get("/setup-presets", response=list[SetupPresetOut])
def list_setup_presets(request: HttpRequest) -> list[dict[str, str]]:
    return [{"kind": k, "name": t.name} for k, t in SETUP_PRESETS.items()]


@router.post("/projects/{project_id}/setups", response={201: ProjectOut})
def add_setup(request: HttpRequest, project_id: Id, body: SetupIn) -> Status[Any]:
    projects.add_setup(Actor.of(request), project_id, **body.model_dump())
    return Status(201, project_out(project_id))


@router.post("/setups/{setup_id}/duplicate", response={201: ProjectOut})
def duplicate_setup(request: HttpRequest, setup_id: Id) -> Status[Any]:
    copy = projects.duplicate_setup(Actor.of(request), setup_id)
    return Status(201, project_out(copy.project_id))
