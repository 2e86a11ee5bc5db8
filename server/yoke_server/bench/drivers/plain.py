"""The base of drivers for simple devices without a clock or settings."""

from yoke_core.wiring.probe import Probe

from yoke_server.bench.drivers.base import Housekeeping, Refusal


class MeasuresOnly:
    """No shunt, no circuit for checks, no faults, no data sheets; samples are all it gives."""

    def set_shunt(self, inputs: list[int], on: bool) -> None:
        raise Refusal("this device has no shunt.")

    def shunt_ohm(self, number: int) -> float:
        raise Refusal("this device has no shunt.")

    def probe(self, inputs: list[int]) -> dict[int, Probe]:
        """Nothing: only its samples tell how it is wired."""
        return {}

    def pretend(self, number: int, faults: str) -> None:
        raise Refusal("this device takes no faults.")

    def read_sheets(self) -> dict[int, bytes]:
        """Nothing: it does not reach the memories of plugs."""
        return {}

    def write_sheet(self, number: int, memory: bytes) -> None:
        raise Refusal("this device does not reach the memories of plugs.")


class ObeysAnybody(MeasuresOnly):
    """It knows no hosts, so that nobody controls it; nor does it know how it is itself."""

    def take_control(self, host: str) -> None:
        """Nothing is to be taken."""

    def controller(self) -> str:
        return "nobody"

    def housekeeping(self) -> Housekeeping:
        return Housekeeping()

    def more(self) -> bool:
        """Its readings are few, and are to be had only in their time."""
        return True
