from typing import Any

from django.http import HttpRequest
from ninja import Router

from yoke_server.accounts.actor import Actor
from yoke_server.common.fields import Id
from yoke_server.wire.grid import schemas, services
from yoke_server.wire.queries import setup_out

router = Router(tags=["wire"])


def _done(setup_id: int, outcomes: list[services.Outcome]) -> dict[str, Any]:
    return {"setup": setup_out(setup_id), "cells": [services.as_plain(o) for o in outcomes]}


@router.post("/setups/{setup_id}/cells", response=schemas.Done)
def put_cells(request: HttpRequest, setup_id: Id, body: schemas.Cells) -> dict[str, Any]:
    """Put texts into cells of the table of inputs, as one action; each is taken or says why not."""
    cells = [services.Cell(c.input_id, c.column, c.text) for c in body.cells]
    outcomes = services.put_cells(Actor.of(request), setup_id, cells, dry=body.dry)
    return _done(setup_id, outcomes)


@router.post("/setups/{setup_id}/fill-down", response=schemas.Done)
def fill_down(request: HttpRequest, setup_id: Id, body: schemas.FillDown) -> dict[str, Any]:
    """Put what stands in a row into those below; names and serials count on."""
    actor = Actor.of(request)
    outcomes = services.fill_down(actor, setup_id, body.inputs, body.columns, dry=body.dry)
    return _done(setup_id, outcomes)
