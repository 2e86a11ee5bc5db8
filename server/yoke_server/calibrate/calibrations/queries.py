"""Calibrations as screens and certificates show them."""

import math
from typing import TYPE_CHECKING

import numpy as np
from yoke_core.errors import CoreError

from yoke_server.calibrate.calibrations.evaluation import (
    Evaluation,
    evaluate,
    missing_steps,
    newest_points,
    standard_of,
)
from yoke_server.calibrate.calibrations.plan import steps_of
from yoke_server.calibrate.calibrations.schemas import (
    BandOut,
    CalibrationLine,
    CalibrationOut,
    ClassOut,
    EvaluationOut,
    LoadOut,
    StepOut,
    TermOut,
    VerdictOut,
)
from yoke_server.calibrate.calibrations.services import STEADY, due_at
from yoke_server.calibrate.models import Calibration, CalibrationPoint
from yoke_server.kinds.chain import per_signal
from yoke_server.setups.document import FrozenChannel

if TYPE_CHECKING:
    from yoke_core.uncertainty.budget import Budget

ROWS = Calibration.objects.select_related("setup", "revision", "sensor", "certificate", "begun_by")


def calibration_lines(setup_id: int) -> list[CalibrationLine]:
    """All of a setup, the newest last."""
    return [
        CalibrationLine(
            id=c.pk,
            channel_key=c.channel_key,
            sensor=c.sensor.serial,
            state=c.state,
            begun_at=c.begun_at,
            certificate=c.certificate.number if c.certificate else "",
        )
        for c in ROWS.filter(setup_id=setup_id)
    ]


def calibration_of(calibration_id: int) -> CalibrationOut:
    """One calibration with what its captures come to."""
    row = ROWS.get(pk=calibration_id)
    points = newest_points(row)
    waiting = missing_steps(row.plan, points)
    evaluation, problem = _evaluated(row, points)
    return CalibrationOut(
        id=row.pk,
        channel_key=row.channel_key,
        sensor=f"{row.sensor.name} {row.sensor.serial}",
        state=row.state,
        begun_by=row.begun_by.role,
        begun_at=row.begun_at,
        plan=row.plan,
        reference=row.reference_words,
        reference_key=row.plan.loads.reference,
        reference_uncertainty=row.reference_uncertainty,
        steps=_steps(row, points),
        next_step=waiting[0].number if waiting else None,
        steady=STEADY,
        evaluation=evaluation,
        problem=problem,
        certificate=row.certificate.number if row.certificate else "",
        certificate_id=row.certificate_id,
        has_file=bool(row.certificate and row.certificate.has_file),
        due_on=row.certificate.due_on if row.certificate else None,
    )


def _steps(row: Calibration, points: dict[int, CalibrationPoint]) -> list[StepOut]:
    found = []
    for step in steps_of(row.plan):
        point = points.get(step.number)
        found.append(
            StepOut(
                number=step.number,
                stage=step.stage,
                series=step.series,
                rotation=step.rotation,
                load=step.load,
                after_s=step.after_s,
                due_at=due_at(row.plan, points, step),
                captured=point is not None and not point.left_out,
                left_out=point.left_out if point else "",
                signal=point.signal if point else None,
                actual=point.load if point else None,
            )
        )
    return found


def _evaluated(
    row: Calibration, points: dict[int, CalibrationPoint]
) -> tuple[EvaluationOut | None, str]:
    try:
        return _evaluation(evaluate(row, points), row.channel), ""
    except CoreError as error:
        return None, f"{error} {error.hint}"


def _evaluation(evaluation: Evaluation, channel: FrozenChannel) -> EvaluationOut:
    found, after = evaluation.found, channel.model_copy(update={"scaling": evaluation.scaling})
    return EvaluationOut(
        loads=[_load(evaluation, i) for i in range(found.loads.size)],
        nonlinearity=found.nonlinearity,
        hysteresis=_known(found.hysteresis),
        zero_return=_known(found.zero_return),
        creep=_known(evaluation.creep),
        expanded=evaluation.expanded,
        per_signal=per_signal(after),
        per_signal_before=per_signal(channel),
        scaling=evaluation.scaling,
        classification=_class(evaluation, channel.quantity),
    )


def _load(evaluation: Evaluation, place: int) -> LoadOut:
    found, budget = evaluation.found, evaluation.budgets[place]
    load = float(found.loads[place])

    def residuals(table: "np.ndarray[tuple[int, ...], np.dtype[np.float64]]") -> list[float | None]:
        return [_known(v) for v in (found.curve.apply(table[:, place]) - load) / load]

    return LoadOut(
        load=load,
        deflection=float(found.deflections[place]),
        repeatability=_known(found.repeatability[place]),
        reproducibility=_known(found.reproducibility[place]),
        interpolation=float(found.interpolation[place]),
        reversibility=_known(found.reversibility[place]),
        rising=residuals(found.rising),
        falling=residuals(found.falling),
        expanded=budget.expanded() / abs(load),
        factor=budget.coverage_factor(),
        terms=_terms(budget, load),
    )


def _terms(budget: "Budget", load: float) -> list[TermOut]:
    return [
        TermOut(
            name=t.name,
            share=abs(t.contribution / load),
            dof=t.dof if math.isfinite(t.dof) else None,
            distribution=t.distribution,
        )
        for t in budget.terms
    ]


def _class(evaluation: Evaluation, quantity: str) -> ClassOut | None:
    found, standard = evaluation.classification, standard_of(quantity)
    if found is None or standard is None:
        return None
    return ClassOut(
        standard=standard.title,
        name=found.name,
        from_load=found.from_load,
        limited_by=found.limited_by.replace("_", " "),
        verdicts=[
            VerdictOut(
                characteristic=v.characteristic.replace("_", " "), worst=v.worst, name=v.name
            )
            for v in found.verdicts
        ],
        lacks=list(found.lacks),
        bands=[BandOut(name=c.name, limit=c.limits["interpolation"]) for c in standard.classes],
    )


def _known(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None
