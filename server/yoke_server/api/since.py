from datetime import datetime
from typing import Annotated, Any

from django.http import HttpRequest
from django.utils.timezone import now
from ninja import Router, Status
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.preferences import last_looked, look_until
from yoke_server.common.http.fields import Answer, Body
from yoke_server.record.happenings import Since, Sort, since

router = Router(tags=["record"])


class HappeningOut(Answer):
    """One thing that happened in a run."""

    at: datetime
    sort: Sort
    words: str
    run: int
    run_name: str
    setup: str
    project: str


class DriftOut(Answer):
    """The highest of a channel's cycles at the start of a run and now, in its unit."""

    channel: str
    unit: str
    decimals: int
    begin: float
    now: float


class RunDriftOut(Answer):
    """``cycles``: since one last looked, and in the whole run."""

    run: int
    run_name: str
    cycles: int
    cycles_in_all: int
    drifts: list[DriftOut]


class SinceOut(Answer):
    """What happened since one last looked: the newest in order, and how many of each sort."""

    since: datetime
    counts: dict[str, int]
    happenings: list[HappeningOut]
    drifts: list[RunDriftOut]


class SeenIn(Body):
    """Up to when one has seen what happened."""

    until: Annotated[datetime, Field(strict=False)]


@router.get("/since", response=SinceOut)
def what_happened(request: HttpRequest) -> Since:
    """Since one last said that one has seen it; of the last week, where one never has."""
    return since(last_looked(Actor.of(request)))


@router.post("/since/seen", response={204: None})
def have_seen(request: HttpRequest, body: SeenIn) -> Status[Any]:
    look_until(Actor.of(request), min(body.until, now()))
    return Status(204, None)
