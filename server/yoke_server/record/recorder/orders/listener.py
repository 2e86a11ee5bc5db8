"""The order listener: orders in, answers and facts about devices out, on a connection of its own.

Samples may wait for the database; a person who wants to stop does not wait behind them.
"""

import json
import logging
import queue
import threading
from collections import deque
from collections.abc import Callable
from datetime import datetime
from typing import Any, TypeVar

import psycopg
from django.db import Error, connection, transaction

from yoke_server.bench.models import Bench, Device, Order, OrderState
from yoke_server.common.notify import ANSWERS, COMMAND, NEWS, RECORDER, notify
from yoke_server.common.statement import run
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    Address,
    DevicesKnown,
    Event,
    OpenRunFound,
    OrderIn,
    SetupLoaded,
)
from yoke_server.record.recorder.orders.discovery import DeviceDiscovery
from yoke_server.record.recorder.orders.wakeup import WakeupEvent
from yoke_server.record.recorder.storage.resume import resume_stream
from yoke_server.record.store import put_on_disk, will_pass
from yoke_server.wire.document import FrozenSetup, read_document
from yoke_server.wire.freezing import freeze
from yoke_server.wire.models import SetupRevision

log = logging.getLogger(__name__)

LOOK_EVERY = 1.0  # s, should a notification have been lost; also how the database's absence shows
RETRY = 0.5  # s
STOPS = ("stop", "emergency")  # these wait for nothing
LOOKING = ("find", "try")  # these ask about the network, not the bench: no run minds them
WAITING_SQL = "SELECT 1 FROM bench_order WHERE bench_id = $1 AND state = 'waiting' LIMIT 1"
CLAIM_SQL = """
UPDATE bench_order SET state = 'claimed' WHERE bench_id = %s AND state = 'waiting'
RETURNING key, kind, arguments, expires_at, issued_at
"""
STOPS_SQL = """
SELECT key, kind, arguments, expires_at FROM bench_order
WHERE bench_id = %s AND state = 'claimed' AND kind = ANY(%s) ORDER BY issued_at
"""
PRUNE_SQL = """
DELETE FROM bench_order WHERE bench_id = %s AND issued_at < now() - interval '1 day'
"""
PRUNE_EVERY = 3600.0  # s
Deed = Callable[[], None]
T = TypeVar("T")


