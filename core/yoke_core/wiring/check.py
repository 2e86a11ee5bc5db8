"""The verdict on one bridge input, from what its amplifier measured and what it sampled."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from yoke_core.wiring.causes import Cause, Kind, Sensor
from yoke_core.wiring.diagnose import Explanation, explain
from yoke_core.wiring.findings import Finding, findings_of
from yoke_core.wiring.network import CHECKER, Checker
from yoke_core.wiring.probe import Probe, insulation_ohm, leak_position
from yoke_core.wiring.samples import SampleFacts
from yoke_core.wiring.wiring_case import E_MINUS, E_PLUS, S_MINUS, S_PLUS, Mode

GOOD_INSULATION = 1e9  # ohm
SHORT = 10e3  # ohm; less is a touch, more a leak
DRIFT_IN_A_MINUTE = 0.005  # of the range
MIN_HUM = 1e-4  # of the range
AT_REST = 0.15  # of a known output at rest, or of the noise, if that is more


@dataclass(frozen=True, slots=True)
class Verdict:
    """What is wrong, by ``causes`` (none: all well), or by one of ``others`` that reads alike."""

    causes: tuple[Cause, ...]
    others: tuple[tuple[Cause, ...], ...]
    findings: tuple[Finding, ...]


def check(
    sensor: Sensor,
    probe: Probe,
    samples: SampleFacts,
    range_ratio: float,
    at_rest: float | None = None,
    checker: Checker = CHECKER,
) -> Verdict:
    """Judge one bridge input.

    Parameters
    ----------
    sensor : Sensor
        What should be wired.
    probe : Probe
        What was read at the pins.
    samples : SampleFacts
        Of some seconds, V/V.
    range_ratio : float, V/V
        Full scale of the input.
    at_rest : float or None, V/V
        The output without load that the sensor is known to have, if it is known.
    checker : Checker
        The circuit of the amplifier that reads the pins.

    Returns
    -------
    Verdict
        Without causes where all is well.
    """
    insulation = insulation_ohm(probe)
    found = explain(sensor, _readings(sensor, probe), checker)
    best, *alike = _told_by_sign(found, samples, at_rest)
    more = _leak(insulation, leak_position(probe, sensor.excitation_v))
    more += of_samples(best.causes, samples, range_ratio)
    if not best.causes and not samples.clipped:
        more += _inverted_sign(sensor, samples, at_rest)
    causes = (*best.causes, *more)
    return Verdict(
        causes,
        tuple((*e.causes, *more) for e in alike),
        findings_of(sensor, probe, samples, insulation, [causes, *(e.causes for e in alike)]),
    )


def _readings(sensor: Sensor, probe: Probe) -> list[float]:
    """As `network.readings` has them."""
    supply, unit = sensor.excitation_v, sensor.completion_ohm
    found = []
    for state, polarity in zip(probe.states, (1, -1, 1), strict=True):
        found += [
            (state.s_plus - state.s_minus) / supply,
            (state.s_plus + state.s_minus) / 2 / supply - polarity / 2,
            state.sense_plus / supply,
            state.sense_minus / supply,
            state.current * unit / supply,
        ]
    return found


def _leak(insulation: float, place: float) -> tuple[Cause, ...]:
    if insulation >= GOOD_INSULATION:
        return ()
    kind = Kind.SHORTED if insulation < SHORT else Kind.POOR_INSULATION
    return (Cause(kind, value=insulation, place=place),)


def of_samples(
    known: Sequence[Cause], samples: SampleFacts, full_scale: float
) -> tuple[Cause, ...]:
    """Causes seen in samples only; clipping is left out where the wiring explains it.

    Parameters
    ----------
    known : sequence of Cause
        What the pins told.
    samples : SampleFacts
    full_scale : float
        Of the input, in the samples' unit.

    Returns
    -------
    tuple of Cause
    """
    found = []
    if samples.clipped and not known:
        found.append(Cause(Kind.CLIPPED, value=samples.clipped))
    if samples.flat and not samples.clipped:
        found.append(Cause(Kind.FLAT, value=samples.mean))
    if samples.hum > MIN_HUM * full_scale:
        found.append(Cause(Kind.HUM, value=samples.hum))
    if abs(samples.drift) * 60 > DRIFT_IN_A_MINUTE * full_scale:
        found.append(Cause(Kind.DRIFT, value=samples.drift))
    return tuple(found)


def _told_by_sign(
    found: list[Explanation], samples: SampleFacts, at_rest: float | None
) -> list[Explanation]:
    """Of causes that read alike only those that leave the output at rest its known sign.

    Excitation cores in each other's pin turn it; sense cores, which read the same, do not.
    """
    way = _way(samples, at_rest)
    fit = [e for e in found if way == (-1 if any(map(_turns, e.causes)) else 1)]
    return fit if way and fit else found


def _turns(cause: Cause) -> bool:
    return cause.kind is Kind.SWAPPED and cause.pins in ((E_PLUS, E_MINUS), (S_PLUS, S_MINUS))


def _way(samples: SampleFacts, at_rest: float | None) -> int:
    """1 where the output at rest is about as known, -1 about its opposite, else 0."""
    if at_rest is None or not math.isfinite(samples.mean):
        return 0
    reach = max(AT_REST * abs(at_rest), 3 * samples.noise)
    if abs(at_rest) <= 2 * reach:
        return 0
    return next((way for way in (1, -1) if abs(samples.mean - way * at_rest) <= reach), 0)


def _inverted_sign(
    sensor: Sensor, samples: SampleFacts, at_rest: float | None
) -> tuple[Cause, ...]:
    """Signal (or excitation) cores turned: a known output at rest with the other sign."""
    if _way(samples, at_rest) != -1:
        return ()
    pins = (E_PLUS, E_MINUS) if sensor.wiring_case.mode is Mode.HALF else (S_PLUS, S_MINUS)
    return (Cause(Kind.TURNED, pins=pins),)
