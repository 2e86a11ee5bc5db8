"""What an amplifier measures of an input when it is checked."""

import math
from dataclasses import dataclass

LIFT_V, LIFT_OHM = 10.0, 1e6  # what lifts the bridge off the part meanwhile
MIN_LEAK = 2e-10  # A, in both polarities together; the meter tells no less


@dataclass(frozen=True, slots=True)
class PinReadings:
    """What an amplifier measures in one state: V of each pin against pin 6, A out of pin 1.

    In quarter and half bridges ``s_plus`` is the amplifier's own half bridge, in a quarter
    bridge ``sense_minus`` the pin of the completion. ``leak`` is the current from the lifted
    bridge to the part.
    """

    sense_plus: float
    s_plus: float
    s_minus: float
    sense_minus: float
    current: float
    leak: float


@dataclass(frozen=True, slots=True)
class Probe:
    """An input as excited, with the excitation reversed, and with the shunt across arm 2."""

    plus: PinReadings
    minus: PinReadings
    shunt: PinReadings

    @property
    def states(self) -> tuple[PinReadings, PinReadings, PinReadings]:
        return self.plus, self.minus, self.shunt


def insulation_ohm(probe: Probe) -> float:
    """Resistance between bridge and part.

    The lift's current in both polarities holds the leaking corner's potential once each way,
    which falls out of their sum.

    Parameters
    ----------
    probe : Probe

    Returns
    -------
    float, ohm
        Infinite where no current flows.
    """
    total = probe.plus.leak + probe.minus.leak
    if total <= MIN_LEAK:
        return math.inf
    return max(2 * LIFT_V / total - LIFT_OHM, 0.0)


def leak_position(probe: Probe, excitation_v: float) -> float:
    """Where a leak is.

    Parameters
    ----------
    probe : Probe
    excitation_v : float, V

    Returns
    -------
    float
        The share of the excitation that stands there: 1 at E+, 0 at E-; a half where nothing
        leaks.
    """
    plus, minus = probe.plus.leak, probe.minus.leak
    if plus + minus <= MIN_LEAK:
        return 0.5
    share = (plus - minus) / (plus + minus) * LIFT_V / excitation_v
    return min(max(share, 0.0), 1.0)