class OrderListener(threading.Thread):
    """`heard_at` is when the database last answered: beyond it no order can come."""

    def __init__(self, bench_id: int, clock: Clock, emit: Callable[[Event], None]) -> None:
        super().__init__(name=f"listener-{bench_id}", daemon=True)
        self._bench_id = bench_id
        self._clock = clock
        self._emit = emit
        self._ending = threading.Event()
        self._deeds: queue.SimpleQueue[Deed] = queue.SimpleQueue()
        self._doing: Deed | None = None
        self._bell = WakeupEvent()
        self._stale = True  # the setup must be read anew
        self._open_run_sought = False
        self._stops_heard: deque[str] = deque(maxlen=100)  # their keys
        self._prune_at = 0.0
        self._scout = DeviceDiscovery(self.answer)
        self.heard_at = clock.monotonic()

    def finish(self) -> None:
        self._ending.set()
        self._bell.ring()
        self.join(timeout=5)

    # From the runner's thread: what must be written, in order, however long it takes

    def answer(self, key: str, state: OrderState, answer: dict[str, Any]) -> None:
        """Only a claimed order is answered: one that was given up stays so."""

        def deed() -> None:
            claimed = Order.objects.filter(pk=key, state=OrderState.CLAIMED)
            with transaction.atomic():
                claimed.update(state=state, answer=answer)
                notify(ANSWERS, order=key)

        self._do(deed)

    def note(self, label: str, **facts: Any) -> None:
        """What a device says of itself, or what is wrong with it; news if it is new."""

        def deed() -> None:
            device = Device.objects.filter(bench_id=self._bench_id, label=label)
            before = device.values(*facts).first()
            if before is not None and before != facts:
                with transaction.atomic():
                    device.update(**facts)
                    notify(NEWS, kind="bench", bench=self._bench_id, by=RECORDER)

        self._do(deed)

    def _do(self, deed: Deed) -> None:
        self._deeds.put(deed)
        self._bell.ring()

    def load_setup(self) -> None:
        self._stale = True
        self._bell.ring()

    # The thread

    def run(self) -> None:
        while not self._ending.is_set():
            try:
                self._listen()
            except (Error, psycopg.Error) as error:
                log.warning(
                    "The order listener waits for the database: %s", str(error).split("\n")[0]
                )
                connection.close()
                self._ending.wait(RETRY)
            except Exception:  # ours; without a listener nobody could stop what moves
                log.exception("The order listener begins anew.")
                self._ending.wait(RETRY)
        self._last_words()
        connection.close()

    def _last_words(self) -> None:
        try:
            self._do_deeds()
        except (Error, psycopg.Error) as error:
            log.warning("Left unsaid: %s", str(error).split("\n")[0])

    def _listen(self) -> None:
        connection.ensure_connection()
        with connection.cursor() as cursor:
            cursor.execute(f"LISTEN {COMMAND}")
            cursor.execute(f"LISTEN {NEWS}")
        self._stale = True
        if self._open_run_sought:
            self._hear_stops_again()
        while not self._ending.is_set():
            self._look()
            for notice in self._bell.wait(connection.connection, LOOK_EVERY):
                self._hear(notice.channel, notice.payload)

    def _hear(self, channel: str, payload: str) -> None:
        try:
            news = json.loads(payload)
        except ValueError:
            return
        about_us = news.get("bench") in (self._bench_id, str(self._bench_id))
        foreign = channel == NEWS and about_us and news.get("by") != RECORDER
        if foreign and news.get("kind") in ("setup", "bench"):
            self._stale = True

    def _look(self) -> None:
        if self._open_run_sought:
            self._claim()
        self.heard_at = self._clock.monotonic()
        self._do_deeds()
        if self._stale:
            self._stale = False
            self._emit(DevicesKnown(self._devices()))
            self._load_setup()
        if not self._open_run_sought:
            give_back_claimed(self._bench_id)
            # One that cannot be read stays as it is: the bench goes on, and obeys who stops it.
            if found := _read("The run that is open", self._open_run):
                self._emit(found)
            self._open_run_sought = True
        if self._clock.monotonic() >= self._prune_at:
            self._prune_at = self._clock.monotonic() + PRUNE_EVERY
            with connection.cursor() as cursor:
                cursor.execute(PRUNE_SQL, [self._bench_id])

    def _claim(self) -> None:
        """Take all waiting orders, each once: whoever comes later finds them claimed."""
        if not run(WAITING_SQL, self._bench_id).ntuples:
            return
        with connection.cursor() as cursor:
            cursor.execute(CLAIM_SQL, [self._bench_id])
            rows = cursor.fetchall()
        if any(kind not in STOPS for _, kind, *_ in rows):
            self._load_setup_first()
        for row in sorted(rows, key=lambda r: r[4]):
            self._hand_over(*row[:4])

    def _hear_stops_again(self) -> None:
        """A link may have broken after it claimed a stop and before it said so. Of other orders
        none is begun with so late: who gave them is told that nobody took them."""
        with connection.cursor() as cursor:
            cursor.execute(STOPS_SQL, [self._bench_id, list(STOPS)])
            rows = cursor.fetchall()
        for row in rows:
            if str(row[0]) not in self._stops_heard:
                self._hand_over(*row)

    def _hand_over(self, key: Any, kind: str, arguments: Any, expires_at: datetime) -> None:
        """An order that is claimed is heard or refused, whatever is wrong with it or the database:
        a stop may wait behind it."""
        try:
            known = json.loads(arguments) if isinstance(arguments, str) else arguments
            order = OrderIn(str(key), kind, known, expires_at, self._setup_of(kind, known))
        except Exception as error:
            log.exception("Order %s", kind)
            away = isinstance(error, Error | psycopg.Error)
            hint = "Give it again." if away else str(error).split("\n")[0][:200]
            answer = {"title": "The recorder cannot read the order.", "hint": hint}
            self.answer(str(key), OrderState.REFUSED, answer)
            return
        if kind in STOPS:
            self._stops_heard.append(order.key)
        if kind in LOOKING:
            self._scout.look(order.key, kind, known)
        else:
            self._emit(order)

    def _load_setup(self) -> None:
        """One that cannot be read is none: the bench goes on without it."""
        self._emit(SetupLoaded(_read("The bench's setup", self._active_setup)))

    def _load_setup_first(self) -> None:
        """What was put on the bench just before is known before its orders are carried out."""
        try:
            self._load_setup()
        except (Error, psycopg.Error):  # the orders are claimed: they must be heard all the same
            log.exception("The bench's setup could not be read.")
            self._stale = True

    def _setup_of(self, kind: str, arguments: dict[str, Any]) -> FrozenSetup | None:
        """What an order is about; a stop is about none, and asks the database nothing."""
        if kind in STOPS:
            return None
        revision = SetupRevision.objects.filter(pk=int(arguments.get("revision") or 0)).first()
        return read_document(revision.document).as_recorded if revision else None

    def _do_deeds(self) -> None:
        """Each until it is done, or will never be: meanwhile it stays the next one."""
        while self._doing or not self._deeds.empty():
            self._doing = self._doing or self._deeds.get()
            try:
                self._doing()
            except (Error, psycopg.Error) as error:
                if will_pass(error):
                    raise
                log.exception("The database refuses for good.")
            except Exception:  # ours: the next ones do not wait behind it
                log.exception("Not written down.")
            self._doing = None

    def _devices(self) -> dict[str, Address]:
        rows = Device.objects.filter(bench_id=self._bench_id)
        return {d.label: Address(d.driver, d.host, d.port) for d in rows}

    def _active_setup(self) -> FrozenSetup | None:
        bench = Bench.objects.select_related("active_setup__project", "active_setup__bench").get(
            pk=self._bench_id
        )
        return freeze(bench.active_setup) if bench.active_setup else None

    def _open_run(self) -> OpenRunFound | None:
        run = (
            Run.objects.filter(setup__bench_id=self._bench_id, state__in=OPEN_STATES)
            .select_related("revision")
            .first()
        )
        if run is None:
            return None
        put_on_disk()  # what is read here and gone on from must not be lost in a crash any more
        streams = {s.device_label: resume_stream(s) for s in run.streams.all()}
        setup = read_document(run.revision.document).as_recorded
        return OpenRunFound(run.pk, run.name, setup, run.start_ns, streams)


def _read(what: str, read: Callable[[], T | None]) -> T | None:
    """None for what a fault of ours, not of the database's, keeps from being read."""
    try:
        return read()
    except (Error, psycopg.Error):
        raise
    except Exception:
        log.exception("%s cannot be read.", what)
        return None


def give_back_claimed(bench_id: int) -> None:
    """Orders that a dead recorder had claimed are refused: what was ordered then is past."""
    Order.objects.filter(bench_id=bench_id, state=OrderState.CLAIMED).update(
        state=OrderState.REFUSED,
        answer={"title": "The recorder was started anew.", "hint": "Give the order again."},
    )
