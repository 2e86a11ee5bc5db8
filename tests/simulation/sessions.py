"""The recorder's sessions on the stand-in of the server (record/recorder/storage/sessions.py)."""

import json
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from django.db.utils import DataError, OperationalError
from yoke_core.streaming.envelope import Envelope
from yoke_server.bench.models import OrderState
from yoke_server.bench.stops import StopRequested
from yoke_server.common.db.notify import NEWS
from yoke_server.record.envelopes import unpack
from yoke_server.record.models import OPEN_STATES, Layout
from yoke_server.record.recorder.model.events import Address, Began
from yoke_server.record.recorder.model.progress import read_progress
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.storage.sessions import (
    ClaimedOrder,
    LastRow,
    SignOfLife,
    StoredRun,
    StoredStream,
)

from tests.simulation.scheduler import Signal
from tests.simulation.server import OrderRow, RunRow, StandInServer, StopRow, StreamRow, Undo


class _Refusal(Exception):
    sqlstate = "22001"


class StandInSession:
    """A connection: each method is one way to the server and back."""

    def __init__(self, server: StandInServer, addresses: dict[str, Address]) -> None:
        self.server = server
        self._addresses = addresses
        self._open = False
        self._broken = False
        self._undo: list[Undo] | None = None  # of the transaction that is open
        self._heard: deque[tuple[str, Any]] = deque()
        self._signal = Signal(server.scheduler)
        self.listens_to: tuple[str, ...] = ()
        self.waits_for_disk = True

    # The connection

    def open(self) -> None:
        if self._open and not self._broken:
            return
        self.server.travel()
        self._open, self._broken = True, False
        self._heard.clear()
        self.server.sessions.add(self)

    def close(self) -> None:
        self._open = False
        self.server.sessions.discard(self)
        if self.server.lock_holder is self:
            self.server.lock_holder = None

    def drop(self) -> None:
        """The connection breaks; its client sees that when it next says something."""
        self._broken = True
        self._signal.set()
        self.server.sessions.discard(self)
        if self.server.lock_holder is self and not self.server.keeps_dead_sessions:
            self.server.lock_holder = None

    def _go(self, *, lock: str = "", timeout: float = 1e9) -> None:
        self.server.travel()
        if lock:
            self.server.wait_for_lock(lock, timeout)
        if not self._open or self._broken:
            self.drop()
            raise OperationalError("the connection is lost")

    def _write(self, *undo: Undo, lock: str = "") -> None:
        """After a change that is part of a transaction, or one by itself."""
        if self._undo is not None:
            self._undo += undo
        else:
            self._commit(list(undo))

    def _may_write(self, *, lock: str = "", timeout: float = 1e9) -> None:
        self._go(lock=lock, timeout=timeout)
        self.server.require_writable()

    def _commit(self, undo: list[Undo]) -> None:
        self.server.commit(undo, durable=self.waits_for_disk)
        self._answer()

    def _answer(self) -> None:
        if self.server.lose_answers > 0:
            self.server.lose_answers -= 1
            self.drop()
            raise OperationalError("server closed the connection unexpectedly")

    @contextmanager
    def transaction(self) -> Iterator[None]:
        self._undo, waits = [], self.waits_for_disk
        try:
            yield
        except BaseException:
            for step in reversed(self._undo or []):
                step()
            self._undo = None
            raise
        undo, self._undo, self.waits_for_disk = self._undo, None, True
        try:
            if self._broken:
                for step in reversed(undo):
                    step()
                raise OperationalError("the connection is lost")
            self._commit(undo)
        finally:
            self.waits_for_disk = waits

    # News

    def hear(self, channel: str, payload: Any) -> None:
        if channel in self.listens_to:
            self._heard.append((channel, payload))
            self._signal.set()

    def wake(self) -> None:
        self._signal.set()

    def _wait(self, timeout: float) -> list[tuple[str, Any]]:
        self._signal.wait(timeout)
        found = list(self._heard)
        self._heard.clear()
        if self._broken and not found:
            raise OperationalError("the connection is lost")
        return found


