"""Driver of the measuring module: voltages and resistances (docs/amplifier-protocol.md)."""

from typing import ClassVar

from yoke_core.wiring.probe import Probe

from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    Capability,
    InputSettings,
    Offers,
    Refusal,
)
from yoke_server.bench.drivers.streaming import StreamingDevice


class MeasuringModule(StreamingDevice):
    """Nothing can be set but its rate, up to 1 kHz."""

    capabilities: ClassVar = frozenset({Capability.ACQUIRES, Capability.SENDS_AGAIN})
    offers: ClassVar = Offers(("voltage",) * 4 + ("resistance",) * 4, fastest_hz=1000.0)

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus:
        """Bring the rate in force; there are no other settings."""
        return self.sample_at(rate_hz)

    def set_shunt(self, inputs: list[int], on: bool) -> None:
        raise Refusal("a measuring module has no shunt.")

    def shunt_ohm(self, number: int) -> float:
        raise Refusal("a measuring module has no shunt.")

    def probe(self, inputs: list[int]) -> dict[int, Probe]:
        """Nothing: it has no circuit for checks; only its samples tell."""
        return {}

    def pretend(self, number: int, faults: str) -> None:
        raise Refusal("a measuring module takes no faults.")
