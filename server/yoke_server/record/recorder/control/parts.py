"""The parts that a bench's recorder depends on; tests pass their own."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Protocol

from yoke_server.bench.models import OrderState
from yoke_server.bench.stops import StopRequested
from yoke_server.live.protocol import BenchState
from yoke_server.record.recorder.control.actuators import ActuatorPart
from yoke_server.record.recorder.control.bench_device import Port
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.storage.work import Work
from yoke_server.record.recorder.stream.ring import MemoryBudget


class WriterPart(Protocol):
    trouble: str

    @property
    def full(self) -> bool: ...
    @property
    def keeps_up(self) -> bool: ...
    @property
    def backlog_s(self) -> float: ...
    @property
    def room_bytes(self) -> int: ...
    def put(self, work: Work) -> None: ...


class OrderListenerPart(Protocol):
    def answer(self, key: str, state: OrderState, answer: dict[str, object]) -> None: ...
    def release(self, key: str, requested_at: datetime) -> None:
        """Write down that the emergency stop is released by an order, which is answered; an
        event tells when that is done."""
        ...

    def note(self, label: str, **facts: Any) -> None: ...


class StopListenerPart(Protocol):
    heard_at: float  # monotonic; later no stop can have been heard

    @property
    def is_listening(self) -> bool: ...
    def confirm(self, key: str, problem: str) -> None: ...


class LifeSignPart(Protocol):
    written_at: float  # monotonic; when the database was last written to

    @property
    def has_unkept_stops(self) -> bool: ...
    def keep_stop(self, stop: StopRequested, problem: str) -> None: ...


class LivePublisherPart(Protocol):
    def frame(self, payload: bytes) -> None: ...
    def state(self, state: BenchState) -> None: ...
    def news(self, kind: str) -> None: ...


@dataclass(frozen=True, slots=True)
class Parts:
    """What the runner works with. Ports are made when a device becomes known."""

    clock: Clock
    writer: WriterPart
    listener: OrderListenerPart
    stops: StopListenerPart
    life: LifeSignPart
    publisher: LivePublisherPart
    make_port: Callable[[str, events.Address], Port | None]
    make_actuator: Callable[[str, events.Address], ActuatorPart | None]
    free_bytes: Callable[[], int | None]
    budget: MemoryBudget = field(default_factory=MemoryBudget)
