"""What the recorder asks of its connections to the database: each method is one round trip.

The logic above (who holds the bench, how a run begins and ends, what is written again, which
orders are heard) is the same on PostgreSQL and in the simulation. Every method raises Error
(Django's or the driver's) where it was not done, or where nobody knows.
"""

from collections.abc import Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yoke_core.arrays import Signals
from yoke_core.streaming.envelope import Envelope

from yoke_server.bench.models import OrderState
from yoke_server.bench.stops import StopRequested
from yoke_server.record.envelopes import EnvelopeValues
from yoke_server.record.recorder.model.events import Address, Began
from yoke_server.record.recorder.model.progress import Closed, RunProgress, StreamOrigin
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.storage.work import Close, Mark, Plan, StreamPlan
from yoke_server.record.store import Samples
from yoke_server.setups.document import FrozenSetup


class Session(Protocol):
    """A connection of one thread."""

    def open(self) -> None: ...
    def close(self) -> None: ...
    def transaction(self) -> AbstractContextManager[None]:
        """All or nothing, and on the disk when it ends."""
        ...


@dataclass(frozen=True, slots=True)
class SignOfLife:
    """Which recorder last wrote that it serves a bench, and how long ago."""

    holder: str
    age_s: float


class RunSession(Session, Protocol):
    """Beginning and ending runs."""

    def find_run(self, order_key: str) -> Began | None:
        """The run that an order has begun already."""
        ...

    def finish_order(self, order_key: str) -> bool:
        """Whether an order lives: claimed, not given up, not past, and no stop came after it; it
        is done with this."""
        ...

    def add_run(self, plan: Plan) -> int: ...
    def add_stream(self, run_id: int, plan: StreamPlan) -> None: ...
    def add_computed(self, run_id: int) -> None:
        """Streams for what is computed while the run records, after those of its devices."""
        ...

    def announce_run(self, run_id: int, order_key: str) -> None:
        """Answer the order; note it in the ledger; tell the screens."""
        ...

    def add_mark(self, mark: Mark) -> None:
        """Its marker, if it has a text, and what the run has reached; once, however often."""
        ...

    def lock_run(self, run_id: int) -> str | None:
        """A run's state; None if there is no such run any more."""
        ...

    def end_stream(self, closed: Closed) -> None:
        """Its length, its seal, its last envelope rows."""
        ...

    def end_run(self, work: Close, seal: str) -> None:
        """And whatever follows from it: the ledger, the screens, later stages."""
        ...


class StoreSession(RunSession, Protocol):
    """The writer's: the bench, its runs and their samples."""

    def try_lock(self) -> bool: ...
    def unlock(self) -> None: ...
    def end_lock_holder(self) -> None:
        """End the session that holds the bench's lock."""
        ...

    def sign_of_life(self) -> SignOfLife | None: ...
    def take_bench(self, holder: str) -> None:
        """Sign as the one who serves the bench from now on."""
        ...

    def leave_bench(self, holder: str) -> None: ...
    def add_row(self, row: Samples) -> bool: ...
    def end_of(self, stream_id: int) -> int: ...
    def log_positions(self) -> tuple[int, int]: ...
    def put_on_disk(self) -> None: ...


@dataclass(frozen=True, slots=True)
class StoredStream:
    """A stream of an open run; ``planes`` are the arrays in each of its blocks."""

    stream_id: int
    device: str
    rule: str
    planes: int
    beginning: StreamOrigin
    sample_bytes: int = 4


@dataclass(frozen=True, slots=True)
class StoredRun:
    """A run that is open."""

    run_id: int
    name: str
    start_ns: int
    streams: list[StoredStream]
    is_dry: bool = False


@dataclass(frozen=True, slots=True)
class LastRow:
    """Where a stream ends."""

    end: int
    last_sequence: int
    chain: bytes


@dataclass(frozen=True, slots=True)
class ClaimedOrder:
    """``left_s``: seconds until it is past, by the database's clock."""

    key: str
    kind: str
    arguments: dict[str, object]
    requested_at: datetime
    left_s: float


class OrderSession(RunSession, Protocol):
    """The order listener's: orders, devices, setups, and what an earlier recorder left."""

    def claim_orders(self, holder: str) -> list[ClaimedOrder]:
        """All that wait, each once; none for who no longer serves the bench. One that somebody
        has locked waits for the next time."""
        ...

    def give_back_claimed(self) -> None:
        """Orders that a dead recorder had claimed are refused: what was ordered then is past."""
        ...

    def answer_order(self, key: str, state: OrderState, answer: dict[str, object]) -> None:
        """Only a claimed order is answered: one that was given up stays so."""
        ...

    def release_stops(self, key: str) -> None:
        """The emergency stops that were given before an order are released by it; it is done."""
        ...

    def note_device(self, label: str, facts: dict[str, object]) -> None: ...
    def devices(self) -> dict[str, Address]: ...
    def active_setup(self) -> FrozenSetup | None: ...
    def setup_of(self, revision_id: int) -> FrozenSetup | None: ...
    def open_run(self) -> StoredRun | None: ...
    def setup_of_run(self, run_id: int) -> FrozenSetup: ...
    def progress_of(self, run_id: int) -> RunProgress: ...
    def last_row(self, stream_id: int) -> LastRow | None: ...
    def last_segment(self, stream_id: int) -> PlacedSegment | None: ...
    def envelope_end(self, stream_id: int, level: int) -> int: ...
    def read_envelope(self, stream_id: int, level: int, first: int, channels: int) -> Envelope: ...
    def read_samples(self, stream_id: int, first: int, last: int, channels: int) -> Signals: ...
    def add_envelope_rows(self, rows: Sequence[EnvelopeValues]) -> None: ...
    def put_on_disk(self) -> None: ...
    def prune_orders(self) -> None: ...


class StopSession(Session, Protocol):
    """The stop listener's: hears stops, and says when they are carried out."""

    def standing_stops(self) -> list[tuple[StopRequested, bool]]:
        """Stops that nobody has confirmed, and emergencies that nobody has released; and whether
        each was carried out before."""
        ...

    def wait(self, timeout: float) -> list[StopRequested]:
        """Stops that are given within ``timeout`` seconds; back at once with one, or woken."""
        ...

    def wake(self) -> None:
        """From any thread."""
        ...

    def tell(self, key: str, problem: str) -> None:
        """Let whoever gave a stop know; nothing is written for it."""
        ...

    def ping(self) -> None:
        """See whether the database answers."""
        ...


class SignSession(Session, Protocol):
    """The life sign's: the only one who writes each second, so that it is known who can."""

    def sign(self, holder: str) -> bool:
        """Write that the holder lives; False if another recorder serves the bench now."""
        ...

    def keep_stop(self, stop: StopRequested, problem: str) -> None:
        """Write down a stop that was carried out, whoever wrote it down before, and why
        something may not stand."""
        ...
