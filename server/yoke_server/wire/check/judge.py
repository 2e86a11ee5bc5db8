"""A channel's verdict from what the recorder measured of it."""

from typing import Any

from yoke_core.wiring.check import Verdict
from yoke_core.wiring.probe import PinReadings, Probe
from yoke_core.wiring.samples import SampleFacts

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.inputs.base import Measured
from yoke_server.kinds.orders.measuring import WiringReading
from yoke_server.setups.models import Channel, Polarity

NOT_A_NUMBER = float("nan")


def judge(channel: Channel, measured: WiringReading) -> Verdict:
    """Raises a 409 problem where the device has no circuit that checks a bridge."""
    if channel.wiring.is_probed and measured.probe is None:
        raise Problem(
            409,
            f"{channel.input.device.label} has no circuit that checks a bridge.",
            code=ProblemType.DEVICE_UNFIT,
            hint="Measure it by hand, pin by pin.",
        )
    rest = getattr(channel.sensor.spec, "at_rest", None)
    if channel.polarity == Polarity.SWAPPED:
        rest = None  # that its cores are swapped is known then
    probe = _probe(measured.probe) if measured.probe else None
    return channel.wiring.check(channel, Measured(_samples(measured.samples), probe, rest))


def _probe(plain: dict[str, dict[str, Any]]) -> Probe:
    return Probe(**{state: PinReadings(**at) for state, at in plain.items()})


def _samples(plain: dict[str, float | bool | None]) -> SampleFacts:
    known: dict[str, Any] = {k: NOT_A_NUMBER if v is None else v for k, v in plain.items()}
    return SampleFacts(**known)
