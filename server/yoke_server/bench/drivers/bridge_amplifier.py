"""Driver of the eight-input bridge amplifier (docs/amplifier-protocol.md)."""

from typing import ClassVar

from yoke_core.wiring.probe import PinReadings, Probe

from yoke_server.bench.drivers.base import (
    TEXT_COMMANDS,
    AcquisitionStatus,
    Announcement,
    Capability,
    DriverError,
    InputSettings,
    Offers,
)
from yoke_server.bench.drivers.streaming import StreamingDevice

PINS = 6  # readings a state


class BridgeAmplifier(StreamingDevice):
    """Conditions bridges and puts its own shunt across them."""

    capabilities: ClassVar = frozenset(
        {
            Capability.ACQUIRES,
            Capability.CONDITIONS,
            Capability.SHUNTS,
            Capability.SENDS_AGAIN,
            Capability.DIAGNOSES,
            Capability.PRETENDS,
            Capability.SHEETS,
        }
    )
    announced: ClassVar = Announcement(TEXT_COMMANDS, "BA8")
    offers: ClassVar = Offers(
        ("bridge ratio",) * 8,
        (1.0, 2.5, 5.0),
        (2.0, 8.0, 40.0, 500.0),
        (120.0, 350.0, 1000.0),
        (0.0, 4800.0),
        max_balance=0.04,
        bits=24,
    )

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus:
        """Bring settings in force, shunts off, and read them back.

        Gives the acquisition's status after that: blocks from its ``next`` on were taken with
        these settings. Raises DriverError naming what the device does not do.
        """
        lines = []
        for i in inputs:
            lines += [
                f"INPut{i.number}:BRIDge {i.bridge.upper()}",
                f"INPut{i.number}:COMPletion {i.completion_ohm:g}",
                f"INPut{i.number}:EXCitation {i.excitation_v:g}",
                f"INPut{i.number}:RANGe {i.range_mv_v:g}",
                f"INPut{i.number}:CARRier {i.carrier_hz:g}",
                f"INPut{i.number}:BALance {i.balance:.9g}",
                f"INPut{i.number}:SHUNt OFF",
            ]
        status = self.sample_at(rate_hz, *lines)
        for i in inputs:
            self._confirm(i)
        return status

    def _confirm(self, wanted: InputSettings) -> None:
        n = wanted.number
        found = self._control.ask(
            f"INPut{n}:BRIDge?;COMPletion?;EXCitation?;RANGe?;CARRier?;BALance?;SHUNt?"
        ).split(";")
        asked = [
            wanted.bridge.upper(),
            f"{wanted.completion_ohm:g}",
            f"{wanted.excitation_v:g}",
            f"{wanted.range_mv_v:g}",
            f"{wanted.carrier_hz:g}",
            f"{wanted.balance:.9g}",
            "0",
        ]
        names = ("bridge", "completion", "excitation", "range", "carrier", "balance", "shunt")
        for name, want, got in zip(names, asked, found, strict=True):
            if want != got:
                raise DriverError(f"input {n} has {name} {got} after being told {want}.")

    def set_shunt(self, inputs: list[int], on: bool) -> None:
        self._control.command(*(f"INPut{n}:SHUNt {'ON' if on else 'OFF'}" for n in inputs))

    def shunt_ohm(self, number: int) -> float:
        return self._control.ask_number(f"INPut{number}:SHUNt:RESistance?")

    def probe(self, inputs: list[int]) -> dict[int, Probe]:
        """What the checking circuit reads at the pins of some inputs, one after the other."""
        return {n: self._probe(n) for n in inputs}

    def _probe(self, number: int) -> Probe:
        answer = self._control.ask(f"INPut{number}:PROBe?")
        try:
            values = [float(v) for v in answer.split(",")]
            states = [PinReadings(*values[i : i + PINS]) for i in range(0, len(values), PINS)]
            return Probe(*states)
        except (TypeError, ValueError):
            raise DriverError(
                f"input {number} answers its check with “{answer[:40]}”, which makes no sense."
            ) from None

    def read_sheets(self) -> dict[int, bytes]:
        """What lies in the memory of each input's plug; nothing of one without a memory."""
        found = {}
        for number in range(1, len(self.offers.signals) + 1):
            answer = self._control.ask(f"INPut{number}:SHEet?")
            try:
                found[number] = b"" if answer == "none" else bytes.fromhex(answer)
            except ValueError:
                raise DriverError(f"the memory at input {number} cannot be read.") from None
        return found

    def write_sheet(self, number: int, memory: bytes) -> None:
        """Write a plug's memory and read it back."""
        self._control.command(f'INPut{number}:SHEet "{memory.hex()}"')
        if self._control.ask(f"INPut{number}:SHEet?") != memory.hex():
            raise DriverError(f"the memory at input {number} did not keep what was written.")

    def pretend(self, number: int, faults: str) -> None:
        """Have a stand-in's input be wrong in some way; `none` makes it well."""
        self._control.command(f"TEST:FAULt{number} {faults}")
