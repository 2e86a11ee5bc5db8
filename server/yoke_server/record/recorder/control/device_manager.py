"""Devices of the bench as they come and go, and the setup that is brought in force on them."""

import logging
import math

from yoke_core.timebase.clock import ClockModel

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import Identity
from yoke_server.bench.models import Link
from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import BenchDevice, Port
from yoke_server.record.recorder.control.block_display import BlockDisplay
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.stream.device_line import DeviceLine

log = logging.getLogger(__name__)

HOST = "this recorder"
DRIFT_EVERY = 20  # readings of a device's clock, after which its drift is looked at
DRIFT_MOVED = 0.2  # ppm, by which it must differ from what was noted


class DeviceManager:
    def __init__(self, context: BenchContext, display: BlockDisplay) -> None:
        self._context = context
        self._display = display
        self._addresses: dict[str, events.Address] = {}
        self._drift: dict[str, float] = {}  # as it was noted last

    def on_devices(self, event: events.DevicesKnown) -> None:
        """New devices get a port; one that moved or went loses its own."""
        context = self._context
        for label in [k for k, a in self._addresses.items() if event.devices.get(k) != a]:
            del self._addresses[label]
            if device := context.devices.get(label):
                device.port.finish()
                device.lost("its address was changed.")
            else:
                context.actuators.remove(label)
        for label, address in event.devices.items():
            if label not in self._addresses:
                self._addresses[label] = address
                self._know(label, address)

    def start_ports(self) -> None:
        """Let the devices speak, now that it is known where each is to be gone on from."""
        for device in self._context.devices.values():
            device.port.start()

    def _know(self, label: str, address: events.Address) -> None:
        context = self._context
        if port := context.parts.make_port(label, address):
            if old := context.devices.get(label):
                old.port = port
            else:
                context.devices[label] = self._device(label, port)
            if context.phase is not Phase.TAKING_UP:
                port.start()
        elif actuator := context.parts.make_actuator(label, address):
            context.actuators.add(label, actuator, registry.capabilities(address.driver))
        else:
            note = f"there is no driver “{address.driver}”."
            context.parts.listener.note(label, link=Link.LOST, link_note=note)

    def _device(self, label: str, port: Port) -> BenchDevice:
        context, clock = self._context, ClockModel()

        def ask(first: int, last: int) -> None:
            context.devices[label].port.send_again(first, last)  # whichever port it has by then

        parts = context.parts
        line = DeviceLine(clock, parts.clock.bench_ns, parts.clock.monotonic, ask, parts.budget)
        device = BenchDevice(label, port, clock, line)
        line.subscribe(self._display.of(device))
        return device

    def on_setup(self, event: events.SetupLoaded) -> None:
        context = self._context
        before = {c.key: c for c in context.setup.channels} if context.setup else {}
        context.setup = event.setup
        after = event.setup.channels if event.setup else []
        same = {c.key for c in after if (b := before.get(c.key)) and c.measures_as(b)}
        for device in context.devices.values():
            channels = event.setup.of_device(device.label) if event.setup else []
            if device.show_channels(event.setup, same):
                context.state_due = 0.0  # the screens need the layout before its frames
            if channels or context.phase is Phase.IDLE:
                device.port.set_streaming(bool(channels))
            context.condition(device)

    def on_configured(self, event: events.Configured) -> None:
        """A device's answer about the settings that it was sent last."""
        self._context.parts.listener.note(event.device, link_note=event.problem[:300])
        self._context.devices[event.device].configured(event.status, event.problem)

    def on_linked(self, event: events.Linked) -> None:
        device, other = self._context.devices[event.device], event.controlled_by_other
        device.why_not = other
        self._drift.pop(event.device, None)  # it may be another one, by the same name
        self._context.parts.listener.note(
            event.device,
            link=Link.LISTENING if other else Link.LINKED,
            link_note=other[:300],
            controlled_by=other[:60] or HOST,
            **_facts(event.identity),
        )
        self._context.condition(device)

    def on_housekeeping(self, event: events.HousekeepingRead) -> None:
        found = event.housekeeping
        listener = self._context.parts.listener
        listener.note(event.device, temperature_c=found.temperature_c, battery=found.battery)

    def on_restart(self, label: str, acquisition: int) -> bool:
        """Whether a device began anew by itself: its settings are sent again then."""
        device = self._context.devices[label]
        if device.expects(acquisition):
            return False
        log.warning("%s began anew.", label)
        device.restarted()
        note = "it began anew by itself; its settings are sent again."
        self._context.parts.listener.note(label, link_note=note)
        self._context.condition(device)
        return True

    def on_lost(self, event: events.Lost) -> None:
        self._context.devices[event.device].lost(event.why)
        self._note_lost(event.device, event.why)

    def on_clock(self, event: events.ClockRead) -> None:
        clock = self._context.devices[event.device].clock
        was_put, drift = clock.push(event.reading), round(clock.drift_ppm, 1)
        moved = abs(drift - self._drift.get(event.device, math.inf)) >= DRIFT_MOVED
        if was_put or (moved and clock.readings % DRIFT_EVERY == 0):
            self._drift[event.device] = drift
            self._context.parts.listener.note(
                event.device, drift_ppm=drift, clock_steps=clock.steps
            )

    def on_actuator_connected(self, event: events.ActuatorConnected) -> None:
        self._context.parts.listener.note(
            event.actuator,
            link=Link.LINKED,
            link_note="",
            controlled_by=HOST,
            **_facts(event.identity),
        )

    def on_actuator_lost(self, event: events.ActuatorLost) -> None:
        self._context.actuators.set_state(event.actuator, None)
        self._note_lost(event.actuator, event.why)

    def _note_lost(self, label: str, why: str) -> None:
        self._context.parts.listener.note(
            label, link=Link.LOST, link_note=why[:300], controlled_by=""
        )


def _facts(i: Identity) -> dict[str, str]:
    """Cut to what the database holds of each."""
    return {
        "identity": i.model[:120],
        "serial": i.serial[:40],
        "firmware": i.firmware[:40],
        "self_test": i.self_test[:40],
    }
