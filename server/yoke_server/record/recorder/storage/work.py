"""The writer's work items: begin a run, add samples, mark an instant, end a run."""

from dataclasses import dataclass, field

from yoke_server.bench.stops import StopRequested
from yoke_server.record.envelopes import EnvelopeValues
from yoke_server.record.models import MarkerKind, RunState
from yoke_server.record.recorder.model.progress import StreamOrigin
from yoke_server.record.recorder.stream.computed_writer import ComputedEnd
from yoke_server.record.store import Samples
from yoke_server.setups.document import FrozenChannel


@dataclass(frozen=True, slots=True)
class StreamPlan:
    """A stream that is to begin; the rate is by the device's own clock."""

    rate_hz: float
    beginning: StreamOrigin
    channels: list[FrozenChannel]


@dataclass(slots=True)
class Plan:
    """A run that is to begin. Whoever stops it before sets ``cancelled``.

    start_ns : bench time of its first sample
    streams : by device
    """

    order_key: str
    revision_id: int
    operator_id: int | None
    start_ns: int
    streams: dict[str, StreamPlan] = field(default_factory=dict)
    cancelled: str = ""


@dataclass(frozen=True, slots=True)
class Closed:
    """What closing a stream adds: its length, the end of its chain, its last envelope rows.

    Those rows are not full, so no later one could follow them: they are written with the
    run's end, never before.
    """

    stream_id: int
    samples: int
    chain: bytes
    envelope: list[EnvelopeValues] = field(default_factory=list)


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


Work = Samples | Begin | Close | Mark
