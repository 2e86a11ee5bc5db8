"""What people do with a calibration: begin, capture, leave out, accept, give up."""

import math
from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta

from django.db import transaction
from yoke_core.errors import CalibrationError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Link
from yoke_server.calibrate.calibrations.evaluation import (
    Evaluation,
    Points,
    evaluate,
    missing_steps,
    newest_points,
)
from yoke_server.calibrate.calibrations.plan import (
    Plan,
    PlanStep,
    Stage,
    creep_steps,
    steps_of,
)
from yoke_server.calibrate.models import Calibration, CalibrationPoint, CalibrationState
from yoke_server.common.clock import laboratory_today
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import from_si, span_from_si
from yoke_server.kinds.chain import chain_of, takes_zero
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.ledger.services import record
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.services import Stated, add_certificate
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import freeze_channels, frozen_channel
from yoke_server.setups.models import Channel, Setup
from yoke_server.setups.services import change_rows, keep_revision, lock, lock_channel

STEADY = 1e-4  # of the largest signal, by which it may go while it is captured
EARLY, LATE = 0.05, 0.35  # of the time that a load is to be on, by which a reading may miss it
NEAR = 0.02  # of the largest load, by which a reference may miss the step's load
Rest = Mapping[str, RestReading]  # by channel key


@transaction.atomic
def begin_calibration(actor: Actor, channel_id: int, plan: Plan) -> Calibration:
    """Begin the calibration of a channel's sensor; nothing is in force before it is accepted."""
    require(actor, "zero and check channels")
    setup, row = lock_channel(channel_id)
    sensor = _sensor(row)
    channels = freeze_channels(setup)
    channel = {c.key: c for c in channels}[row.key]
    if lack := plan.loads.lacks(channel, channels):
        raise Problem(422, lack.text, field="loads", hint=lack.hint)
    if setup.calibrations.filter(channel_key=row.key, state=CalibrationState.UNDER_WAY).exists():
        raise Problem(
            409,
            f"{row.name} is being calibrated already.",
            code=ProblemType.EXISTS_ALREADY,
            hint="Go on with it, or give it up first.",
        )
    uncertainty, words = _reference(setup, plan)
    action = f"Began to calibrate {row.name}, {sensor.serial}"
    keep_revision(actor, setup, action)
    made = Calibration.objects.create(
        setup=setup,
        revision=setup.revisions.latest("number"),
        channel_key=row.key,
        sensor=sensor,
        plan=plan,
        reference_uncertainty=uncertainty,
        reference_words=words,
        begun_by=actor.user,
    )
    record(actor, action, setup_id=setup.pk)
    _told(setup)
    return made


def _sensor(channel: Channel) -> Sensor:
    sensor = channel.sensor
    if sensor.spec.grid_angles or channel.quantity == "strain":
        raise Problem(
            422,
            f"{channel.name} is a strain gauge: no load calibrates it once it is bonded.",
            hint="Check it with the shunt.",
        )
    return sensor


def _reference(setup: Setup, plan: Plan) -> tuple[float, str]:
    """Relative expanded uncertainty of the loads, and what it rests on."""
    if plan.loads.reference is None:
        assert plan.loads.uncertainty is not None
        return plan.loads.uncertainty, plan.loads.sentence
    row = setup.channels.select_related("sensor", "input__device").get(key=plan.loads.reference)
    sensor, name = row.sensor, row.name
    newest = sensor.newest_certificate
    why, hint = "", "Choose another reference, or add its certificate in the library."
    if newest is None:
        why = f"{name} has no certificate."
    elif newest.is_overdue:
        why = f"The certificate of {name} is overdue since {newest.due_on}."
    elif newest.expanded is None:
        why = f"The certificate {newest.number} of {name} states no uncertainty."
    elif row.input.device.link != Link.LINKED:
        why, hint = (
            f"{row.input.device.label}, which reads {name}, is not linked.",
            "Link it first.",
        )
    if why or newest is None or newest.expanded is None:
        raise Problem(422, why, field="loads", hint=hint)
    return newest.expanded, f"Against {sensor.name} {sensor.serial}, certificate {newest.number}."


def channels_to_measure(actor: Actor, calibration_id: int) -> tuple[int, list[int]]:
    """The setup, and the numbers of the channels that a capture measures."""
    require(actor, "zero and check channels")
    calibration = Calibration.objects.get(pk=calibration_id)
    keys = [calibration.channel_key, calibration.plan.loads.reference]
    rows = calibration.setup.channels.filter(key__in=[k for k in keys if k])
    return calibration.setup_id, list(rows.values_list("pk", flat=True))


