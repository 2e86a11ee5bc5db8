"""Progress of a run and its streams, from which a restarted recorder continues."""

import json
from dataclasses import dataclass, field
from typing import Any

from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.recorder.model.segments import PlacedSegment


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


@dataclass(frozen=True, slots=True)
class ProgrammeState:
    """Where a programme is.

    leg : counted from 0; as many as there are legs once it is over
    rounds : how often each leg that repeats has gone back since its repeat began, by leg
    passed_s, cycles : of the leg, before it was begun last
    motions : begun so far
    held : why it stands; empty while it goes on
    """

    leg: int = 0
    rounds: dict[int, int] = field(default_factory=dict)
    passed_s: float = 0.0
    cycles: int = 0
    motions: int = 0
    held: str = ""

    @classmethod
    def read(cls, stored: dict[str, Any]) -> "ProgrammeState":
        """As `asdict` made it, and JSON kept it."""
        rounds = {int(leg): times for leg, times in stored["rounds"].items()}
        return cls(**(stored | {"rounds": rounds}))


@dataclass(frozen=True, slots=True)
class RunProgress:
    """What a run has reached, as far as its samples are stored.

    conditions : by device, the state of each condition that looks at its samples
    paused : why no samples are kept at present; empty while they are
    triggered : what ends the run, once it has happened
    """

    conditions: dict[str, list[Any]] = field(default_factory=dict)
    triggered: str = ""
    programme: ProgrammeState | None = None
    paused: str = ""


TRIGGERED, OF_DEVICE, PROGRAMME, PAUSED = "triggered", "device ", "programme", "paused"


def progress_json(device: str, states: list[Any], triggered: str) -> str:
    """What is reached with a block of a device, as it is stored with the block's row."""
    reached: dict[str, object] = {OF_DEVICE + device: states}
    return json.dumps(reached | {TRIGGERED: triggered} if triggered else reached)


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
        str(reached.get(PAUSED, "")),
    )
