import json
from itertools import zip_longest
from typing import Annotated, Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.api.project_list import project_out
from yoke_server.api.schemas import ProjectOut, SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Id
from yoke_server.common.http.routes import RouteClass, treated_as
from yoke_server.setups.document import FrozenSetup, read_document
from yoke_server.setups.models import SetupRevision, SetupTemplate
from yoke_server.setups.revisions import schemas, services, templates
from yoke_server.setups.revisions.differences import differences

router = Router(tags=["wire"])
Number = Annotated[int, Field(ge=1, le=2**31 - 1)]
MAX_REVISIONS = 40
JSON = {"application/json": {"schema": {"type": "object"}}}


@router.get("/setups/{setup_id}/revisions", response=list[schemas.RevisionOut])
def list_revisions(
    request: HttpRequest, setup_id: Id, before: Number = 2**31 - 1
) -> list[dict[str, object]]:
    """Forty, the newest first, each with what it changed; ``before`` gives older ones."""
    rows = SetupRevision.objects.filter(setup_id=setup_id, number__lt=before)
    rows = rows.select_related("actor")
    found = list(rows.order_by("-number")[: MAX_REVISIONS + 1])
    shown = []
    for row, earlier in list(zip_longest(found, found[1:]))[:MAX_REVISIONS]:
        changed = differences(_frozen(earlier), _frozen(row)) if earlier else []
        shown.append(
            {
                "number": row.number,
                "at": row.at,
                "action": row.action,
                "actor": row.actor.get_full_name() or row.actor.username if row.actor else "",
                "changed": changed,
            }
        )
    return shown


def _frozen(row: SetupRevision) -> FrozenSetup:
    return read_document(row.document)


@router.post("/setups/{setup_id}/revisions/{number}/restore", response=SetupOut)
def restore(request: HttpRequest, setup_id: Id, number: Number) -> SetupOut:
    """Bring the settings of an earlier version in force again, as one action."""
    services.restore(Actor.of(request), setup_id, number)
    return setup_out(setup_id)


@router.get(
    "/setups/{setup_id}/revisions/{number}/file",
    openapi_extra={"responses": {200: {"description": "the setup", "content": JSON}}},
)
def export_revision(request: HttpRequest, setup_id: Id, number: Number) -> HttpResponse:
    """A version as a file (its schema: `/api/setup-file/schema`), to be made a setup elsewhere."""
    row = SetupRevision.objects.get(setup_id=setup_id, number=number)
    document = _frozen(row).model_dump(mode="json")
    name = f"setup-{setup_id}-version-{number}.json"
    return HttpResponse(
        json.dumps(document, indent=1, ensure_ascii=False),
        content_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.post("/projects/{project_id}/setups/import", response={201: ProjectOut})
@treated_as(RouteClass.LARGE_BODY)
def import_setup(request: HttpRequest, project_id: Id, body: schemas.SetupFile) -> Status[Any]:
    """A setup from an exported file, on a bench of this house."""
    services.import_setup(Actor.of(request), project_id, **body.model_dump())
    return Status(201, project_out(project_id))


@router.get("/setup-file/schema", response=dict[str, object])
def setup_file_schema(request: HttpRequest) -> dict[str, object]:
    """JSON Schema of a setup as a file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **FrozenSetup.model_json_schema(),
    }


@router.get("/templates", response=list[schemas.TemplateOut])
def list_templates(request: HttpRequest) -> QuerySet[SetupTemplate]:
    return SetupTemplate.objects.all()


@router.post("/setups/{setup_id}/template", response={201: schemas.TemplateOut})
def keep_template(request: HttpRequest, setup_id: Id, body: schemas.TemplateIn) -> Status[Any]:
    """Keep a setup to begin others with; one of that name is replaced."""
    return Status(201, templates.keep_template(Actor.of(request), setup_id, body.name))


@router.delete("/templates/{template_id}", response={204: None})
def remove_template(request: HttpRequest, template_id: Id) -> Status[Any]:
    templates.remove_template(Actor.of(request), template_id)
    return Status(204, None)


@router.post("/projects/{project_id}/setups/from-template", response={201: ProjectOut})
def begin_with_template(
    request: HttpRequest, project_id: Id, body: schemas.FromTemplate
) -> Status[Any]:
    """A setup as a template says."""
    templates.begin_with_template(Actor.of(request), project_id, **body.model_dump())
    return Status(201, project_out(project_id))
