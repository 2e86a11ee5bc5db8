from django.http import HttpRequest
from ninja import Router

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import CellsDone
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Id
from yoke_server.wire.grid import schemas, services
from yoke_server.wire.grid.schemas import OutcomeOut

router = Router(tags=["wire"])


def _done(setup_id: int, outcomes: list[services.Outcome]) -> CellsDone:
    cells = [OutcomeOut.model_validate(services.as_plain(o)) for o in outcomes]
    return CellsDone(setup=setup_out(setup_id), cells=cells)


@router.post("/setups/{setup_id}/cells", response=CellsDone)
def put_cells(request: HttpRequest, setup_id: Id, body: schemas.Cells) -> CellsDone:
    """Put texts into cells of the table of inputs, as one action; each is taken or says why not."""
    cells = [services.Cell(c.input_id, c.column, c.text) for c in body.cells]
    outcomes = services.put_cells(Actor.of(request), setup_id, cells, dry=body.dry)
    return _done(setup_id, outcomes)


@router.post("/setups/{setup_id}/fill-down", response=CellsDone)
def fill_down(request: HttpRequest, setup_id: Id, body: schemas.FillDown) -> CellsDone:
    """Put what stands in a row into those below; names and serials count on."""
    actor = Actor.of(request)
    outcomes = services.fill_down(actor, setup_id, body.inputs, body.columns, dry=body.dry)
    return _done(setup_id, outcomes)
