from datetime import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.wire.frozen import FrozenChannel
from yoke_server.wire.schemas import Name, Positive


class RunOut(Schema):
    """A run, without its samples."""

    id: int
    number: int
    name: str
    state: str
    operator: str
    started_at: datetime | None
    ended_at: datetime | None
    ended_because: str
    specimen: str
    width_m: float
    thickness_m: float
    gauge_length_m: float
    notes: str
    seal: str
    samples: int
    rate_hz: float | None
    gaps: list[list[int]]
    setup_version: int
    channels: list[FrozenChannel]


class RunStart(Schema):
    pull: bool = True


class RunChange(Schema):
    """Lengths in m; what is left out stays."""

    specimen: Name | None = None
    width_m: Positive | None = None
    thickness_m: Positive | None = None
    gauge_length_m: Positive | None = None
    notes: Annotated[str, Field(max_length=4000)] | None = None
