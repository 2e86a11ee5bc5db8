"""The single figures behind a verdict: each core, arm and completion with what it measures."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from yoke_core.wiring.causes import Cause, Kind, Sensor
from yoke_core.wiring.probe import Probe
from yoke_core.wiring.samples import SampleFacts
from yoke_core.wiring.wiring_case import (
    COMPLETION,
    E_MINUS,
    E_PLUS,
    S_MINUS,
    S_PLUS,
    SENSE_PLUS,
    Mode,
)

FOLLOWS = 0.02  # of the excitation: a pin that is held turns its sign with it
MIN_CURRENT = 1e-3  # of what should flow; less says nothing of a resistance


class What(StrEnum):
    ARM = "arm"
    BRIDGE = "bridge"
    CORE = "core"
    COMPLETION = "completion"
    INSULATION = "insulation"
    NOISE = "noise"
    HUM = "hum"
    DRIFT = "drift"
    REST = "rest"


@dataclass(frozen=True, slots=True)
class Finding:
    """One figure: ohm of an arm, core, completion or insulation, V/V of what was sampled.

    ``due`` is what it should be. ``passed`` is None where it cannot be told yet.
    """

    what: What
    passed: bool | None
    value: float | None = None
    due: float | None = None
    pins: tuple[int, ...] = ()
    arms: tuple[int, ...] = ()


def findings_of(
    sensor: Sensor,
    probe: Probe,
    samples: SampleFacts,
    insulation: float,
    explanations: Sequence[Sequence[Cause]],
) -> tuple[Finding, ...]:
    """All figures of one input; those that an explanation is about have not passed."""
    blamed = [c for causes in explanations for c in causes]
    kinds = {c.kind for c in blamed}
    pins = {p for c in blamed for p in c.pins} | (
        set(sensor.wiring_case.pins) if Kind.NOTHING in kinds else set()
    )
    arms = {a for c in blamed for a in c.arms}
    found = [_judged(f, pins, arms) for f in (*_arms(sensor, probe), *_cores(sensor, probe))]
    found += [_completion(sensor, probe)] if sensor.wiring_case.mode is Mode.QUARTER else []
    leaks = kinds & {Kind.SHORTED, Kind.POOR_INSULATION}
    ohm = insulation if math.isfinite(insulation) else None
    return (*found, Finding(What.INSULATION, not leaks, ohm), *of_samples(samples, kinds))


def of_samples(samples: SampleFacts, kinds: set[Kind]) -> tuple[Finding, ...]:
    """Figures that the samples alone give."""
    whole = samples.clipped == 0
    return (
        Finding(What.REST, None if not whole else True, samples.mean if whole else None),
        Finding(
            What.NOISE,
            None if not whole else Kind.FLAT not in kinds,
            samples.noise if whole else None,
        ),
        Finding(
            What.HUM, None if not whole else Kind.HUM not in kinds, samples.hum if whole else None
        ),
        Finding(
            What.DRIFT,
            None if not whole else Kind.DRIFT not in kinds,
            samples.drift if whole else None,
        ),
    )


def _judged(finding: Finding, pins: set[int], arms: set[int]) -> Finding:
    bad = bool(set(finding.pins) & pins or set(finding.arms) & arms)
    passed = False if bad else finding.passed
    return Finding(finding.what, passed, finding.value, finding.due, finding.pins, finding.arms)


def _ratio(volts: float, amperes: float, least: float) -> float | None:
    """Ohm, where enough current flows to tell."""
    return volts / amperes if abs(amperes) > least else None


def _arms(sensor: Sensor, probe: Probe) -> list[Finding]:
    """Resistance of each strained arm with its core, or of the whole bridge."""
    at, supply, ohm = probe.plus, sensor.excitation_v, sensor.resistance_ohm
    least = MIN_CURRENT * supply / ohm
    mode = sensor.wiring_case.mode
    if mode is Mode.QUARTER:
        grid = _ratio(supply - at.s_minus, at.current, least)
        cores = sensor.core_ohm * (1 if sensor.wires > 2 else 2)
        return [_resistance(What.ARM, grid, ohm + cores, arms=(1,))]
    sensed = bool(sensor.wiring_case.sense_pins)
    if mode is Mode.HALF:
        due = ohm + (0 if sensed else sensor.core_ohm)
        high, low = (at.sense_plus, at.sense_minus) if sensed else (supply, 0.0)
        return [
            _resistance(What.ARM, _ratio(across, at.current, least), due, arms=(arm,))
            for arm, across in ((1, high - at.s_minus), (2, at.s_minus - low))
        ]
    across = at.sense_plus - at.sense_minus if sensed else supply
    due = ohm if sensed else ohm + 2 * sensor.core_ohm
    return [
        _resistance(What.BRIDGE, _ratio(across, at.current, least), due, sensor.wiring_case.arms)
    ]


def _resistance(what: What, value: float | None, due: float, arms: tuple[int, ...] = ()) -> Finding:
    return Finding(what, None if value is None else True, value, due, arms=arms)


def _cores(sensor: Sensor, probe: Probe) -> list[Finding]:
    """Each core: ohm where its current tells, else whether its pin is held."""
    at, supply = probe.plus, sensor.excitation_v
    least = MIN_CURRENT * supply / sensor.resistance_ohm
    held = {
        SENSE_PLUS: (at.sense_plus, probe.minus.sense_plus),
        S_PLUS: (at.s_plus, probe.minus.s_plus),
        S_MINUS: (at.s_minus, probe.minus.s_minus),
        COMPLETION: (at.sense_minus, probe.minus.sense_minus),
    }
    ohms: dict[int, float | None] = {}
    if sensor.wiring_case.mode is Mode.QUARTER:
        if S_MINUS in sensor.wiring_case.pins:
            ohms[COMPLETION] = _ratio(at.s_minus - at.sense_minus, at.current, least)
    elif sensor.wiring_case.sense_pins:
        ohms[E_PLUS] = _ratio(supply - at.sense_plus, at.current, least)
        if E_MINUS in sensor.wiring_case.pins:
            ohms[E_MINUS] = _ratio(at.sense_minus, at.current, least)
    flows = abs(at.current) > least
    found = []
    for pin in sensor.wiring_case.pins:
        if pin in ohms:
            value = ohms[pin]
            found.append(
                Finding(What.CORE, None if value is None else True, value, sensor.core_ohm, (pin,))
            )
        elif pin in held:
            one, other = held[pin]
            follows = abs(one + other) < FOLLOWS * supply
            found.append(Finding(What.CORE, True if follows else None, pins=(pin,)))
        else:
            found.append(Finding(What.CORE, True if flows else None, pins=(pin,)))
    return found


def _completion(sensor: Sensor, probe: Probe) -> Finding:
    least = MIN_CURRENT * sensor.excitation_v / sensor.resistance_ohm
    value = _ratio(probe.plus.sense_minus, probe.plus.current, least)
    due = sensor.completion_ohm
    passed = None if value is None else abs(value / due - 1) < 0.01
    return Finding(What.COMPLETION, passed, value, due)
