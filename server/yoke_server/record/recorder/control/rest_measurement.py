"""Measuring at rest, step by step: for a zero once; for the shunts off, on, and off again."""

from yoke_server.bench.drivers.base import AcquisitionStatus
from yoke_server.kinds.orders.measuring import RestReadings, ShuntReadings
from yoke_server.record.recorder.control.averaging import Measurement, Readings, shunt_step
from yoke_server.record.recorder.control.bench_device import SETTLING_BLOCKS, Port
from yoke_server.record.recorder.control.sample_window import SampleWindow
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.setups.document import FrozenChannel

PATIENCE = 10.0  # s


class RestMeasurement:
    """One order of this kind; `go_on` gives its answer when there is one."""

    def __init__(
        self,
        order_key: str,
        channels: dict[str, list[FrozenChannel]],
        ports: dict[str, Port],
        now: float,
        *,
        shunt: bool,
    ) -> None:
        self.order_key = order_key
        self._channels = channels
        self._ports = ports
        self._until = now + PATIENCE
        self._is_shunt = shunt
        self._switches = [True, False] if shunt else []  # that are still to be made
        self._parts: dict[str, Measurement] = {}  # by device, once it has said where it is
        self._found: list[Readings] = []
        self._shunt_ohm: dict[str, float] = {}
        for port in ports.values():
            port.read_status(order_key)

    @property
    def devices(self) -> set[str]:
        return set(self._channels)

    def overdue(self, now: float) -> str:
        """Why it took too long; empty as long as it did not."""
        return "Measuring took too long: samples stay away." if now > self._until else ""

    def push_block(self, device: str, placed: PositionedBlock) -> None:
        if part := self._parts.get(device):
            part.push(placed)

    def measure_since(self, device: str, since: AcquisitionStatus) -> None:
        """A device has said where it is: what it samples from there on counts."""
        window, settles = SampleWindow(since), not self._is_shunt
        self._parts[device] = Measurement(self._channels[device], window, settles=settles)

    def switched(self, device: str, shunt_ohm: float, since: AcquisitionStatus) -> None:
        self._shunt_ohm[device] = shunt_ohm
        window = SampleWindow(since, SETTLING_BLOCKS)
        self._parts[device] = Measurement(self._channels[device], window)

    def go_on(self) -> RestReadings | ShuntReadings | None:
        """The answer once everything is measured and switched back."""
        if len(self._parts) < len(self._channels) or not all(
            part.done for part in self._parts.values()
        ):
            return None
        parts, self._parts = self._parts.values(), {}
        self._found.append({key: r for part in parts for key, r in part.result().items()})
        if self._switches:
            self._switch(self._switches.pop(0))
            return None
        return self._steps() if self._shunt_ohm else RestReadings(self._found[0])

    def _steps(self) -> ShuntReadings:
        off, on, off_again = self._found
        return ShuntReadings(
            {
                c.key: shunt_step(off[c.key], on[c.key], off_again[c.key], self._shunt_ohm[label])
                for label, channels in self._channels.items()
                for c in channels
            }
        )

    def _switch(self, on: bool) -> None:
        for label, channels in self._channels.items():
            inputs = [c.input_number for c in channels]
            self._ports[label].set_shunt(self.order_key, inputs, on)

    def shunts_off(self) -> None:
        """Given up in the middle: none may stay on."""
        if self._found:
            self._switch(False)
