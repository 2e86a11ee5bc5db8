from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import ComputedChange, ComputedIn, FormulaIn, FormulaOut, SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Id, Key
from yoke_server.setups import computed
from yoke_server.setups.checked_formula import check_formula
from yoke_server.setups.freezing import setup_row

router = Router(tags=["calibrate"])


@router.post("/setups/{setup_id}/computed", response={201: SetupOut})
def add_computed(request: HttpRequest, setup_id: Id, body: ComputedIn) -> Status[Any]:
    computed.add_computed(Actor.of(request), setup_id, **body.given())
    return Status(201, setup_out(setup_id))


@router.patch("/setups/{setup_id}/computed/{computed_key}", response=SetupOut)
def change_computed(
    request: HttpRequest, setup_id: Id, computed_key: Key, body: ComputedChange
) -> SetupOut:
    computed.change_computed(Actor.of(request), setup_id, computed_key, **body.given())
    return setup_out(setup_id)


@router.delete("/setups/{setup_id}/computed/{computed_key}", response=SetupOut)
def remove_computed(request: HttpRequest, setup_id: Id, computed_key: Key) -> SetupOut:
    computed.remove_computed(Actor.of(request), setup_id, computed_key)
    return setup_out(setup_id)


@router.post("/setups/{setup_id}/formula", response=FormulaOut)
def check_typed_formula(request: HttpRequest, setup_id: Id, body: FormulaIn) -> FormulaOut:
    """What a formula that is being typed comes to; nothing is stored."""
    found = check_formula(setup_row(setup_id), body.text, body.cursor, body.key)
    return FormulaOut.model_validate(found, from_attributes=True)