class StandInRuns(StandInSession):
    """Beginning and ending runs."""

    def find_run(self, order_key: str) -> Began | None:
        self._go()
        for run_id, run in self.server.runs.items():
            if run.order_key == order_key:
                return Began(order_key, run_id, f"run {run_id}", dict(run.streams))
        return None

    def finish_order(self, order_key: str) -> bool:
        self._may_write(lock=f"order {order_key}")
        order = self.server.orders[order_key]
        stops = [r.stop.requested_at for r in self.server.stops.values()]
        if any(at >= order.requested_at for at in stops):
            return False
        if order.state != OrderState.CLAIMED or order.expires_at <= self.server.utc():
            return False
        order.state = OrderState.DONE
        self._write(lambda: setattr(order, "state", OrderState.CLAIMED))
        return True

    def add_run(self, plan: Any) -> int:
        run_id = next(self.server.ids)
        setup = self.server.revisions[plan.revision_id - 1]
        self.server.runs[run_id] = RunRow(plan.order_key, plan.start_ns, setup, is_dry=plan.is_dry)
        self._write(lambda: self.server.runs.pop(run_id))
        return run_id

    def add_stream(self, run_id: int, plan: Any) -> None:
        stream_id, run = next(self.server.ids), self.server.runs[run_id]
        is_timed, name = plan.layout == Layout.TIMED, (plan.device, plan.rule)
        self.server.streams[stream_id] = StreamRow(*name, is_timed, plan.beginning)
        run.streams[name] = stream_id
        self._write(lambda: (self.server.streams.pop(stream_id), run.streams.pop(name)))

    def add_computed(self, run_id: int) -> None:
        """Nothing is computed here."""

    def announce_run(self, run_id: int, order_key: str) -> None:
        order = self.server.orders[order_key]
        order.answer = {"run": run_id}
        self._write(lambda: setattr(order, "answer", {}))

    def add_mark(self, mark: Any) -> None:
        run = self.server.runs[mark.run_id]
        before, known, began = dict(run.progress), dict(run.markers), run.start_ns
        run.start_ns = began if mark.start_ns is None else mark.start_ns
        run.progress |= json.loads(mark.progress or "{}")
        if mark.text:
            run.markers.setdefault(mark.key, mark)

        def undo() -> None:
            run.progress, run.markers, run.start_ns = before, known, began

        self._write(undo)

    def lock_run(self, run_id: int) -> str | None:
        self._may_write(lock=f"run {run_id}")
        run = self.server.runs.get(run_id)
        return run.state if run else None

    def end_stream(self, closed: Any) -> None:
        stream = self.server.streams[closed.stream_id]
        added = [row for row in closed.envelope if (row[1], row[2]) not in stream.envelope]
        assert len(added) == len(closed.envelope), "an envelope row twice"
        for row in added:
            stream.envelope[row[1], row[2]] = row
        stream.seal, stream.closed_samples = closed.chain, closed.samples

        def undo() -> None:
            for row in added:
                stream.envelope.pop((row[1], row[2]), None)
            stream.seal = stream.closed_samples = None

        self._write(undo)

    def end_run(self, work: Any, seal: str) -> None:
        run = self.server.runs[work.run_id]
        run.state, run.why, run.ended_at = work.state, work.why, self.server.scheduler.clock.now
        self._write(lambda: setattr(run, "state", OPEN_STATES[0]))
        if work.stop:
            self._keep(work.stop)

    def _keep(self, stop: StopRequested) -> None:
        self.server.stops.setdefault(stop.key, StopRow(stop))
        self._write(lambda: None)  # a stop that is kept may as well stay


