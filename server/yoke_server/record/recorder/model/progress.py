"""Progress of a run and its streams, from which a restarted recorder continues."""

from dataclasses import dataclass, field, replace
from typing import Any

from yoke_server.record.envelopes import EnvelopeValues, EnvelopeWriter
from yoke_server.record.recorder.model.segments import PlacedSegment

MAX_PAUSES = 8  # that are remembered
MAX_LEGS = 200  # changes from leg to leg, likewise


@dataclass(frozen=True, slots=True)
class Place:
    """Where in what a device sends: its acquisition, and the sequence of a block in it."""

    acquisition: int
    sequence: int


@dataclass(frozen=True, slots=True)
class StreamOrigin:
    """Where a stream begins: its first block's place, and what two clocks showed there, ns."""

    place: Place
    device_ns: int
    bench_ns: int

    def segment(self, rate_hz: float) -> PlacedSegment:
        """As if the device's line had begun there."""
        return PlacedSegment(
            0, "start", self.device_ns, self.bench_ns, rate_hz, self.place.acquisition
        )


@dataclass(frozen=True, slots=True)
class LinePlace:
    """From where a device is to send again: its next block, how many samples its line has had
    before that, and the segment in which it lies."""

    place: Place
    samples: int
    segment: PlacedSegment


@dataclass(frozen=True, slots=True)
class ResumedStream:
    """The stored position of a stream.

    place : of the next block that is not stored
    segment : the stored one that it goes on; None before its first sample
    beginning : where the stream began
    sample_bytes : of each of its samples
    """

    stream_id: int
    place: Place
    samples: int
    chain: bytes
    segment: PlacedSegment | None
    envelope: EnvelopeWriter
    beginning: StreamOrigin
    sample_bytes: int = 4

    def line_place(self, rate_hz: float) -> LinePlace:
        """``rate_hz``: of the stream, by the device's clock."""
        segment = self.segment or self.beginning.segment(rate_hz)
        return LinePlace(self.place, self.samples, segment)


@dataclass(frozen=True, slots=True)
class KeptStream:
    """The stored position of a stream of a keep rule.

    planes : arrays in each row: the channels, and the times of a timed one
    stored : samples that are in the database already
    beginning : where its run began, of one that is gone on with
    """

    stream_id: int
    planes: int
    sample_bytes: int
    stored: int
    chain: bytes
    envelope: EnvelopeWriter
    beginning: StreamOrigin | None = None

    @classmethod
    def fresh(cls, stream_id: int, planes: int, sample_bytes: int) -> "KeptStream":
        """One without samples."""
        return cls(stream_id, planes, sample_bytes, 0, b"", EnvelopeWriter(stream_id, planes))


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


# A device, and the name of a keep rule: of each there is a stream.
StreamName = tuple[str, str]


@dataclass(frozen=True, slots=True)
class ProgrammeState:
    """Where a programme is.

    leg : counted from 0; as many as there are legs once it is over
    rounds : how often each leg that repeats has gone back since its repeat began, by leg
    passed_s, cycles : of the leg, before it was begun last
    motions : begun so far
    held : why it stands; empty while it goes on
    step : of the leg, from 0
    unloads_at : the leg in whose place it ends gently, once a person has said so
    """

    leg: int = 0
    rounds: dict[int, int] = field(default_factory=dict)
    passed_s: float = 0.0
    cycles: int = 0
    motions: int = 0
    held: str = ""
    unloads_at: int | None = None
    step: int = 0

    @classmethod
    def read(cls, stored: dict[str, Any]) -> "ProgrammeState":
        """As `asdict` made it, and JSON kept it."""
        rounds = {int(leg): times for leg, times in stored["rounds"].items()}
        return cls(**(stored | {"rounds": rounds}))


@dataclass(frozen=True, slots=True)
class Pauses:
    """When no samples are kept, in bench time, ns.

    why : of the one that goes on; empty while samples are kept
    began_ns : when that one began
    past : the newest of those that are over, from and to; a block that comes late may be of one
    passed_ns : how long all that are over took
    """

    why: str = ""
    began_ns: int = 0
    past: tuple[tuple[int, int], ...] = ()
    passed_ns: int = 0

    def begin(self, why: str, now_ns: int) -> "Pauses":
        return replace(self, why=why, began_ns=now_ns)

    def end(self, now_ns: int) -> "Pauses":
        past = (*self.past, (self.began_ns, now_ns))[-MAX_PAUSES:]
        return Pauses("", 0, past, self.passed_ns + now_ns - self.began_ns)

    def covers(self, at_ns: int) -> bool:
        if self.why and at_ns >= self.began_ns:
            return True
        return any(begin <= at_ns < end for begin, end in self.past)

    def took_ns(self, now_ns: int) -> int:
        """All of them until now."""
        return self.passed_ns + (now_ns - self.began_ns if self.why else 0)

    @classmethod
    def read(cls, stored: dict[str, Any]) -> "Pauses":
        """As `asdict` made it, and JSON kept it."""
        past = tuple((int(begin), int(end)) for begin, end in stored["past"])
        return cls(**(stored | {"past": past}))


@dataclass(frozen=True, slots=True)
class LegLog:
    """Which leg (from 0) a run was in, and since when, in bench time, ns; the newest last."""

    changes: tuple[tuple[int, int], ...] = ()

    def enter(self, leg: int, now_ns: int) -> "LegLog":
        if self.changes and self.changes[-1][1] == leg:
            return self
        return LegLog((*self.changes, (now_ns, leg))[-MAX_LEGS:])

    def at(self, at_ns: int) -> int | None:
        """None before the first."""
        return next((leg for since, leg in reversed(self.changes) if since <= at_ns), None)

    @classmethod
    def read(cls, stored: list[list[int]]) -> "LegLog":
        """As JSON kept its changes."""
        return cls(tuple((int(since), int(leg)) for since, leg in stored))


@dataclass(frozen=True, slots=True)
class RunProgress:
    """What a run has reached, as far as its samples are stored.

    conditions : by device, the state of each condition that looks at its samples
    triggered : what ends the run, once it has happened
    has_fired : its trigger has come
    keeping : of the keep rules beside the main one; see `stream.keep.keeping`
    """

    conditions: dict[str, list[Any]] = field(default_factory=dict)
    triggered: str = ""
    programme: ProgrammeState | None = None
    pauses: Pauses = field(default_factory=Pauses)
    legs: LegLog = field(default_factory=LegLog)
    keeping: dict[str, Any] | None = None
    has_fired: bool = False


TRIGGERED, OF_DEVICE = "triggered", "device "
PROGRAMME, PAUSES, LEGS = "programme", "pauses", "legs"
KEEPING, FIRED = "keeping", "fired"


def reached_of(device: str, states: list[Any], triggered: str) -> dict[str, Any]:
    """What is reached with a block of a device, as it is stored with the block's row."""
    reached: dict[str, Any] = {OF_DEVICE + device: states}
    return reached | {TRIGGERED: triggered} if triggered else reached


def read_progress(reached: dict[str, Any]) -> RunProgress:
    """What was stored with all rows so far."""
    conditions = {
        key.removeprefix(OF_DEVICE): states
        for key, states in reached.items()
        if key.startswith(OF_DEVICE)
    }
    programme = reached.get(PROGRAMME)
    return RunProgress(
        conditions,
        str(reached.get(TRIGGERED, "")),
        ProgrammeState.read(programme) if programme else None,
        Pauses.read(reached[PAUSES]) if PAUSES in reached else Pauses(),
        LegLog.read(reached.get(LEGS, [])),
        reached.get(KEEPING),
        bool(reached.get(FIRED)),
    )
