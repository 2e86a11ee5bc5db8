"""What screens get of a bench while it is watched: frames, the bench's state, news.

Described here once. The web's types come from here by the API's description, its decoder's
layout by `manage.py export_frame_layout`; a test fails when either is stale.

A frame is little-endian: a header, then a row for each channel, all float32, quantities in SI.
Behind the channels stand those that are filtered, corrected by others, or computed.
"""

import struct
from enum import StrEnum
from typing import Literal, NamedTuple

from pydantic import BaseModel, ConfigDict

from yoke_server.common.http.fields import unset


class HeaderField(NamedTuple):
    """A number of a frame's header: as struct and as JavaScript's DataView call its type."""

    name: str
    code: str
    view: str


HEADER_FIELDS = (
    HeaderField("layout", "I", "Uint32"),  # which channels the rows are: see `Layout`
    HeaderField("channels", "H", "Uint16"),
    HeaderField("bins", "H", "Uint16"),
    HeaderField("spare", "Q", "BigUint64"),
    HeaderField("endS", "d", "Float64"),  # bench seconds at the end of the block
    HeaderField("runS", "d", "Float64"),  # seconds of the run there; `NO_RUN` without one
)
# Numbers of a row before its bins: its place in the layout; the reading, NaN where everything
# clipped; the raw signal; extremes since their reset; share of samples at the converter's rail;
# mean and deviation over the last second; statistics over the last 10 s and the last 60 s.
WINDOW_FIELDS = tuple(
    f"{name}{seconds}"
    for seconds in (10, 60)
    for name in ("mean", "deviation", "lowest", "highest")
)
ROW_FIELDS = (
    *("place", "reading", "raw", "lowest", "highest", "clipped", "mean", "deviation"),
    *WINDOW_FIELDS,
)
BIN_FIELDS = ("low", "high", "last")
NO_RUN = -1.0
_HEADER = struct.Struct("<" + "".join(f.code for f in HEADER_FIELDS))
HEADER_BYTES = _HEADER.size


def header_sizes() -> list[int]:
    """Bytes of each number of the header."""
    return [struct.calcsize("<" + f.code) for f in HEADER_FIELDS]


class FrameHeader(NamedTuple):
    """The numbers of a frame's header, in their order."""

    layout: int
    channels: int
    bins: int
    spare: int
    end_s: float
    run_s: float

    def pack(self) -> bytes:
        return _HEADER.pack(*self)


def frame_header(layout: int, channels: int, bins: int, end_s: float, run_s: float) -> bytes:
    """The header of a frame, ready to be sent."""
    return FrameHeader(layout, channels, bins, 0, end_s, run_s).pack()


def read_header(frame: bytes) -> FrameHeader:
    """Raises struct.error for what is too short."""
    return FrameHeader(*_HEADER.unpack_from(frame))


def row_bytes(bins: int) -> int:
    """How long a row with so many bins is."""
    return 4 * (len(ROW_FIELDS) + len(BIN_FIELDS) * bins)


class Phase(StrEnum):
    """What a bench may be doing."""

    TAKING_UP = "taking up"  # it is not known yet whether an earlier recorder left a run open
    IDLE = "idle"
    ARMING = "arming"  # settings are brought in force and read back
    BEGINNING = "beginning"  # the run is being written to the database
    RECORDING = "recording"
    CLOSING = "closing"  # the run has ended; its end is not in the database yet
    MEASURING = "measuring"  # channels at rest, for a zero
    SHUNTING = "shunting"  # the shunt is on, or about to be switched
    CHECKING = "checking"  # the wiring is being measured


class Shown(BaseModel):
    model_config = ConfigDict(frozen=True, ser_json_inf_nan="null")


class DeviceState(Shown):
    """A device as its recorder sees it.

    faults : by channel key, why nothing can be computed by its scaling
    age_s : how old the newest sample is; null before there is one
    """

    why_not: str
    faults: dict[str, str]
    age_s: float | None
    drift_ppm: float
    clock_steps: int


class Layout(Shown):
    """Which channels, by key, the rows of a device's frames are."""

    id: int
    device: str
    channels: list[str]


class Latched(Shown):
    """An emergency stop in force, until somebody releases it."""

    by: str
    at: str


class ProgrammeShown(Shown):
    """Where the programme of a run is.

    leg : counted from 1; one more than there are once it is over
    round : of the nearest repeat around the leg, from 1; null outside of all
    held : why it stands; empty while it goes on
    waits : whether it waits for a person
    seconds, cycles : of the leg so far
    commanded : forces (N) between which the actuator is told to swing, where its size is held
    """

    leg: int
    legs: int
    words: str
    round: int | None
    held: str
    waits: bool
    seconds: float
    cycles: int
    commanded: tuple[float, float] | None = None


class KeptShown(Shown):
    """What a keep rule has kept so far: samples of its longest stream, bytes of all; ``rule`` is
    its place in the setup."""

    rule: int
    samples: int
    nbytes: int


class BenchState(Shown):
    """What a recorder says of its bench each second.

    queue_left_s : how long the database may stay away before the run must end
    motion, position_m, home : of the main actuator
    waiting : for what trigger the run waits; empty once it keeps samples
    dry : whether all is played, and nothing kept
    paused : why no samples are kept at present; empty while they are
    tripped : places of the guards whose channel is beyond, or was a moment ago
    held_low, held_high : forces (N) between which the last cycle held; null where none count
    stopped_because : why the recorder itself stopped what moved last; empty if it did not
    left : whether the recorder has ended
    """

    phase: Phase
    run: int | None
    run_name: str
    elapsed_s: float
    missing_blocks: int
    backlog_s: float
    queue_left_s: int | None
    trouble: str
    free_bytes: int | None
    linked: bool
    devices: dict[str, DeviceState]
    waiting: str
    dry: bool
    paused: str
    programme: ProgrammeShown | None
    tripped: list[int]
    kept: list[KeptShown]
    cycles: int | None
    held_low: float | None
    held_high: float | None
    layouts: list[Layout]
    motion: str
    position_m: float | None
    home: bool
    stopped_because: str
    latched: Latched | None
    left: bool = False


class StateMessage(Shown):
    """The state of the bench that a screen watches."""

    kind: Literal["state"] = "state"
    state: BenchState


class News(Shown):
    """Something was changed; whoever shows it loads it again. ``by`` says who or what did it."""

    kind: Literal[
        "bench",
        "calibration",
        "library",
        "readings",
        "recipe",
        "report",
        "result",
        "run",
        "setup",
        "sheet",
        "reload",
    ]
    bench: int | None = unset()
    setup: int | None = unset()
    run: int | None = unset()
    version: int | None = unset()
    by: str | None = unset()


class Subscription(Shown):
    """What a screen says: which channels it wants; null for all."""

    subscribe: list[str] | None


# All that the web must know the shape of: what is sent whole, and what may lack some fields.
SENT_WHOLE: tuple[type[BaseModel], ...] = (StateMessage,)
SENT_IN_PART: tuple[type[BaseModel], ...] = (News, Subscription)
