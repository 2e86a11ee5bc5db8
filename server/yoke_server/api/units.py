from dataclasses import asdict

from django.http import HttpRequest
from ninja import Router

from yoke_server.api.schemas import UnitOut
from yoke_server.common.units import SIGNAL_UNITS, UNITS, unit

router = Router(tags=["units"])


@router.get("/units", response=list[UnitOut])
def list_units(request: HttpRequest) -> list[dict[str, object]]:
    """Every unit that quantities and signals are shown in: SI = value * factor + offset."""
    return [
        {**asdict(unit(name)), "quantity": quantity}
        for quantity, names in (UNITS | {k: (u,) for k, u in SIGNAL_UNITS.items()}).items()
        for name in names
    ]
