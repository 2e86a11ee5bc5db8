"""What the captures of a calibration come to."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yoke_core.errors import CalibrationError

from yoke_server.calibrate.calibrations.plan import (
    CREEPS,
    Plan,
    PlanStep,
    Stage,
    creep_steps,
    steps_of,
)
from yoke_server.calibrate.models import Calibration, CalibrationPoint
from yoke_server.common.units import digit_shown
from yoke_server.kinds.scalings.base import Scaling, SignalCurve
from yoke_server.kinds.scalings.polynomial import PolynomialScaling
from yoke_server.kinds.scalings.two_points import TwoPointScaling
from yoke_server.setups.document import FrozenChannel

if TYPE_CHECKING:
    from yoke_core.calibration.budget import Conditions
    from yoke_core.calibration.classes import Classification, Standard
    from yoke_core.calibration.series import Characteristics, Series
    from yoke_core.uncertainty.budget import Budget

BEYOND = 0.2  # of the largest signal, that a curve is still read beyond its ends
Points = Mapping[int, CalibrationPoint]  # by step


@dataclass(frozen=True, slots=True)
class Evaluation:
    """What a calibration shows so far.

    budgets : of each load
    expanded : the largest relative expanded uncertainty (k about 2) of the class's range
    creep : from 30 s to 300 s under the largest load, relative; NaN if not tried
    scaling : that would be put in force
    """

    found: "Characteristics"
    classification: "Classification | None"
    budgets: "Sequence[Budget]"
    expanded: float
    creep: float
    scaling: Scaling


def newest_points(calibration: Calibration) -> dict[int, CalibrationPoint]:
    """The row that counts of each step that was captured or left out.

    What was captured under a load that has been put on anew since does not count.
    """
    found = {p.step: p for p in calibration.points.order_by("pk")}
    begin, *later = [s.number for s in creep_steps(calibration.plan)] or [-1]
    for step in later:
        if step in found and (begin not in found or found[step].pk < found[begin].pk):
            del found[step]
    return found


def missing_steps(plan: Plan, points: Points) -> list[PlanStep]:
    """The steps that wait, in order."""
    return [s for s in steps_of(plan) if s.number not in points]


def standard_of(quantity: str) -> "Standard | None":
    """The standard by which instruments of a quantity are classed; None where there is none."""
    from yoke_core.calibration.classes import DIN_51309, ISO_376

    return {"force": ISO_376, "torque": DIN_51309}.get(quantity)


def evaluate(calibration: Calibration, points: Points) -> Evaluation:
    """Evaluate what was captured; raises CalibrationError where that does not suffice."""
    from yoke_core.calibration.budget import budget_at, expanded_relative
    from yoke_core.calibration.classes import classify
    from yoke_core.calibration.series import characteristics

    plan, channel = calibration.plan, calibration.channel
    swapped = channel.polarity == "cores swapped" and channel.wiring.zeroes_signal
    series = series_of(plan, points, -1.0 if swapped else 1.0)
    found = characteristics(series, plan.order, through_zero=plan.through_zero)
    creep = creep_of(plan, points, abs(float(found.deflections[-1])))
    conditions = conditions_of(calibration, channel, creep)
    standard = standard_of(channel.quantity)
    preloads = _preloads(plan, points)
    classed = (
        classify(found, standard, conditions.resolution, conditions.reference, creep, preloads)
        if standard
        else None
    )
    least = classed.from_load if classed and classed.name else 0.0
    zero = sum(s.zero for s in series) / len(series)
    return Evaluation(
        found,
        classed,
        [budget_at(found, conditions, i) for i in range(found.loads.size)],
        expanded_relative(found, conditions, least),
        creep,
        scaling_of(found, channel, zero),
    )


def creep_of(plan: Plan, points: Points, deflection: float) -> float:
    """How far the signal went from 30 s to 300 s under the largest load, as a share of its
    deflection there; NaN where it was not tried (ISO 376:2011, 7.5.5)."""
    later = creep_steps(plan)[1:]
    found = [p for s in later if (p := points.get(s.number)) and not p.left_out]
    if len(found) < len(CREEPS):
        return math.nan
    return (_signal(found[-1]) - _signal(found[0])) / deflection


def conditions_of(calibration: Calibration, channel: FrozenChannel, creep: float) -> "Conditions":
    """What is known besides the captures; the resolution is the last digit that is shown."""
    from yoke_core.calibration.budget import Conditions

    plan = calibration.plan
    return Conditions(
        reference=calibration.reference_uncertainty,
        resolution=digit_shown(channel.unit, channel.decimals),
        reference_drift=plan.reference_drift,
        creep=creep,
        temperature_coefficient=plan.temperature_coefficient,
        temperature_change=plan.temperature_k,
    )


def _preloads(plan: Plan, points: Points) -> int:
    made = [points.get(s.number) for s in steps_of(plan) if s.stage is Stage.PRELOAD]
    return sum(1 for p in made if p and not p.left_out)


def series_of(plan: Plan, points: Points, sign: float) -> "list[Series]":
    """The captures as series; raises CalibrationError where a series has no zero.

    sign : of the signal, -1 where cores are swapped
    """
    from yoke_core.calibration.series import Point, Series

    series = []
    for number, rotation in enumerate(plan.rotations):
        taken = [
            (s, p)
            for s in steps_of(plan)
            if s.series == number and (p := points.get(s.number)) and not p.left_out
        ]
        if not any(s.stage is Stage.RISING for s, _ in taken):
            continue

        def at(stage: Stage, taken: list[tuple[PlanStep, CalibrationPoint]] = taken) -> list[Point]:
            return [
                Point(s.load, _load(p), sign * _signal(p)) for s, p in taken if s.stage is stage
            ]

        before, after = at(Stage.ZERO), at(Stage.ZERO_AFTER)
        if not before:
            raise CalibrationError(
                "points",
                f"Series {number + 1} has no zero before it.",
                "Capture its zero once more.",
            )
        series.append(
            Series(
                rotation,
                before[0].signal,
                tuple(at(Stage.RISING)),
                tuple(at(Stage.FALLING)),
                after[0].signal if after else None,
            )
        )
    return series


def _load(point: CalibrationPoint) -> float:
    assert point.load is not None
    return point.load


def _signal(point: CalibrationPoint) -> float:
    assert point.signal is not None
    return point.signal


def scaling_of(found: "Characteristics", channel: FrozenChannel, zero: float) -> Scaling:
    """The curve as a channel's scaling; of deflections where the zero is taken off the signal."""
    curve, largest = found.curve, float(found.deflections[-1])
    start = 0.0 if channel.wiring.zeroes_signal else zero
    turned = channel.polarity == "turned" or (
        channel.polarity != "as wired" and not channel.wiring.zeroes_signal
    )
    coefficients = [-c if turned else c for c in _shifted(curve.coefficients, start)]
    curve_of_signal = SignalCurve(coefficients, start, start + largest)
    return channel.scaling.through(curve_of_signal) or _general(curve_of_signal)


def _general(curve: SignalCurve) -> Scaling:
    """A line by two points, or a polynomial that goes on a little beyond its ends."""
    if len(curve.coefficients) == 2:
        first, slope = curve.coefficients
        return TwoPointScaling(
            signal_1=curve.start,
            value_1=first + slope * curve.start,
            signal_2=curve.end,
            value_2=first + slope * curve.end,
        )
    more = BEYOND * (curve.end - curve.start)
    low, high = sorted((curve.start - more, curve.end + more))
    return PolynomialScaling(coefficients=list(curve.coefficients), lowest=low, highest=high)


def _shifted(coefficients: Sequence[float], start: float) -> list[float]:
    """Of a polynomial in x - start, the coefficients in x."""
    found = [0.0] * len(coefficients)
    for power, c in enumerate(coefficients):
        for i in range(power + 1):
            found[i] += c * math.comb(power, i) * (-start) ** (power - i)
    return found
