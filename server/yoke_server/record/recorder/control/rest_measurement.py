"""Measuring at rest, step by step: for a zero once; for the shunts off, on, and off again."""

from typing import Any

from yoke_server.record.recorder.control.averaging import Measuring, Readings, shunt_steps
from yoke_server.record.recorder.control.bench_device import Port
from yoke_server.record.recorder.stream.placed import PlacedBlock
from yoke_server.wire.document import FrozenChannel

PATIENCE = 7.0  # s
FUTURE_NS = 1_000_000_000  # in which no sample lies: the device's clock was put


class RestMeasurement:
    """One order of this kind; `go_on` gives its answer when there is one."""

    def __init__(
        self,
        order_key: str,
        channels: dict[str, list[FrozenChannel]],
        ports: dict[str, Port],
        now: float,
        now_ns: int,
        *,
        shunt: bool,
    ) -> None:
        self.order_key = order_key
        self._channels = channels
        self._ports = ports
        self._until = now + PATIENCE
        self._since_ns = now_ns  # samples of before say nothing, however late they come
        self._shunt = shunt
        self._work = Measuring(channels)
        self._off: Readings | None = None
        self._on: Readings | None = None
        self._switching: set[str] = set()  # devices whose shunts are being switched
        self._shunt_ohm: dict[str, float] = {}

    @property
    def devices(self) -> set[str]:
        return set(self._channels)

    def overdue(self, now: float) -> str:
        """Why it took too long; empty as long as it did not."""
        return "Measuring took too long: samples stay away." if now > self._until else ""

    def push_block(self, device: str, placed: PlacedBlock, now_ns: int) -> None:
        """Take a block that was sampled since this began, or since the shunts were switched."""
        is_new = self._since_ns <= placed.begin_ns <= now_ns + FUTURE_NS
        if is_new and not self._switching:
            self._work.push(device, placed.summary)

    def switched(self, device: str, on: bool, shunt_ohm: float, now_ns: int) -> None:
        self._switching.discard(device)
        self._shunt_ohm[device] = shunt_ohm
        self._since_ns = now_ns
        if on and not self._switching:
            self._work = Measuring(self._channels, settle=True)

    def go_on(self) -> dict[str, Any] | None:
        """The answer once everything is measured and switched back."""
        if self._switching:
            return None
        if self._on is not None:
            return self._answer()
        if not self._work.done:
            return None
        if not self._shunt:
            return self._work.result()
        if self._off is None:
            self._off = self._work.result()
            self._switch(True)
        else:
            self._on = self._work.result()
            self._switch(False)
        return None

    def _answer(self) -> dict[str, Any]:
        assert self._off is not None and self._on is not None
        steps = shunt_steps(self._off, self._on)
        for label, channels in self._channels.items():
            for channel in channels:
                steps[channel.key]["shunt_ohm"] = self._shunt_ohm[label]
        return steps

    def _switch(self, on: bool) -> None:
        self._switching = set(self._channels)
        for label, channels in self._channels.items():
            inputs = [c.input_number for c in channels]
            self._ports[label].set_shunt(self.order_key, inputs, on)

    def shunts_off(self) -> None:
        """Given up in the middle: none may stay on."""
        if self._off is not None:
            self._switch(False)
