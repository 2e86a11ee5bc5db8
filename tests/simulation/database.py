"""The stand-in of the database, and reading what was stored in it."""

import itertools
from collections import deque
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from django.db.utils import DataError, OperationalError
from yoke_core.streaming.envelope import Envelope
from yoke_server.bench.models import OrderState
from yoke_server.record.envelopes import unpack
from yoke_server.record.models import FOLLOWING, RunState
from yoke_server.record.recorder.model import events

from tests.simulation.virtual import PER_BLOCK, RAIL

if TYPE_CHECKING:
    from tests.simulation.stage import Stage


@dataclass(eq=False)
class StoredStream:
    label: str
    blocks: list = field(default_factory=list)  # BlockValues in order
    segments: list = field(default_factory=list)
    envelope: dict = field(default_factory=dict)
    written: deque = field(default_factory=deque)  # (time, undo)

    @property
    def samples(self) -> int:
        return sum(b[2] for b in self.blocks)


@dataclass(eq=False)
class StoredRun:
    order_key: str
    start_ns: int
    state: str = RunState.RECORDING
    why: str = ""
    streams: dict[str, int] = field(default_factory=dict)
    seals: dict[int, bytes] = field(default_factory=dict)


class StandInDatabase:
    """Keeps rows as PostgreSQL does; goes away, loses answers, crashes, refuses for good."""

    def __init__(self, stage: "Stage") -> None:
        self.stage = stage
        self.away = False
        self.lose_answers = 0
        self.refuse_runs: set[int] = set()
        self.runs: dict[int, StoredRun] = {}
        self.streams: dict[int, StoredStream] = {}
        self._ids = itertools.count(1)
        self.connected = False

    def connect(self) -> bool:
        self._need()
        self.connected = True
        return True

    def disconnect(self) -> None:
        self.connected = False

    def leave(self) -> None:
        self.connected = False

    def _need(self) -> None:
        if self.away:
            raise OperationalError("the database is away")

    def _need_connection(self) -> None:
        self._need()
        if not self.connected:
            raise OperationalError("the connection is lost")

    def _answer(self) -> None:
        if self.lose_answers > 0:
            self.lose_answers -= 1
            self.connected = False
            raise OperationalError("server closed the connection unexpectedly")

    def write(self, work, again=False) -> None:
        self._need_connection()
        if any(w.run_id in self.refuse_runs for w in work):
            raise DataError("value too long") from _Refusal()
        for w in work:
            self._store(w, again)
        self._answer()

    def write_again(self, work) -> None:
        self.write(work, again=True)

    def _store(self, work, again: bool) -> None:
        stream = self.streams[work.stream_id]
        if work.block[1] < stream.samples:
            assert again, "the same rows written twice, and not known to be a repetition"
            return
        assert work.block[1] == stream.samples, "a hole between the rows of a stream"
        stream.blocks.append(work.block)
        stream.segments += [s for s in work.segments if s not in stream.segments]
        for row in work.envelope:
            stream.envelope.setdefault((row[1], row[2]), row)
        stream.written.append((self.stage.clock.now, work))

    def begin(self, plan) -> events.Event:
        self._need_connection()
        known = [i for i, r in self.runs.items() if r.order_key == plan.order_key]
        if not known and plan.cancelled:
            return events.NotBegun(plan.order_key, plan.cancelled)
        if not known:
            order = self.stage.orders[plan.order_key]
            late = order.expires <= self.stage.clock.now
            if order.state != OrderState.CLAIMED or late:
                return events.NotBegun(plan.order_key, "given up")
            order.state = OrderState.DONE
            run_id = next(self._ids)
            self.runs[run_id] = StoredRun(plan.order_key, plan.start_ns)
            for label in plan.channels:
                stream_id = next(self._ids)
                self.streams[stream_id] = StoredStream(label)
                self.runs[run_id].streams[label] = stream_id
            known = [run_id]
        self.put_on_disk()
        self._answer()
        run = self.runs[known[0]]
        return events.Began(plan.order_key, known[0], f"run {known[0]}", dict(run.streams))

    def close(self, work) -> None:
        self._need_connection()
        run = self.runs[work.run_id]
        if work.state in FOLLOWING[run.state]:
            run.state, run.why = work.state, work.why
            for closed in work.streams:
                stored = self.streams[closed.stream_id]
                run.seals[closed.stream_id] = closed.chain
                for row in closed.envelope:
                    assert stored.envelope.setdefault((row[1], row[2]), row) is row
                if work.run_id not in self.refuse_runs:
                    assert stored.samples == closed.samples, "closed with samples missing"
        self.put_on_disk()
        self._answer()

    def put_on_disk(self) -> None:
        """What waits for the disk takes along all that was written before."""
        for stream in self.streams.values():
            stream.written.clear()

    def crash(self) -> None:
        """The server loses at most its last half second of what did not wait for the disk."""
        self.connected = False
        lost_from = self.stage.clock.now - 0.5
        for stream in self.streams.values():
            while stream.written and stream.written[-1][0] > lost_from:
                _, work = stream.written.pop()
                assert stream.blocks.pop() == work.block
                for row in work.envelope:
                    stream.envelope.pop((row[1], row[2]), None)
                stream.segments = [s for s in stream.segments if s not in work.segments]

    def open_run(self) -> tuple[int, StoredRun] | None:
        return next(((i, r) for i, r in self.runs.items() if r.state == RunState.RECORDING), None)


class _Refusal(Exception):
    sqlstate = "22001"


# Reading what was stored


def channels_of(stream: StoredStream) -> int:
    return 2 if stream.label == "A1" else 1


def data_of(stream: StoredStream) -> np.ndarray:
    parts = [np.frombuffer(b[7], "<f4").reshape(-1, b[2]) for b in stream.blocks]
    return np.concatenate([np.empty((channels_of(stream), 0), np.float32), *parts], axis=1)


def stored_pairs(stream: StoredStream, level: int, first: int) -> Envelope:
    rows = sorted((k[1], r) for k, r in stream.envelope.items() if k[0] == level and k[1] >= first)
    found = [unpack(row[4], row[3]) for _, row in rows]
    none = np.empty((channels_of(stream), 0), np.float32)
    return Envelope(
        np.concatenate([none, *(f.low for f in found)], axis=1),
        np.concatenate([none, *(f.high for f in found)], axis=1),
    )


def sequences_of(stream: StoredStream) -> list[int]:
    """Which of the device's blocks are stored, from what their samples say."""
    places = data_of(stream)[-1] * (RAIL / np.float64(np.float32(8e-3)))
    numbers = np.rint(places).astype(int)
    assert len(numbers) % PER_BLOCK == 0, "a block is stored in part"
    blocks = numbers.reshape(-1, PER_BLOCK)
    assert (np.diff(blocks, axis=1) == 1).all(), "samples of a block are mixed up"
    return list(blocks[:, 0] // PER_BLOCK)