class StandInStore(StandInRuns):
    """The writer's."""

    waits = False

    def open(self) -> None:
        super().open()
        self.waits_for_disk = False

    def try_lock(self) -> bool:
        self._go()
        if self.server.lock_holder not in (None, self):
            return False
        self.server.lock_holder = self
        return True

    def unlock(self) -> None:
        self._go()
        if self.server.lock_holder is self:
            self.server.lock_holder = None

    def end_lock_holder(self) -> None:
        self._go()
        if holder := self.server.lock_holder:
            self.server.lock_holder = None
            holder.drop()

    def sign_of_life(self) -> SignOfLife | None:
        self._go()
        if self.server.sign is None:
            return None
        holder, at = self.server.sign
        return SignOfLife(holder, self.server.scheduler.clock.now - at)

    def take_bench(self, holder: str) -> None:
        self._may_write()
        self.server.sign = holder, self.server.scheduler.clock.now
        self._write()

    def leave_bench(self, holder: str) -> None:
        self._may_write()
        if self.server.sign and self.server.sign[0] == holder:
            self.server.sign = None
        self._write()

    def add_row(self, row: Any) -> bool:
        self._may_write(lock="blocks")
        if row.run_id in self.server.refused_runs or row.run_id not in self.server.runs:
            raise DataError("value too long") from _Refusal()
        stream, run = self.server.streams[row.stream_id], self.server.runs[row.run_id]
        if row.first_sample != stream.samples:
            return False
        stream.blocks.append(row.block)
        stream.segments += row.segments
        for values in row.envelope:
            stream.envelope[values[1], values[2]] = values
        before = dict(run.progress)
        run.progress |= read_json(row.progress)

        def undo() -> None:
            stream.blocks.pop()
            del stream.segments[len(stream.segments) - len(row.segments) :]
            for values in row.envelope:
                stream.envelope.pop((values[1], values[2]), None)
            run.progress = before

        self._write(undo)
        return True

    def end_of(self, stream_id: int) -> int:
        self._go()
        return self.server.streams[stream_id].samples

    def log_positions(self) -> tuple[int, int]:
        self._go()
        return self.server.position, self.server.flushed

    def put_on_disk(self) -> None:
        self._may_write()
        self.server.flush()


def read_json(text: str) -> dict[str, Any]:
    import json

    return json.loads(text) if text else {}


class StandInOrders(StandInRuns):
    """The order listener's."""

    def open(self) -> None:
        super().open()
        self.listens_to = (NEWS,)

    def wait(self, timeout: float) -> list[tuple[str, str]]:
        return self._wait(timeout)

    def claim_orders(self, holder: str) -> list[ClaimedOrder]:
        self._may_write()
        if self.server.sign is None or self.server.sign[0] != holder:
            return []
        rows = [
            o
            for o in self.server.orders.values()
            if o.state == OrderState.WAITING and not self.server.is_locked(f"order {o.key}")
        ]
        for order in rows:
            order.state = OrderState.CLAIMED
        found = [self._claimed(o) for o in sorted(rows, key=lambda o: o.requested_at)]
        self._write()
        return found

    def _claimed(self, order: OrderRow) -> ClaimedOrder:
        left = (order.expires_at - self.server.utc()).total_seconds()
        return ClaimedOrder(order.key, order.kind, order.arguments, order.requested_at, left)

    def give_back_claimed(self) -> None:
        self._may_write()
        for order in self.server.orders.values():
            if order.state == OrderState.CLAIMED:
                order.state = OrderState.REFUSED
                order.answer = {"title": "The recorder restarted."}
        self._write()

    def answer_order(self, key: str, state: OrderState, answer: dict[str, Any]) -> None:
        self._may_write(lock=f"order {key}")
        order = self.server.orders[key]
        if order.state == OrderState.CLAIMED:
            order.state, order.answer = state, answer
        self._write()

    def release_stops(self, key: str) -> None:
        self._may_write()
        order = self.server.orders[key]
        for row in self.server.stops.values():
            if row.stop.emergency and row.stop.requested_at <= order.requested_at:
                row.released = True
        if order.state == OrderState.CLAIMED:
            order.state = OrderState.DONE
        self._write()

    def note_device(self, label: str, facts: dict[str, Any]) -> None:
        self._may_write()

    def devices(self) -> dict[str, Address]:
        self._go()
        return dict(self._addresses)

    def active_setup(self) -> Any:
        self._go()
        return self.server.setup

    def setup_of(self, revision_id: int) -> Any:
        self._go()
        return self.server.revisions[revision_id - 1] if revision_id else None

    def open_run(self) -> StoredRun | None:
        self._go()
        open_runs = self.server.open_runs()
        if not open_runs:
            return None
        run_id = open_runs[-1]
        run = self.server.runs[run_id]
        rows = {key: self.server.streams[key] for key in run.streams.values()}
        streams = [
            StoredStream(key, s.label, s.rule, planes_of(s), s.beginning, bytes_of(s))
            for key, s in rows.items()
        ]
        return StoredRun(run_id, f"run {run_id}", run.start_ns, streams, run.is_dry)

    def setup_of_run(self, run_id: int) -> Any:
        self._go()
        if run_id in self.server.damaged_runs:
            raise ValueError("a document of nobody's")
        return self.server.runs[run_id].setup

    def progress_of(self, run_id: int) -> Any:
        self._go()
        return read_progress(self.server.runs[run_id].progress)

    def last_row(self, stream_id: int) -> LastRow | None:
        self._go()
        stream = self.server.streams[stream_id]
        if not stream.blocks:
            return None
        last = stream.blocks[-1]
        return LastRow(last[1] + last[2], last[3], last[6])

    def last_segment(self, stream_id: int) -> PlacedSegment | None:
        self._go()
        segments = self.server.streams[stream_id].segments
        return PlacedSegment(*segments[-1][1:8]) if segments else None

    def envelope_end(self, stream_id: int, level: int) -> int:
        rows = self.server.streams[stream_id].envelope
        return max((k[1] + r[3] for k, r in rows.items() if k[0] == level), default=0)

    def read_envelope(self, stream_id: int, level: int, first: int, channels: int) -> Envelope:
        return stored_pairs(self.server.streams[stream_id], level, first)

    def read_samples(self, stream_id: int, first: int, last: int, channels: int) -> Any:
        return data_of(self.server.streams[stream_id])[:, first:last]

    def add_envelope_rows(self, rows: Any) -> None:
        if not rows:
            return
        self._may_write()
        for row in rows:
            self.server.streams[row[0]].envelope[row[1], row[2]] = row
        self._write()

    def put_on_disk(self) -> None:
        self._may_write()
        self.server.flush()

    def prune_orders(self) -> None: ...