@transaction.atomic
def keep_capture(actor: Actor, calibration_id: int, step: int, measured: Rest) -> CalibrationPoint:
    """Keep what was measured as a step's point; a step that has one gets a newer one."""
    calibration, wanted = _under_way(actor, calibration_id, step)
    channel = frozen_channel(calibration.setup, calibration.channel_key)
    reading = measured.get(calibration.channel_key)
    if reading is None or reading.mean is None or reading.clipped:
        raise Problem(422, f"{channel.name} clipped.", hint="Take load off, or choose a range.")
    _require_time(calibration, wanted)
    _require_steady(channel, reading, calibration)
    load = _load(calibration, wanted, measured)
    made = CalibrationPoint.objects.create(
        calibration=calibration,
        step=step,
        load=load,
        signal=reading.mean,
        deviation=reading.deviation,
        actor=actor.user,
    )
    _told(calibration.setup)
    return made


def due_at(plan: Plan, points: Points, step: PlanStep) -> datetime | None:
    """When a step may be captured, where the load must have been on for a time; None of others."""
    if not step.after_s or (begun := points.get(creep_steps(plan)[0].number)) is None:
        return None
    return begun.captured_at + timedelta(seconds=step.after_s)


def _require_time(calibration: Calibration, step: PlanStep) -> None:
    """Refuse a reading under a load that was not on for as long as the step says."""
    points = newest_points(calibration)
    due = due_at(calibration.plan, points, step)
    if due is None:
        return
    late = (datetime.now(UTC) - due).total_seconds()
    if late < -EARLY * step.after_s:
        raise Problem(
            409,
            f"The load is to be on for {step.after_s:g} s.",
            code=ProblemType.NOT_READY,
            hint=f"Wait {math.ceil(-late)} s more.",
        )
    if late > LATE * step.after_s:
        begin = creep_steps(calibration.plan)[0].number
        raise Problem(
            409,
            f"The load has been on for {step.after_s + late:.0f} s, and the reading is one after "
            f"{step.after_s:g} s.",
            code=ProblemType.OUT_OF_ORDER,
            hint=f"Take the load off, put it on anew, and capture step {begin + 1} again.",
        )


def _under_way(actor: Actor, calibration_id: int, step: int) -> tuple[Calibration, PlanStep]:
    """The calibration, locked, and one of its steps."""
    require(actor, "zero and check channels")
    calibration = _locked(calibration_id)
    steps = steps_of(calibration.plan)
    if not 0 <= step < len(steps):
        raise Problem(422, f"The plan has no step {step + 1}.", field="step", hint="Look at it.")
    waiting = missing_steps(calibration.plan, newest_points(calibration))
    if waiting and step > waiting[0].number:
        raise Problem(
            409,
            f"Step {waiting[0].number + 1} comes before step {step + 1}.",
            code=ProblemType.OUT_OF_ORDER,
            field="step",
            hint="Loads go on in the order of the plan.",
        )
    return calibration, steps[step]


def _locked(calibration_id: int) -> Calibration:
    calibration = (
        Calibration.objects.select_for_update(of=("self",))
        .select_related("setup__bench", "revision", "sensor")
        .get(pk=calibration_id)
    )
    if calibration.state != CalibrationState.UNDER_WAY:
        raise Problem(
            409,
            f"The calibration of {calibration.sensor.serial} is {calibration.state}.",
            code=ProblemType.CHANGED_MEANWHILE,
            hint="Begin another one.",
        )
    return calibration


def _require_steady(channel: FrozenChannel, reading: RestReading, calibration: Calibration) -> None:
    """Refuse a signal that moved, and say by how much in the channel's unit."""
    chain = chain_of(channel)
    assert reading.mean is not None
    half = (reading.moved or 0.0) / 2
    low, high = (float(v) for v in chain.apply([reading.mean - half, reading.mean + half]))
    largest = abs(calibration.plan.loads.nominal[-1])
    if abs(high - low) > STEADY * largest:
        moved = span_from_si(abs(high - low), channel.unit)
        most = span_from_si(STEADY * largest, channel.unit)
        raise Problem(
            409,
            f"{channel.name} moved by {moved:.3g} {channel.unit} while it was measured.",
            code=ProblemType.NOT_READY,
            hint=f"Wait until it moves by less than {most:.3g} {channel.unit}.",
        )


def _load(calibration: Calibration, step: PlanStep, measured: Rest) -> float:
    """What the load was: as planned, or as the reference read it."""
    key = calibration.plan.loads.reference
    if key is None:
        return step.load
    reference = frozen_channel(calibration.setup, key)
    if reference.zero is None and takes_zero(reference):
        raise Problem(
            409,
            f"The reference {reference.name} is not zeroed.",
            code=ProblemType.NOT_READY,
            hint="Take all load off, and zero it.",
        )
    reading = measured.get(key)
    if reading is None or reading.mean is None or reading.clipped:
        raise Problem(422, f"The reference {reference.name} clipped.", hint="Take load off.")
    _require_steady(reference, reading, calibration)
    load = float(chain_of(reference).apply(reading.mean))
    largest = abs(calibration.plan.loads.nominal[-1])
    if abs(load - step.load) > NEAR * largest:
        raise Problem(
            409,
            f"{reference.name} reads {from_si(load, reference.unit):.4g} {reference.unit}, and the "
            f"step is {from_si(step.load, reference.unit):.4g} {reference.unit}.",
            code=ProblemType.NOT_READY,
            hint="Put the load on that the step asks for.",
        )
    return load


