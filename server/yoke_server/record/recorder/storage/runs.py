"""RunStarter and ending a run in the database: one transaction each, repeated without harm."""

import hashlib
from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime

from django.db import IntegrityError, transaction
from django.db.models import Max, QuerySet

from yoke_server.bench.models import Device, Order, OrderState
from yoke_server.common.notify import ANSWERS, NEWS, notify
from yoke_server.ledger.services import record
from yoke_server.record.hooks import announce_change
from yoke_server.record.models import FOLLOWING, Run, RunState, Stream, StreamChannel
from yoke_server.record.recorder.control.recording import Closed
from yoke_server.record.recorder.model.events import Began, Event, NotBegun
from yoke_server.record.store import write_last_rows
from yoke_server.wire.document import FrozenChannel
from yoke_server.wire.models import SetupRevision
from yoke_server.wire.naming import run_name


@dataclass(slots=True)
class Plan:
    """A run that is to begin. Whoever stops it before sets ``cancelled``."""

    order_key: str
    revision_id: int
    operator_id: int | None
    start_ns: int
    rates_hz: dict[str, float]
    channels: dict[str, list[FrozenChannel]] = field(default_factory=dict)
    cancelled: str = ""


def begin_run(plan: Plan) -> Event:
    """The run, its streams and the order's answer, together or not at all.

    An order that was given up, or whose time is past, begins nothing. Asked again after an
    answer was lost, this finds the run that it made.
    """
    if run := Run.objects.filter(order_key=plan.order_key).first():
        return _began(run)  # even if it was called off meanwhile: then it must be closed
    if plan.cancelled:
        return NotBegun(plan.order_key, plan.cancelled)
    with suppress(IntegrityError):  # a run that was read in may have taken its number meanwhile
        return _begin(plan)
    try:
        return _begin(plan)
    except IntegrityError as error:
        return NotBegun(plan.order_key, f"The database refuses the run: {error}".split("\n")[0])


@transaction.atomic
def _begin(plan: Plan) -> Event:
    living = Order.objects.filter(
        pk=plan.order_key, state=OrderState.CLAIMED, expires_at__gt=datetime.now(UTC)
    )
    if not living.update(state=OrderState.DONE):
        return NotBegun(plan.order_key, "The order was given up before the run began.")
    revision = SetupRevision.objects.select_related("setup").get(pk=plan.revision_id)
    setup, document = revision.setup, revision.document
    number = next_number(setup.runs.all())
    run = Run.objects.create(
        setup=setup,
        revision=revision,
        order_key=plan.order_key,
        number=number,
        name=run_name(
            document["run_name_pattern"],
            specimen=document["specimen"]["specimen"],
            number=number,
            setup=document["name"],
        ),
        operator_id=plan.operator_id,
        started_at=datetime.now(UTC),
        start_ns=plan.start_ns,
    )
    for label, channels in plan.channels.items():
        add_stream(run, label, plan.rates_hz[label], channels)
    Order.objects.filter(pk=plan.order_key).update(answer={"run": run.pk})
    notify(ANSWERS, order=plan.order_key)
    record(None, f"Began {run.name}")
    notify(NEWS, kind="run", setup=setup.pk, run=run.pk)
    return _began(run)


def next_number(runs: "QuerySet[Run]") -> int:
    """The number of a new run beside these of its setup."""
    return (runs.aggregate(m=Max("number"))["m"] or 0) + 1


def seal_of(chains: Iterable[bytes]) -> str:
    """A run's seal: the SHA-256 of its streams' chains, in the streams' order."""
    return hashlib.sha256(b"".join(chains)).hexdigest()


def add_stream(run: Run, label: str, rate_hz: float, channels: list[FrozenChannel]) -> Stream:
    """A stream of a run, with its channels in their places; a label may be no device's."""
    device = Device.objects.filter(bench_id=run.setup.bench_id, label=label).first()
    stream = Stream.objects.create(run=run, device=device, device_label=label, rate_hz=rate_hz)
    StreamChannel.objects.bulk_create(
        StreamChannel(stream=stream, position=i, channel_key=c.key, signal=c.signal)
        for i, c in enumerate(channels)
    )
    return stream


def _began(run: Run) -> Began:
    streams = {s.device_label: s.pk for s in run.streams.all()}
    return Began(str(run.order_key), run.pk, run.name, streams)


@transaction.atomic
def close_run(run_id: int, state: RunState, why: str, streams: Sequence[Closed]) -> None:
    """End a run for good: its length and its seal; closing a closed run changes nothing.

    The seal is the SHA-256 of the streams' chains, which were made while recording.
    """
    run = Run.objects.select_for_update().get(pk=run_id)
    if state not in FOLLOWING[run.state]:
        return
    ordered = sorted(streams, key=lambda s: s.stream_id)
    for closed in ordered:
        write_last_rows(closed.envelope)
        Stream.objects.filter(pk=closed.stream_id).update(
            samples=closed.samples, seal=closed.chain.hex()
        )
    run.state, run.ended_because, run.ended_at = state, why[:200], datetime.now(UTC)
    run.seal = seal_of(closed.chain for closed in ordered)
    run.save(update_fields=["state", "ended_because", "ended_at", "seal"])
    record(None, f"Closed {run.name} as {state}: {why}")
    announce_change(run)
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