class StandInStops(StandInSession):
    """The stop listener's."""

    def open(self) -> None:
        super().open()
        self.listens_to = ("stops",)

    def wait(self, timeout: float) -> list[StopRequested]:
        return [stop for _, stop in self._wait(timeout)]

    def standing_stops(self) -> list[tuple[StopRequested, bool]]:
        self._go()
        rows = [
            r
            for r in self.server.stops.values()
            if not r.confirmed or (r.stop.emergency and not r.released)
        ]
        return [(r.stop, r.confirmed) for r in sorted(rows, key=lambda r: r.stop.requested_at)]

    def tell(self, key: str, problem: str) -> None:
        self._go()
        self.server.notify("answers", (key, problem))

    def ping(self) -> None:
        self._go()


class StandInSigns(StandInRuns):
    """The life sign's."""

    def sign(self, holder: str) -> bool:
        self._may_write(lock="sign", timeout=3.0)
        if self.server.sign is None or self.server.sign[0] != holder:
            return False
        self.server.sign = holder, self.server.scheduler.clock.now
        self._write()
        return True

    def keep_stop(self, stop: StopRequested, problem: str) -> None:
        self._may_write(lock="stops", timeout=3.0)
        self._keep(stop)
        self.server.stops[stop.key].confirmed = True
        self.server.stops[stop.key].problem = problem


# Reading what was stored


def channels_of(label: str) -> int:
    return 2 if label == "A1" else 1


def planes_of(stream: StreamRow) -> int:
    return channels_of(stream.label) + stream.is_timed


def bytes_of(stream: StreamRow) -> int:
    return 8 if stream.is_timed else 4


def data_of(stream: StreamRow) -> Any:
    kind = f"<f{bytes_of(stream)}"
    parts = [np.frombuffer(b[7], kind).reshape(-1, b[2]) for b in stream.blocks]
    return np.concatenate([np.empty((planes_of(stream), 0), kind), *parts], axis=1)


def stored_pairs(stream: StreamRow, level: int, first: int) -> Envelope:
    rows = sorted((k[1], r) for k, r in stream.envelope.items() if k[0] == level and k[1] >= first)
    found = [unpack(row[4], row[3]) for _, row in rows]
    none = np.empty((planes_of(stream), 0), np.float32)
    return Envelope(
        np.concatenate([none, *(f.low for f in found)], axis=1),
        np.concatenate([none, *(f.high for f in found)], axis=1),
    )
