from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import UnitIn, UnitOut
from yoke_server.common.units import SIGNAL_UNITS, UNITS, learn_own_units, unit, units_of
from yoke_server.setups.laboratory_units import define_unit

router = Router(tags=["units"])


@router.get("/units", response=list[UnitOut])
def list_units(request: HttpRequest) -> list[UnitOut]:
    """Every unit that quantities and signals are shown in: SI = value * factor + offset."""
    learn_own_units()
    of_quantities = [(q, name) for q in UNITS for name in units_of(q)]
    of_signals = [(signal, name) for signal, name in SIGNAL_UNITS.items() if signal not in UNITS]
    return [_unit_out(quantity, name) for quantity, name in (*of_quantities, *of_signals)]


@router.post("/units", response={201: UnitOut})
def define_own_unit(request: HttpRequest, body: UnitIn) -> Status[Any]:
    """Define a unit of the laboratory's own by a formula, such as 4.4482216 N."""
    made = define_unit(Actor.of(request), body.name, body.quantity, body.definition)
    return Status(
        201, UnitOut(quantity=made.quantity, name=made.name, factor=made.factor, offset=0.0)
    )


def _unit_out(quantity: str, name: str) -> UnitOut:
    found = unit(name)
    return UnitOut(quantity=quantity, name=name, factor=found.factor, offset=found.offset)
