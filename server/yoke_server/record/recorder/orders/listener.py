"""Orders in, answers and facts about devices out, on a connection of its own.

Samples may wait for the database; a person who gives an order does not wait behind them. Stops
do not come this way: see `stop_listener`.
"""

import json
import logging
import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Protocol, TypeVar

from yoke_server.bench.models import OrderState
from yoke_server.common.db.notify import NEWS, RECORDER
from yoke_server.kinds.orders import BY_KIND, read_order
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    DevicesKnown,
    Event,
    OrderIn,
    SetupLoaded,
    StopsReleased,
)
from yoke_server.record.recorder.orders.discovery import DeviceDiscovery
from yoke_server.record.recorder.storage.resume import take_up
from yoke_server.record.recorder.storage.sessions import ClaimedOrder, OrderSession
from yoke_server.record.recorder.storage.writer import DATABASE_ERRORS
from yoke_server.record.store import will_pass
from yoke_server.setups.document import FrozenSetup

log = logging.getLogger(__name__)

LOOK_EVERY = 1.0  # s, should a notification have been lost
PRUNE_EVERY = 3600.0  # s
Action = Callable[[], None]
T = TypeVar("T")


class WaitingOrderSession(OrderSession, Protocol):
    """A session whose news can be waited for."""

    def wait(self, timeout: float) -> list[tuple[str, str]]: ...  # channel, payload
    def wake(self) -> None: ...


@dataclass(slots=True)
class _ToWrite:
    """What is to be written: answers in order, and of each device what is known last."""

    answers: "queue.SimpleQueue[Action]" = field(default_factory=queue.SimpleQueue)
    notes: dict[str, dict[str, object]] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def add_note(self, label: str, facts: dict[str, object]) -> None:
        with self.lock:
            self.notes.setdefault(label, {}).update(facts)

    def take_note(self) -> tuple[str, dict[str, object]] | None:
        with self.lock:
            return self.notes.popitem() if self.notes else None


