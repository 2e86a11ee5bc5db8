"""The stand-in of the order listener that brings orders."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import timedelta
from typing import TYPE_CHECKING

from yoke_server.bench.models import OrderState
from yoke_server.record.recorder.model import events

from tests.simulation.virtual import EPOCH

if TYPE_CHECKING:
    from tests.simulation.stage import Stage


@dataclass(eq=False)
class Order:
    kind: str
    arguments: dict
    given_at: float
    expires: float
    state: OrderState = OrderState.WAITING
    answer: dict = field(default_factory=dict)
    turn: int = 0  # the orders that the recorder took, counted
    taken_at: float | None = None
    waited_for: float = 8.0


class StandInListener:
    """Orders as rows: claimed once, answered while claimed, given up by who waits for them."""

    def __init__(self, stage: "Stage") -> None:
        self.stage = stage
        self.heard_at = stage.clock.now
        self._unsaid: deque[tuple[str, OrderState, dict]] = deque()

    def answer(self, key: str, state: OrderState, answer: dict) -> None:
        self._unsaid.append((key, state, answer))

    def note(self, label: str, **facts: object) -> None:
        pass

    def turn(self, emit: Callable[[events.Event], None]) -> None:
        stage = self.stage
        if stage.database.away:
            return
        self.heard_at = stage.clock.now
        for key, order in stage.orders.items():
            if order.state == OrderState.WAITING:
                order.state, order.taken_at = OrderState.CLAIMED, stage.clock.now
                order.turn = next(stage.turns)
                expires = EPOCH + timedelta(seconds=order.expires)
                setup = stage.setup if order.kind == "start" else None
                emit(events.OrderIn(key, order.kind, order.arguments, expires, setup))
        while self._unsaid:
            key, state, answer = self._unsaid.popleft()
            if stage.orders[key].state == OrderState.CLAIMED:
                stage.orders[key].state, stage.orders[key].answer = state, answer
