from datetime import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.wire.document import FrozenChannel
from yoke_server.wire.schemas import Name, Positive


class GapTimes(Schema):
    """Where samples are missing, in seconds of the run."""

    from_s: float
    to_s: float


class StreamOut(Schema):
    """Channels of one device in a run."""

    device: str
    rate_hz: float
    samples: int
    start_s: float
    end_s: float
    gaps: list[GapTimes]
    clock_steps: int
    channels: list[str]


class RunOut(Schema):
    """A run, without its samples; its specimen with what was put right since."""

    id: int
    number: int
    name: str
    state: str
    operator: str
    started_at: datetime
    ended_at: datetime | None
    ended_because: str
    specimen: str
    width_m: float
    thickness_m: float
    gauge_length_m: float
    notes: str
    seal: str
    duration_s: float
    streams: list[StreamOut]
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
    reason: Annotated[str, Field(max_length=200)] | None = None


class PeaksReset(Schema):
    """Keys of channels; none means all."""

    channels: list[Annotated[str, Field(max_length=20)]]