@transaction.atomic
def leave_out(actor: Actor, calibration_id: int, step: int, reason: str) -> None:
    """Leave a step out with a reason; capturing it again takes it in.

    Refused where what is left would give no curve.
    """
    calibration, wanted = _under_way(actor, calibration_id, step)
    CalibrationPoint.objects.create(
        calibration=calibration, step=step, left_out=reason, actor=actor.user
    )
    points = newest_points(calibration)
    if not missing_steps(calibration.plan, points):
        try:
            evaluate(calibration, points)
        except CalibrationError as error:
            raise Problem(
                422, f"Without it there is no curve: {error}", field="step", hint=error.hint
            ) from error
    what = "the zero" if wanted.stage in (Stage.ZERO, Stage.ZERO_AFTER) else f"{wanted.load:g}"
    action = f"Left step {step + 1}, {what}, out of the calibration of {calibration.sensor.serial}"
    record(actor, action, setup_id=calibration.setup_id)
    _told(calibration.setup)


@transaction.atomic
def give_up(actor: Actor, calibration_id: int) -> None:
    """End it without a certificate; what was captured stays."""
    require(actor, "zero and check channels")
    calibration = _locked(calibration_id)
    _end(actor, calibration, CalibrationState.GIVEN_UP)
    record(
        actor, f"Gave up the calibration of {calibration.sensor.serial}",
        setup_id=calibration.setup_id,
    )  # fmt: skip
    _told(calibration.setup)


@transaction.atomic
def accept(actor: Actor, calibration_id: int, *, number: str, due_on: date | None) -> Calibration:
    """Its certificate is kept, and its scaling is in force for the channel from now on."""
    require(actor, "keep certificates")
    require(actor, "change scaling")
    lock(Calibration.objects.values_list("setup_id", flat=True).get(pk=calibration_id))
    calibration = _locked(calibration_id)
    setup, points = calibration.setup, newest_points(calibration)
    if waiting := missing_steps(calibration.plan, points):
        raise Problem(
            409,
            f"{len(waiting)} steps of the plan wait.",
            code=ProblemType.NOT_READY,
            hint="Capture them, or leave them out with a reason.",
        )
    row = _row_as_begun(calibration)
    found = evaluate(calibration, points)
    calibration.certificate = add_certificate(
        actor,
        calibration.sensor_id,
        number=number,
        calibrated_on=laboratory_today(),
        due_on=due_on,
        stated=_stated(calibration.sensor, found),
    )
    _end(actor, calibration, CalibrationState.ACCEPTED)
    action = f"Put the calibration {number} of {row.name} in force"
    change_rows(actor, setup, action, [(row, {"scaling": found.scaling})])
    _told(setup)
    return calibration


def _stated(sensor: Sensor, evaluation: Evaluation) -> Stated:
    found, largest = evaluation.found, float(evaluation.found.deflections[-1])
    rated = sensor.spec.output_at_capacity(float(found.curve.apply(largest)) / largest)
    pairs = zip(found.loads.tolist(), found.deflections.tolist(), strict=True)
    return Stated(evaluation.expanded, class_words(evaluation), [list(p) for p in pairs], rated)


def _row_as_begun(calibration: Calibration) -> Channel:
    """The channel, if it still has the instrument that was calibrated."""
    row = calibration.setup.channels.filter(key=calibration.channel_key).first()
    begun = calibration.channel
    if (
        row is None
        or row.sensor_id != calibration.sensor_id
        or (row.polarity, row.wiring) != (begun.polarity, begun.wiring)
    ):
        raise Problem(
            409,
            f"{calibration.sensor.serial} is no longer wired as it was calibrated.",
            code=ProblemType.CHANGED_MEANWHILE,
            hint="Wire it again as it was, or give the calibration up.",
        )
    return row


def _end(actor: Actor, calibration: Calibration, state: CalibrationState) -> None:
    calibration.state, calibration.ended_by = state, actor.user
    calibration.ended_at = datetime.now(UTC)
    calibration.save()


def class_words(found: Evaluation) -> str:
    """The class with its standard; empty where there is none."""
    if found.classification is None or not found.classification.name:
        return ""
    return f"class {found.classification.name}"


def _told(setup: Setup) -> None:
    notify(NEWS, kind="calibration", setup=setup.pk)
