"""The writer's work items: begin a run, add samples, mark an instant, end a run."""

import json
from dataclasses import dataclass, field
from uuid import uuid4

from yoke_server.bench.stops import StopRequested
from yoke_server.record.models import Layout, MarkerKind, RunState
from yoke_server.record.recorder.model.progress import Closed, StreamOrigin
from yoke_server.record.recorder.stream.computed_writer import ComputedEnd
from yoke_server.record.store import Samples
from yoke_server.setups.document import FrozenChannel


@dataclass(frozen=True, slots=True)
class StreamPlan:
    """A stream of a device that is to begin; the rate is by the device's own clock."""

    device: str
    rule: str
    layout: Layout
    rate_hz: float
    beginning: StreamOrigin
    channels: list[FrozenChannel]


@dataclass(slots=True)
class Plan:
    """A run that is to begin. Whoever stops it before sets ``cancelled``.

    start_ns : bench time of its first sample
    is_dry : all is played, and nothing is kept
    accepted, answers : as in `StartRun`
    streams : the main one of each device, then those of the other keep rules
    """

    order_key: str
    revision_id: int
    operator_id: int | None
    start_ns: int
    streams: list[StreamPlan] = field(default_factory=list)
    cancelled: str = ""
    is_dry: bool = False
    accepted: list[str] = field(default_factory=list)
    answers: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Begin:
    plan: Plan


@dataclass(frozen=True, slots=True)
class Close:
    """``stop`` is the one that ended the run; none if it ended otherwise. ``computed`` are the
    streams that were computed to the end."""

    run_id: int
    state: RunState
    why: str
    streams: list[Closed]
    stop: StopRequested | None = None
    computed: list[ComputedEnd] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Mark:
    """Something happened in a run: a marker, unless ``text`` is empty, and what is reached by it.

    from_ns : where it begins, of a marker about a stretch
    start_ns : when the run begins, where that is known only now
    key : by which it is written once
    progress : as in `Samples`
    """

    run_id: int
    key: str
    at_ns: int
    kind: MarkerKind
    text: str
    actor_id: int | None = None
    progress: str = ""
    start_ns: int | None = None
    from_ns: int | None = None


def progress_mark(run_id: int, at_ns: int, reached: dict[str, object]) -> Mark:
    """What a run has reached, without a marker."""
    reached_json = json.dumps(reached)
    return Mark(run_id, str(uuid4()), at_ns, MarkerKind.PROGRAMME, "", progress=reached_json)


Work = Samples | Begin | Close | Mark
