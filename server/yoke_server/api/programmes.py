from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Router, Status
from pydantic import Field
from yoke_core.loading.history import read_history

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Answer, Body, Id, Text
from yoke_server.kinds.legs.history import MAX_FORCES
from yoke_server.setups import programmes

router = Router(tags=["record"])


class ProgrammeIn(Body):
    name: Annotated[str, Text(1, 80)]


class KeptProgrammeOut(Answer):
    """A programme kept under a name; ``channels``: names of those that it looks at."""

    id: int
    name: str
    legs: int
    sentence: str
    channels: list[str]


class ProgrammeUse(Body):
    programme_id: Id


class HistoryIn(Body):
    """The text of a file of times (s) and forces (N or kN), evenly spaced."""

    text: Annotated[str, Field(max_length=400_000)]


class HistoryOut(Answer):
    forces_n: list[float]
    rate_hz: float


@router.get("/programmes", response=list[KeptProgrammeOut])
def list_programmes(request: HttpRequest) -> list[programmes.KeptProgramme]:
    return programmes.programmes()


@router.post("/setups/{setup_id}/programmes", response={201: list[KeptProgrammeOut]})
def keep_programme(request: HttpRequest, setup_id: Id, body: ProgrammeIn) -> Status[Any]:
    """Keep a setup's programme for others; one of that name is replaced."""
    programmes.keep_programme(Actor.of(request), setup_id, body.name)
    return Status(201, programmes.programmes())


@router.delete("/programmes/{programme_id}", response={204: None})
def remove_programme(request: HttpRequest, programme_id: Id) -> Status[Any]:
    programmes.remove_programme(Actor.of(request), programme_id)
    return Status(204, None)


@router.post("/setups/{setup_id}/programme", response=SetupOut)
def use_programme(request: HttpRequest, setup_id: Id, body: ProgrammeUse) -> SetupOut:
    programmes.use_programme(Actor.of(request), setup_id, body.programme_id)
    return setup_out(setup_id)


@router.post("/force-histories", response=HistoryOut)
def read_force_history(request: HttpRequest, body: HistoryIn) -> HistoryOut:
    """What a file of forces comes to; nothing is stored."""
    found = read_history(body.text, MAX_FORCES)
    return HistoryOut(forces_n=found.forces.tolist(), rate_hz=found.rate_hz)
