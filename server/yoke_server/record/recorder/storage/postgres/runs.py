"""Beginning and ending runs on PostgreSQL."""

import json
from datetime import UTC, datetime

from django.db.models import Exists, OuterRef

from yoke_server.bench.models import Order, OrderState, StopRequest
from yoke_server.common.clock import clock_timestamp
from yoke_server.common.db.notify import ANSWERS, NEWS, notify
from yoke_server.ledger.services import record
from yoke_server.record.hooks import announce_change
from yoke_server.record.models import Marker, Run, RunProgress, RunState, Stream
from yoke_server.record.readings.live import begin_computed, complete_computed, growing
from yoke_server.record.recorder.model.events import Began
from yoke_server.record.recorder.model.progress import Closed
from yoke_server.record.recorder.storage.postgres.session import PostgresSession
from yoke_server.record.recorder.storage.postgres.stops import write_down_stop
from yoke_server.record.recorder.storage.work import Close, Mark, Plan, StreamPlan
from yoke_server.record.runs import add_stream, create_run, next_number
from yoke_server.record.store import add_envelope_rows
from yoke_server.setups.models import SetupRevision
from yoke_server.setups.naming import run_name

DRY = "dry run"


class PostgresRuns(PostgresSession):
    """Each method is one step of a transaction that `begin_run` or `close_run` makes."""

    def find_run(self, order_key: str) -> Began | None:
        run = Run.objects.filter(order_key=order_key).first()
        if run is None:
            return None
        streams = {(s.device_label, s.rule): s.pk for s in run.streams.all()}
        return Began(str(run.order_key), run.pk, run.name, streams, growing(run))

    def finish_order(self, order_key: str) -> bool:
        stopped = StopRequest.objects.filter(
            bench_id=self._bench_id, requested_at__gte=OuterRef("requested_at")
        )
        living = Order.objects.filter(
            ~Exists(stopped),
            pk=order_key,
            state=OrderState.CLAIMED,
            expires_at__gt=clock_timestamp(),
        )
        return bool(living.update(state=OrderState.DONE))

    def add_run(self, plan: Plan) -> int:
        revision = SetupRevision.objects.select_related("setup").get(pk=plan.revision_id)
        setup, document = revision.setup, revision.document
        number = next_number(setup, is_dry=plan.is_dry)
        name = run_name(
            document["run_name_pattern"],
            specimen=document["specimen"]["specimen"],
            number=number,
            setup=document["name"],
            project=document["project"],
        )
        run = create_run(
            revision,
            order_key=plan.order_key,
            number=number,
            name=DRY if plan.is_dry else name,
            operator_id=plan.operator_id,
            started_at=datetime.now(UTC),
            start_ns=plan.start_ns,
            is_dry=plan.is_dry,
            accepted=plan.accepted,
            answers=plan.answers,
        )
        RunProgress.objects.create(run=run)
        return run.pk

    def add_stream(self, run_id: int, plan: StreamPlan) -> None:
        run = Run.objects.select_related("setup").get(pk=run_id)
        add_stream(
            run,
            plan.device,
            plan.rate_hz,
            plan.channels,
            plan.layout,
            rule=plan.rule,
            first_acquisition=plan.beginning.place.acquisition,
            first_sequence=plan.beginning.place.sequence,
            first_device_ns=plan.beginning.device_ns,
            first_bench_ns=plan.beginning.bench_ns,
        )

    def add_computed(self, run_id: int) -> None:
        begin_computed(Run.objects.select_related("setup", "revision").get(pk=run_id))

    def announce_run(self, run_id: int, order_key: str) -> None:
        run = Run.objects.get(pk=run_id)
        Order.objects.filter(pk=order_key).update(answer={"run": run_id})
        notify(ANSWERS, order=order_key)
        record(None, f"Began {run.name}")
        notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)

    def add_mark(self, mark: Mark) -> None:
        run = Run.objects.select_for_update().get(pk=mark.run_id)
        if mark.progress:
            progress = RunProgress.objects.get(run=run)
            progress.reached |= json.loads(mark.progress)
            progress.save(update_fields=["reached"])
        if mark.start_ns is not None:
            run.start_ns, run.started_at = mark.start_ns, datetime.now(UTC)
            run.save(update_fields=["start_ns", "started_at"])
        if not mark.text:
            return
        marker = Marker(
            run=run,
            key=mark.key,
            at_ns=mark.at_ns,
            from_ns=mark.from_ns,
            kind=mark.kind,
            text=mark.text[:200],
            actor_id=mark.actor_id,
        )
        Marker.objects.bulk_create([marker], ignore_conflicts=True)
        notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)

    def lock_run(self, run_id: int) -> str | None:
        run = Run.objects.select_for_update().filter(pk=run_id).values_list("state").first()
        return str(run[0]) if run else None

    def end_stream(self, closed: Closed) -> None:
        add_envelope_rows(closed.envelope)
        Stream.objects.filter(pk=closed.stream_id).update(
            samples=closed.samples, seal=closed.chain.hex()
        )

    def _end_computed(self, run: Run, work: Close, seal: str) -> None:
        for _, _, envelope in work.computed:
            add_envelope_rows(envelope)
        if work.computed:
            complete_computed(run, {key: samples for key, samples, _ in work.computed}, seal)

    def end_run(self, work: Close, seal: str) -> None:
        run = Run.objects.select_related("setup", "revision").get(pk=work.run_id)
        self._end_computed(run, work, seal)
        run.state, run.ended_because = RunState(work.state), work.why[:200]
        run.ended_at, run.seal = datetime.now(UTC), seal
        run.discarded_at = run.ended_at if run.is_dry else None
        run.save(update_fields=["state", "ended_because", "ended_at", "seal", "discarded_at"])
        if work.stop:
            write_down_stop(self._bench_id, work.stop, ended_run=run.pk)
        said = f"Ended a dry run of {run.setup.name}" if run.is_dry else f"Closed {run.name}"
        record(None, f"{said} as {work.state}: {work.why}")
        if not run.is_dry:
            announce_change(run)
        notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
