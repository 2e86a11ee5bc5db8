from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.fields import Id
from yoke_server.derive.curves import schemas, services

router = Router(tags=["derive"])


@router.post("/curves/alignment", response=list[schemas.AlignedOut])
def align(request: HttpRequest, body: schemas.AlignIn) -> list[schemas.AlignedOut]:
    """The instant of each run that is laid over the others'; nothing is stored."""
    return services.aligned(body.runs, body.align)


@router.post("/curves/window", response=schemas.WindowOut)
def window(request: HttpRequest, body: schemas.WindowIn) -> schemas.WindowOut:
    """Statistics of a channel of each run within a window, and over them; nothing is stored."""
    windows = {w.run: (w.from_s, w.to_s) for w in body.windows}
    rows = services.window_rows(windows, body.channel)
    return services.over_runs(rows, set(body.left_out))


@router.get("/projects/{project_id}/curve-pages", response=list[schemas.CurvePageOut])
def curve_pages(request: HttpRequest, project_id: Id) -> list[schemas.CurvePageOut]:
    return services.curve_pages(project_id)


@router.put("/projects/{project_id}/curve-pages", response=schemas.CurvePageOut)
def keep_page(
    request: HttpRequest, project_id: Id, body: schemas.CurvePageIn
) -> schemas.CurvePageOut:
    """Keep a page of curves with the project; one of that name is replaced."""
    return services.keep_page(Actor.of(request), project_id, body.name, body.page)


@router.delete("/curve-pages/{page_id}", response={204: None})
def remove_page(request: HttpRequest, page_id: Id) -> Status[Any]:
    services.remove_page(Actor.of(request), page_id)
    return Status(204, None)