class OrderListener:
    """`step` does one thing at a time and never waits; `PartThread` turns it.

    holder : the recorder that must serve the bench for its orders to be claimed
    """

    def __init__(
        self,
        session: WaitingOrderSession,
        holder: str,
        bench_id: int,
        clock: Clock,
        emit: Callable[[Event], None],
    ) -> None:
        self._session = session
        self._holder = holder
        self._bench_id = bench_id
        self._clock = clock
        self._emit = emit
        self._to_write = _ToWrite()
        self._writing: Action | None = None
        self._is_open = False
        self._is_stale = True  # devices and setup must be read anew
        self._has_taken_up = False
        self._prune_at = 0.0
        self._discovery = DeviceDiscovery(self.answer)

    # From the runner's thread: what must be written, in order, however long it takes

    def answer(self, key: str, state: OrderState, answer: dict[str, Any]) -> None:
        """Only a claimed order is answered: one that was given up stays so."""
        self._put(lambda: self._session.answer_order(key, state, answer))

    def release(self, key: str, requested_at: datetime) -> None:
        """The emergency stops of before an order are released by it, as soon as that is written
        down, which also answers the order."""

        def action() -> None:
            self._session.release_stops(key)
            self._emit(StopsReleased(requested_at))

        self._put(action)

    def note(self, label: str, **facts: Any) -> None:
        """What a device says of itself, or what is wrong with it; news if it is new."""
        self._to_write.add_note(label, facts)
        self._session.wake()

    def wake(self) -> None:
        """Look at once. From any thread."""
        self._session.wake()

    def _put(self, action: Action) -> None:
        self._to_write.answers.put(action)
        self._session.wake()

    # Whoever turns it

    def step(self) -> bool:
        """Look once; False if the database could not be asked."""
        try:
            self._open()
            self._take_up()
            self._claim()
            self._write()
            self._read()
            self._prune()
        except DATABASE_ERRORS as error:
            log.warning("Orders wait for the database: %s", str(error).split("\n")[0])
            self.close()
            return False
        return True

    def rest(self, timeout: float = LOOK_EVERY) -> None:
        """Until there is something to do."""
        try:
            for channel, payload in self._session.wait(timeout):
                self._hear(channel, payload)
        except DATABASE_ERRORS:
            self.close()

    def close(self) -> None:
        self._is_open = False
        self._session.close()

    def leave(self) -> None:
        """What is still to be written, as far as the database takes it."""
        try:
            self._write()
        except DATABASE_ERRORS as error:
            log.warning("Left unsaid: %s", str(error).split("\n")[0])
        self.close()

    def _open(self) -> None:
        if not self._is_open:
            self._session.open()
            self._is_open = self._is_stale = True

    def _take_up(self) -> None:
        """Once: what an earlier recorder left, before anything else is read."""
        if self._has_taken_up:
            return
        self._session.give_back_claimed()
        self._emit(DevicesKnown(self._session.devices()))
        self._emit(take_up(self._session))
        self._has_taken_up = True

    def _hear(self, channel: str, payload: str) -> None:
        try:
            news = json.loads(payload)
        except ValueError:
            return
        about_us = news.get("bench") in (self._bench_id, str(self._bench_id))
        foreign = channel == NEWS and about_us and news.get("by") != RECORDER
        if foreign and news.get("kind") in ("setup", "bench"):
            self._is_stale = True

    def _read(self) -> None:
        if self._is_stale:
            self._emit(DevicesKnown(self._session.devices()))
            self._load_setup()
            self._is_stale = False

    def _load_setup(self) -> None:
        """Load a setup; one that cannot be read is treated as none."""
        self._emit(SetupLoaded(_read("The bench's setup", self._session.active_setup)))

    def _claim(self) -> None:
        """Take all waiting orders, each once: whoever comes later finds them claimed."""
        asked_at = self._clock.monotonic()
        orders = self._session.claim_orders(self._holder)
        if orders:
            self._load_setup_first()
        for order in orders:
            self._hand_over(order, asked_at + order.left_s)

    def _load_setup_first(self) -> None:
        """What was put on the bench just before is known before its orders are carried out."""
        try:
            self._load_setup()
        except DATABASE_ERRORS:  # the orders are claimed: they must be heard all the same
            log.exception("The bench's setup could not be read.")
            self._is_stale = True

    def _hand_over(self, order: ClaimedOrder, deadline: float) -> None:
        """Pass a claimed order on, or refuse it with a reason."""
        if order.kind not in BY_KIND:
            title = f"This recorder knows no order “{order.kind}”."
            self.answer(order.key, OrderState.REFUSED, {"title": title})
            return
        try:
            wanted = read_order(order.kind, order.arguments)
            setup = self._session.setup_of(wanted.setup_revision or 0)
            heard = OrderIn(order.key, wanted, order.requested_at, deadline, setup)
        except Exception as error:
            log.exception("Order %s", order.kind)
            away = isinstance(error, DATABASE_ERRORS)
            hint = "Give it again." if away else str(error).split("\n")[0][:200]
            answer = {"title": "The recorder cannot read the order.", "hint": hint}
            self.answer(order.key, OrderState.REFUSED, answer)
            return
        if wanted.asks_network:
            self._discovery.look(order.key, wanted)
        else:
            self._emit(heard)

    def _write(self) -> None:
        """Each until it is done, or will never be: meanwhile it stays the next one."""
        while action := self._writing or self._next_to_write():
            self._writing = action
            try:
                action()
            except DATABASE_ERRORS as error:
                if will_pass(error):
                    raise
                log.exception("The database refuses for good.")
            except Exception:  # ours: the next ones do not wait behind it
                log.exception("Not written down.")
            self._writing = None

    def _next_to_write(self) -> Action | None:
        if not self._to_write.answers.empty():
            return self._to_write.answers.get()
        if note := self._to_write.take_note():
            label, facts = note
            return lambda: self._session.note_device(label, facts)
        return None

    def _prune(self) -> None:
        if self._clock.monotonic() >= self._prune_at:
            self._prune_at = self._clock.monotonic() + PRUNE_EVERY
            self._session.prune_orders()


def _read(what: str, read: Callable[[], FrozenSetup | None]) -> FrozenSetup | None:
    """None for what a fault of ours, not of the database's, keeps from being read."""
    try:
        return read()
    except DATABASE_ERRORS:
        raise
    except Exception:
        log.exception("%s cannot be read.", what)
        return None
