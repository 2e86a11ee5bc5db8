"""The order listener's session on PostgreSQL."""

import json
from collections.abc import Sequence

import numpy as np
from django.db import connection, transaction
from yoke_core.arrays import Signals
from yoke_core.streaming.envelope import Envelope

from yoke_server.bench.models import Device, Order, OrderState, StopRequest
from yoke_server.bench.statements import CLAIM_ORDERS, PRUNE_ORDERS
from yoke_server.common.clock import clock_timestamp
from yoke_server.common.db.notify import ANSWERS, COMMAND, NEWS, RECORDER, notify
from yoke_server.record import samples, store
from yoke_server.record.envelopes import EnvelopeValues, unpack
from yoke_server.record.models import OPEN_STATES, Layout, Run, RunProgress, Stream
from yoke_server.record.recorder.model import progress
from yoke_server.record.recorder.model.events import Address
from yoke_server.record.recorder.model.progress import Place, StreamOrigin
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.postgres.session import ListeningSession
from yoke_server.record.recorder.storage.sessions import (
    ClaimedOrder,
    LastRow,
    StoredRun,
    StoredStream,
)
from yoke_server.setups.document import FrozenSetup, read_document
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup, SetupRevision

ENVELOPE_END_SQL = """
SELECT first_pair + pairs FROM record_enveloperow WHERE stream_id = %s AND level = %s
ORDER BY first_pair DESC LIMIT 1
"""
ANEW = {"title": "The recorder restarted.", "hint": "Send the command again."}


class PostgresOrders(ListeningSession, PostgresRuns):
    """Orders, devices, setups, and what an earlier recorder left."""

    channels = (COMMAND, NEWS)

    def wait(self, timeout: float) -> list[tuple[str, str]]:
        """Channel and payload of what was told meanwhile; back at once when it is woken."""
        return [(notice.channel, notice.payload) for notice in self.notices(timeout)]

    def claim_orders(self, holder: str) -> list[ClaimedOrder]:
        with connection.cursor() as cursor:
            cursor.execute(CLAIM_ORDERS, [self._bench_id, self._bench_id, holder])
            rows = cursor.fetchall()
        return [
            ClaimedOrder(str(key), kind, json.loads(arguments), requested_at, left_s)
            for key, kind, arguments, requested_at, left_s in sorted(rows, key=lambda r: r[3])
        ]

    def give_back_claimed(self) -> None:
        claimed = Order.objects.filter(bench_id=self._bench_id, state=OrderState.CLAIMED)
        claimed.update(state=OrderState.REFUSED, answer=ANEW)

    def answer_order(self, key: str, state: OrderState, answer: dict[str, object]) -> None:
        with transaction.atomic():
            claimed = Order.objects.filter(pk=key, state=OrderState.CLAIMED)
            claimed.update(state=state, answer=answer)
            notify(ANSWERS, order=key)

    def release_stops(self, key: str) -> None:
        with self.transaction():
            order = Order.objects.get(pk=key)
            StopRequest.objects.filter(
                bench_id=self._bench_id,
                emergency=True,
                released_at=None,
                requested_at__lte=order.requested_at,
            ).update(released_at=clock_timestamp())
            self.answer_order(key, OrderState.DONE, {})

    def note_device(self, label: str, facts: dict[str, object]) -> None:
        """News if it is new."""
        device = Device.objects.filter(bench_id=self._bench_id, label=label)
        before = device.values(*facts).first()
        if before is not None and before != facts:
            with transaction.atomic():
                device.update(**facts)
                notify(NEWS, kind="bench", bench=self._bench_id, by=RECORDER)

    def devices(self) -> dict[str, Address]:
        rows = Device.objects.filter(bench_id=self._bench_id)
        return {d.label: Address(d.driver, d.host, d.port) for d in rows}

    def active_setup(self) -> FrozenSetup | None:
        of_bench = Setup.objects.filter(on_bench=self._bench_id)
        setup = of_bench.select_related("project", "bench").first()
        return freeze(setup) if setup else None

    def setup_of(self, revision_id: int) -> FrozenSetup | None:
        revision = SetupRevision.objects.filter(pk=revision_id).first()
        return read_document(revision.document).as_recorded if revision else None

    # What an earlier recorder left

    def open_run(self) -> StoredRun | None:
        runs = Run.objects.filter(setup__bench_id=self._bench_id, state__in=OPEN_STATES)
        run = runs.order_by("-pk").first()
        if run is None:
            return None
        streams = [
            StoredStream(
                s.pk,
                s.device_label,
                s.rule,
                s.channels.count() + (s.layout == Layout.TIMED),
                StreamOrigin(
                    Place(_number(s.first_acquisition), _number(s.first_sequence)),
                    s.first_device_ns or 0,
                    s.first_bench_ns or run.start_ns,
                ),
                s.sample_bytes,
            )
            for s in run.streams.all()
        ]
        return StoredRun(run.pk, run.name, run.start_ns, streams, run.is_dry)

    def setup_of_run(self, run_id: int) -> FrozenSetup:
        run = Run.objects.select_related("revision").get(pk=run_id)
        return read_document(run.revision.document).as_recorded

    def progress_of(self, run_id: int) -> progress.RunProgress:
        row = RunProgress.objects.filter(run_id=run_id).first()
        return progress.read_progress(row.reached if row else {})

    def last_row(self, stream_id: int) -> LastRow | None:
        stream = Stream(pk=stream_id)
        last = stream.blocks.order_by("-first_sample").defer("data").first()
        if last is None:
            return None
        return LastRow(last.first_sample + last.samples, last.last_sequence, bytes(last.chain))

    def last_segment(self, stream_id: int) -> PlacedSegment | None:
        row = Stream(pk=stream_id).segments.order_by("-first_sample").first()
        if row is None:
            return None
        return PlacedSegment(
            row.first_sample,
            row.cause,
            row.device_ns,
            row.bench_ns,
            row.rate_hz,
            row.acquisition,
            row.missing_blocks,
        )

    def envelope_end(self, stream_id: int, level: int) -> int:
        with connection.cursor() as cursor:
            cursor.execute(ENVELOPE_END_SQL, [stream_id, level])
            row = cursor.fetchone()
            return int(row[0]) if row else 0

    def read_envelope(self, stream_id: int, level: int, first: int, channels: int) -> Envelope:
        rows = Stream(pk=stream_id).envelope.filter(level=level, first_pair__gte=first)
        found = [unpack(bytes(r.data), r.pairs) for r in rows.order_by("first_pair")]
        none = np.empty((channels, 0), np.float32)
        return Envelope(
            np.concatenate([none, *(f.low for f in found)], axis=1),
            np.concatenate([none, *(f.high for f in found)], axis=1),
        )

    def read_samples(self, stream_id: int, first: int, last: int, channels: int) -> Signals:
        stream = Stream.objects.get(pk=stream_id)
        return samples.read(stream, list(range(channels)), first, last)

    def add_envelope_rows(self, rows: Sequence[EnvelopeValues]) -> None:
        store.add_envelope_rows(rows)

    def put_on_disk(self) -> None:
        store.put_on_disk()

    def prune_orders(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(PRUNE_ORDERS, [self._bench_id])


def _number(value: int | None) -> int:
    return -1 if value is None else value
