from datetime import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Answer, Body, unset
from yoke_server.kinds.corrections import CorrectionSpec
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.record.commands import Command
from yoke_server.record.models import MarkerKind
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.schemas import SpecimenChange


class GapTimes(Schema):
    """Where samples are missing, in seconds of the run."""

    from_s: float
    to_s: float


class StreamOut(Schema):
    """Channels of one device in a run, as one of its keep rules has kept them.

    rule : its name: the kind, and a number where there are several
    layout : uniform, or timed where each row has its time
    """

    id: int
    device: str
    rule: str
    layout: str
    nbytes: int
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
    piece: SpecimenSpec
    notes: str
    seal: str
    duration_s: float
    streams: list[StreamOut]
    setup_version: int
    imported: bool  # from a file
    is_dry: bool
    discarded_at: datetime | None
    discarded_because: str
    accepted: list[str]
    answers: dict[str, str]
    readings: str  # the version of how it is read
    channels: list[FrozenChannel]


class DiscardIn(Body):
    reason: fields.Reason


class MarkerIn(Body):
    text: Annotated[str, fields.Text(1, 200)]


class MarkerOut(Answer):
    """A named instant of a run; ``by`` is empty of what happened by itself."""

    id: int
    at_s: float
    kind: MarkerKind
    text: str
    by: str


class AverageOut(Answer):
    """Of a channel, SI; null where no sample has a reading."""

    channel: str
    mean: float | None
    deviation: float | None
    samples: int


class SweepStepOut(Answer):
    """A step of a run: what it was, the stretch that is averaged, in seconds of the run."""

    words: str
    from_s: float
    to_s: float
    averages: list[AverageOut]


class RunCommand(Body):
    """What a run that is recorded is to do."""

    command: Annotated[Command, Field(strict=False)]


class RunReadingOut(Answer):
    """A channel of a run as it is read: SI = value * factor + offset.

    formula : of a computed channel; empty of a measured one
    share : how much of it is computed, from 0 to 1; 1 of what is read by its chain
    problem : why it cannot be read; empty where it can
    fingerprint : of the definition of what is computed
    """

    key: str
    name: str
    quantity: str
    unit: str
    factor: float
    offset: float
    decimals: int
    device: str
    formula: str
    share: float
    problem: str
    fingerprint: str


class CorrectionOut(Answer):
    """A correction of a run, with the reason, the author and the time that it was made."""

    correction: CorrectionSpec
    title: str
    channels: list[str]
    said: str
    reason: str
    by: str
    at: datetime


class RunReadingsOut(Answer):
    """How a run is read. ``problems`` are of computed channels that the run lacks channels for."""

    version: str
    channels: list[RunReadingOut]
    problems: list[str]
    corrections: list[CorrectionOut]


class HintOut(Answer):
    """Something of a run that looks wrong; ``action`` says what its correction does."""

    channel: str
    text: str
    reason: str
    action: str
    correction: CorrectionSpec | None


class RunReadingsIn(Body):
    """``first`` is the channel that is in view: it is computed before the others."""

    first: fields.Key | None = unset()


class CorrectionIn(Body):
    """A correction of some runs of one setup, together or not at all."""

    runs: Annotated[list[fields.Id], Field(min_length=1, max_length=500)]
    correction: CorrectionSpec
    reason: fields.Reason


class CorrectionKeyOut(Answer):
    """By which the correction is changed in all its runs."""

    key: str


class CorrectionChange(Body):
    """What is left out stays."""

    on: bool = unset()
    name: Annotated[str, fields.Text(0, 60)] = unset()
    position: Annotated[int, Field(ge=0, le=100)] = unset()
    reason: fields.Reason = unset()


class CorrectedViewIn(Body):
    """A channel of a run as it would be read with one correction more."""

    correction: CorrectionSpec
    channel: fields.Key
    from_s: fields.Seconds | None = None
    to_s: fields.Seconds | None = None
    pixels: Annotated[int, Field(ge=16, le=8192)] = 1000


class RunStart(Body):
    """``version`` of the setup is the one that the screen shows of it; ``accepted`` are the codes
    of its open preflight issues, where they were shown; ``answers`` go by what was asked."""

    version: fields.Id
    pull: bool = True
    is_dry: bool = False
    accepted: Annotated[list[Annotated[str, fields.Text(1, 40)]], Field(max_length=600)] | None = (
        None
    )
    answers: Annotated[
        dict[fields.Name, Annotated[str, fields.Text(0, 200)]], Field(max_length=12)
    ] = {}


class RunChange(SpecimenChange):
    """What is left out stays."""

    notes: fields.Notes = unset()
    reason: fields.Reason = unset()


class PeaksReset(Body):
    """Keys of channels; none means all."""

    channels: Annotated[list[fields.Key], Field(max_length=512)]


class PreflightIssueOut(Answer):
    """Something to mend before a run; one that ``blocks`` keeps it from starting."""

    code: str
    stage: str
    text: str
    hint: str
    blocks: bool


class BatchItemOut(Answer):
    """A specimen of the batch; ``is_done``: a run of it is kept."""

    specimen: str
    is_done: bool


class SetupRunsOut(Answer):
    """What runs add to a setup: the next specimen's name is empty while this one is unused."""

    preflight: list[PreflightIssueOut]
    runs: int
    next_run_name: str
    next_specimen: str
    batch: list[BatchItemOut]


class LastRun(Answer):
    """The newest run of a setup; ``channel`` shows what it was like."""

    id: int
    name: str
    state: str
    started_at: datetime
    ended_because: str
    channel: str
    channel_name: str
    unit: str


class LineRunsOut(Answer):
    """What runs add to a setup in a list."""

    runs: int = 0
    recording: bool = False
    last_run: LastRun | None = None
