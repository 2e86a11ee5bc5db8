"""Driver of the measuring module: voltages and resistances (docs/amplifier-protocol.md)."""

from typing import ClassVar

from yoke_server.bench.drivers.base import (
    TEXT_COMMANDS,
    AcquisitionStatus,
    Announcement,
    Capability,
    InputSettings,
    Offers,
)
from yoke_server.bench.drivers.plain import MeasuresOnly
from yoke_server.bench.drivers.streaming import StreamingDevice


class MeasuringModule(MeasuresOnly, StreamingDevice):
    """Nothing can be set but its rate, up to 1 kHz."""

    capabilities: ClassVar = frozenset({Capability.ACQUIRES, Capability.SENDS_AGAIN})
    announced: ClassVar = Announcement(TEXT_COMMANDS, "MM8")
    offers: ClassVar = Offers(("voltage",) * 4 + ("resistance",) * 4, fastest_hz=1000.0)

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus:
        """Bring the rate in force; there are no other settings."""
        return self.sample_at(rate_hz)


class PulseModule(MeasuringModule):
    """Speaks as the measuring module does, and measures how often pulses come."""

    announced: ClassVar = Announcement(TEXT_COMMANDS, "PM")
    offers: ClassVar = Offers(("frequency",) * 2, fastest_hz=1000.0, usual_hz=100.0)
