"""The stand-in of the database's server: rows, a log that is flushed late, locks, faults."""

import itertools
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

import psycopg
from django.db.utils import OperationalError
from yoke_server.bench.models import OrderState
from yoke_server.bench.stops import StopRequested
from yoke_server.record.models import RunState

from tests.simulation.virtual import EPOCH

if TYPE_CHECKING:
    from tests.simulation.scheduler import Scheduler

FLUSH_EVERY = 0.6  # s; the server's own, for commits that do not wait for it
HANG_S = 6.0  # s after which a connection that hangs is given up
Undo = Callable[[], object]


@dataclass(eq=False)
class OrderRow:
    key: str
    kind: str
    arguments: dict[str, Any]
    requested_at: datetime
    expires_at: datetime
    given_at: float  # by the bench's clock
    state: OrderState = OrderState.WAITING
    answer: dict[str, Any] = field(default_factory=dict)


@dataclass(eq=False)
class StopRow:
    stop: StopRequested
    confirmed: bool = False
    problem: str = ""
    released: bool = False
    ended_run: int | None = None


@dataclass(eq=False)
class StreamRow:
    label: str
    rule: str
    is_timed: bool
    beginning: Any
    blocks: list[Any] = field(default_factory=list)  # BlockValues in order
    segments: list[Any] = field(default_factory=list)
    envelope: dict[tuple[int, int], Any] = field(default_factory=dict)
    seal: bytes | None = None
    closed_samples: int | None = None

    @property
    def place(self) -> Any:
        return self.beginning.place

    @property
    def samples(self) -> int:
        return self.blocks[-1][1] + self.blocks[-1][2] if self.blocks else 0


@dataclass(eq=False)
class RunRow:
    order_key: str
    start_ns: int
    setup: Any
    state: str = RunState.RECORDING
    why: str = ""
    streams: dict[tuple[str, str], int] = field(default_factory=dict)  # by device and rule
    progress: dict[str, Any] = field(default_factory=dict)
    markers: dict[str, Any] = field(default_factory=dict)
    ended_at: float | None = None
    is_dry: bool = False


class StandInServer:
    """Commits in order; a crash takes what was not flushed. Sessions of `sessions.py` use it."""

    def __init__(self, scheduler: "Scheduler") -> None:
        self.scheduler = scheduler
        self.clock_offset_s = 0.0  # of its clock from the bench's
        self.away = False
        self.hanging = False
        self.read_only = False
        self.full = False
        self.slow_s = 0.0
        self.lose_answers = 0
        self.stalled_flush = False
        self.keeps_dead_sessions = False
        self.refused_runs: set[int] = set()
        self.damaged_runs: set[int] = set()
        self.locked_until: dict[str, float] = {}
        self.orders: dict[str, OrderRow] = {}
        self.stops: dict[str, StopRow] = {}
        self.sign: tuple[str, float] | None = None  # holder, its time
        self.lock_holder: Any = None
        self.runs: dict[int, RunRow] = {}
        self.streams: dict[int, StreamRow] = {}
        self.setup: Any = None
        self.revisions: list[Any] = []  # setups as runs take them; their numbers begin at 1
        self.sessions: set[Any] = set()
        self._log: deque[tuple[int, list[Undo]]] = deque()  # position, how to take it back
        self.position = self.flushed = 0
        self.ids = itertools.count(1)
        self.last_write_ok = scheduler.clock.now
        scheduler.later(FLUSH_EVERY, self._flush_by_itself)

    # Time and the log

    def utc(self) -> datetime:
        return EPOCH + timedelta(seconds=self.scheduler.clock.now + self.clock_offset_s)

    def _flush_by_itself(self) -> None:
        if not self.stalled_flush and not self.away:
            self.flush()
        self.scheduler.later(FLUSH_EVERY, self._flush_by_itself)

    def flush(self) -> None:
        self.flushed = self.position
        self._log.clear()

    def commit(self, undo: list[Undo], *, durable: bool) -> None:
        self.position += 100
        self._log.append((self.position, undo))
        self.last_write_ok = self.scheduler.clock.now
        if durable:
            self.flush()

    # Faults

    @property
    def takes_writes(self) -> bool:
        return not (self.away or self.hanging or self.read_only or self.full)

    def crash(self) -> None:
        """All connections break; what was not flushed is gone."""
        while self._log:
            _, undo = self._log.pop()
            for step in reversed(undo):
                step()
        self.position = self.flushed
        for session in list(self.sessions):
            session.drop()
        self.lock_holder = None

    def cut_connections(self) -> None:
        for session in list(self.sessions):
            session.drop()

    def travel(self) -> None:
        """One way to the server and back, as far as it is one."""
        if self.away:
            raise OperationalError("the database is away")
        if self.slow_s:
            self.scheduler.sleep(self.slow_s)
        until = self.scheduler.clock.now + HANG_S
        while self.hanging:
            self.scheduler.sleep(0.1)
            if self.scheduler.clock.now >= until:
                raise OperationalError("server closed the connection unexpectedly")

    def require_writable(self) -> None:
        if self.read_only:
            raise psycopg.errors.ReadOnlySqlTransaction("cannot write in a read-only transaction")
        if self.full:
            raise psycopg.errors.DiskFull("no space left on device")

    def wait_for_lock(self, name: str, timeout: float = 1e9) -> None:
        """Until nobody else has a row locked."""
        until = self.scheduler.clock.now + timeout
        while self.is_locked(name):
            self.scheduler.sleep(0.05)
            if self.scheduler.clock.now > until:
                raise psycopg.errors.QueryCanceled("canceling statement due to timeout")

    def is_locked(self, name: str) -> bool:
        return self.scheduler.clock.now < self.locked_until.get(name, 0.0)

    # Notices

    def notify(self, channel: str, payload: Any) -> None:
        for session in list(self.sessions):
            session.hear(channel, payload)

    def open_runs(self) -> list[int]:
        return [i for i, r in self.runs.items() if r.state == RunState.RECORDING]
