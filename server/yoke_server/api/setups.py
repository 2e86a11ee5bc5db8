from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Id
from yoke_server.setups import projects, services
from yoke_server.setups.naming import check_pattern
from yoke_server.setups.schemas import RateChange, SetupChange, Undone
from yoke_server.setups.undoing import undo as undo_last

router = Router(tags=["wire"])


@router.get("/setups/{setup_id}", response=SetupOut)
def get_setup(request: HttpRequest, setup_id: Id) -> SetupOut:
    return setup_out(setup_id)


@router.delete("/setups/{setup_id}", response={204: None})
def delete_setup(request: HttpRequest, setup_id: Id) -> Status[Any]:
    """For good; not one that has runs."""
    projects.delete_setup(Actor.of(request), setup_id)
    return Status(204, None)


@router.patch("/setups/{setup_id}", response=SetupOut)
def change_setup(request: HttpRequest, setup_id: Id, body: SetupChange) -> SetupOut:
    changes = body.given()
    if "run_name_pattern" in changes:
        check_pattern(changes["run_name_pattern"])
    services.change_setup(Actor.of(request), setup_id, **changes)
    return setup_out(setup_id)


@router.post("/setups/{setup_id}/bench", response=SetupOut)
def put_on_bench(request: HttpRequest, setup_id: Id) -> SetupOut:
    """Have its bench work with this setup."""
    services.put_on_bench(Actor.of(request), setup_id)
    return setup_out(setup_id)


@router.patch("/setups/{setup_id}/devices/{device_id}", response=SetupOut)
def change_rate(request: HttpRequest, setup_id: Id, device_id: Id, body: RateChange) -> SetupOut:
    services.change_rate(Actor.of(request), setup_id, device_id, body.rate_hz)
    return setup_out(setup_id)


@router.post("/setups/{setup_id}/undo", response=Undone)
def undo(request: HttpRequest, setup_id: Id, redo: bool = False) -> dict[str, str]:
    return {"action": undo_last(Actor.of(request), setup_id, redo=redo)}
