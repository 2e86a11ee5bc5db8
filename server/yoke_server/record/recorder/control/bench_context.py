"""State shared by the runner's parts: phase, devices, actuators, the setup in force."""

from yoke_server.bench.models import OrderState
from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.control.actuators import Actuators
from yoke_server.record.recorder.control.bench_device import BenchDevice, conditioning
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.model.phases import FOLLOWS, Refused
from yoke_server.setups.document import FrozenChannel, FrozenSetup


class BenchContext:
    """The present state of one bench; changed by the runner's parts, from one thread."""

    def __init__(self, parts: Parts) -> None:
        self.parts = parts
        self.clock = parts.clock
        self.phase = Phase.TAKING_UP
        self.devices: dict[str, BenchDevice] = {}
        self.actuators = Actuators(
            self.clock.monotonic, self._unwritten_s, lambda: parts.stops.is_listening
        )
        self.setup: FrozenSetup | None = None
        self.state_due = 0.0  # when the screens are told anew

    def _unwritten_s(self) -> float:
        """For how long the database was not written to, or no stop could have been heard."""
        return self.now - min(self.parts.life.written_at, self.parts.stops.heard_at)

    @property
    def now(self) -> float:
        return self.clock.monotonic()

    def enter(self, phase: Phase) -> None:
        if phase is self.phase:
            return
        if phase not in FOLLOWS[self.phase]:
            raise RuntimeError(f"{self.phase} may not be followed by {phase}")
        self.phase = phase
        self.state_due = 0.0

    def be_idle(self) -> None:
        self.enter(Phase.IDLE)
        self.condition_all()

    def condition_all(self) -> None:
        """Bring settings in force where they are not; tried again where a device refused."""
        for device in self.devices.values():
            self.condition(device)

    def condition(self, device: BenchDevice) -> None:
        """Apply the setup's settings while the bench is idle."""
        if self.phase is not Phase.IDLE or not device.usable or self.setup is None:
            return
        wanted = conditioning(self.setup, device.label)
        if wanted and wanted != device.in_force:
            device.condition(wanted)

    def chosen(self, keys: list[str]) -> dict[str, list[FrozenChannel]]:
        """Channels of the setup on the bench, by device."""
        found = [c for c in self.setup.channels if c.key in keys] if self.setup else []
        if len(found) != len(set(keys)):
            raise Refused("The bench works with another setup.", "Put this setup on the bench.")
        labels = {c.device_label for c in found}
        return {label: [c for c in found if c.device_label == label] for label in labels}

    def require_usable(self, labels: set[str]) -> None:
        for label in sorted(labels):
            device = self.devices.get(label)
            if device is None:
                raise Refused(f"{label} is not on this bench.", "Wire its channels anew.")
            if not device.usable:
                raise Refused(
                    f"{label} is not linked: {device.why_not}", "Link it, then try again."
                )

    def require_measurable(self, labels: set[str]) -> None:
        """Linked, and with the setup's settings: a zero by others would be none."""
        self.require_usable(labels)
        for device in (self.devices[label] for label in sorted(labels)):
            if device.refusal:
                raise Refused(refusal_of(device.label, device.refusal), "Change them under Wire.")

    def done(self, key: str, answer: dict[str, object] | None = None) -> None:
        self.parts.listener.answer(key, OrderState.DONE, answer or {})

    def refuse(self, key: str, title: str, hint: str = "") -> None:
        self.parts.listener.answer(key, OrderState.REFUSED, {"title": title, "hint": hint})


def refusal_of(label: str, why: str) -> str:
    return f"{label} does not take its settings: {why}"


def sentence(why: str) -> str:
    return why if why.endswith(".") else f"{why}."
