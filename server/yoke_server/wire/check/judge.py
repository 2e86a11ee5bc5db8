"""A channel's verdict from what the recorder measured of it."""

from typing import Any

from yoke_core.wiring.check import Verdict, check
from yoke_core.wiring.other_signals import check_loop, check_thermometer, check_voltage
from yoke_core.wiring.probe import PinReadings, Probe
from yoke_core.wiring.samples import SampleFacts

from yoke_server.common.problems import Problem
from yoke_server.wire.models import Channel, Polarity
from yoke_server.wire.specs.conditioning import BridgeConditioning
from yoke_server.wire.specs.wiring import (
    BridgeWiring,
    Divider,
    LoopWiring,
    PulseWiring,
    ThermometerWiring,
)

VOLTAGE_SCALE = 10.0  # V
DIVIDER_SCALE = 0.5  # V/V, the tap at an end
PULSE_SCALE = 1e4  # Hz
NOMINAL_OHM = 100.0
NOT_A_NUMBER = float("nan")


def judge(channel: Channel, measured: dict[str, Any]) -> Verdict:
    """Raises a 409 problem where the device has no circuit that checks a bridge."""
    samples = _samples(measured["samples"])
    wiring, conditioning = channel.wiring, channel.conditioning
    if isinstance(wiring, LoopWiring):
        return check_loop(samples, wiring.resistor_ohm)
    if isinstance(wiring, ThermometerWiring):
        return check_thermometer(samples, getattr(channel.scaling, "nominal_ohm", NOMINAL_OHM))
    if isinstance(wiring, Divider):
        return check_voltage(samples, DIVIDER_SCALE)
    if isinstance(wiring, PulseWiring):
        return check_voltage(samples, PULSE_SCALE)
    if not isinstance(wiring, BridgeWiring) or not isinstance(conditioning, BridgeConditioning):
        return check_voltage(samples, VOLTAGE_SCALE)
    if measured["probe"] is None:
        raise Problem(
            409, f"{channel.input.device.label} has no circuit that checks a bridge.",
            hint="Measure it by hand, pin by pin.",
        )  # fmt: skip
    probe = Probe(**{state: PinReadings(**at) for state, at in measured["probe"].items()})
    rest = getattr(channel.sensor.spec, "at_rest", None)
    if channel.polarity == Polarity.SWAPPED:
        rest = None  # that its cores are swapped is known then
    sensor = wiring.sensor(conditioning.excitation_v)
    return check(sensor, probe, samples, conditioning.range_mv_v * 1e-3, rest)


def _samples(plain: dict[str, Any]) -> SampleFacts:
    known: dict[str, Any] = {k: NOT_A_NUMBER if v is None else v for k, v in plain.items()}
    return SampleFacts(**known)
