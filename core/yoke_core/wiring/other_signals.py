"""The verdict on inputs that are no bridges: current loops, voltages, resistance thermometers."""

from yoke_core.wiring.causes import Cause, Kind
from yoke_core.wiring.check import Verdict, of_samples
from yoke_core.wiring.findings import of_samples as findings_of_samples
from yoke_core.wiring.samples import SampleFacts

# A, beyond which a transmitter signals a fault of its own (NAMUR NE 43).
LOOP_LOW, LOOP_HIGH = 3.6e-3, 21e-3
LOOP_PINS = (1, 2)
SHORT_SHARE = 0.2  # of the nominal resistance: colder than any thermometer gets


def check_loop(samples: SampleFacts, resistor_ohm: float) -> Verdict:
    """Judge a 4-20 mA loop.

    Parameters
    ----------
    samples : SampleFacts
        Of the voltage (V) across the resistor.
    resistor_ohm : float, ohm
        The precision resistor.

    Returns
    -------
    Verdict

    Examples
    --------
    >>> facts = SampleFacts(0.6, 1e-4, 0.0, 50.0, 0.0, 0.0, flat=False)
    >>> check_loop(facts, 50.0).causes
    ()
    """
    current = samples.mean / resistor_ohm
    cause: tuple[Cause, ...] = ()
    if samples.clipped or current > LOOP_HIGH:
        cause = (Cause(Kind.OVER_CURRENT, LOOP_PINS, value=None if samples.clipped else current),)
    elif current < LOOP_LOW:
        cause = (Cause(Kind.NO_CURRENT, LOOP_PINS, value=current),)
    return _verdict(cause, samples, 20e-3 * resistor_ohm)


def check_voltage(samples: SampleFacts, full_scale_v: float) -> Verdict:
    """Judge a voltage; whether 0 V is a signal or nothing at all, it does not tell.

    Parameters
    ----------
    samples : SampleFacts
    full_scale_v : float
        Of the input, in the samples' unit.

    Returns
    -------
    Verdict

    Examples
    --------
    >>> facts = SampleFacts(2.0, 1e-4, 0.0, 50.0, 0.0, 0.0, flat=False)
    >>> check_voltage(facts, 10.0).causes
    ()
    """
    return _verdict((), samples, full_scale_v)


def check_thermometer(samples: SampleFacts, nominal_ohm: float) -> Verdict:
    """Judge a resistance thermometer by its resistance.

    Parameters
    ----------
    samples : SampleFacts
        Of the resistance, ohm.
    nominal_ohm : float, ohm
        Its resistance at 0 degC.

    Returns
    -------
    Verdict

    Examples
    --------
    >>> facts = SampleFacts(107.8, 1e-3, 0.0, 50.0, 0.0, 0.0, flat=False)
    >>> check_thermometer(facts, 100.0).causes
    ()
    """
    cause: tuple[Cause, ...] = ()
    if samples.clipped:
        cause = (Cause(Kind.OPEN_SENSOR),)
    elif samples.mean < SHORT_SHARE * nominal_ohm:
        cause = (Cause(Kind.SHORT_SENSOR, value=samples.mean),)
    return _verdict(cause, samples, nominal_ohm)


def _verdict(causes: tuple[Cause, ...], samples: SampleFacts, full_scale: float) -> Verdict:
    found = causes + of_samples(causes, samples, full_scale)
    return Verdict(found, (), findings_of_samples(samples, {c.kind for c in found}))
