"""The recorder of one bench: what happens comes in as events, what must be done goes out.

It has no thread, no socket and no database of its own: all that is handed in, so that a test
can play any course of events on a clock of its own. Three rules hold whatever happens: what
was stopped never starts by itself; what ends a run stops the actuator first; what was
received is stored, or shown as missing.

`DeviceManager` knows the devices, `RunStarter` makes a run of a start order, `RunController`
records it, `ZeroController` measures zeros and shunts, `WiringCheck` the wiring, `DeviceCommands`
reach what is beside measuring; what they share stands in the `BenchContext`.
"""

import logging
from collections.abc import Callable
from typing import Any

from yoke_core.block import BlockSummary, summarise_block

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.models import RunState
from yoke_server.record.recorder.control import device_commands
from yoke_server.record.recorder.control.bench_context import BenchContext, not_taken
from yoke_server.record.recorder.control.bench_device import BenchDevice
from yoke_server.record.recorder.control.device_manager import DeviceManager
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.control.run_controller import RunController
from yoke_server.record.recorder.control.run_starter import RunStarter
from yoke_server.record.recorder.control.wiring_check import WiringCheck
from yoke_server.record.recorder.control.zero_controller import ZeroController
from yoke_server.record.recorder.display.bench_state import bench_state
from yoke_server.record.recorder.display.live_frames import BINS, NO_RUN
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import DOING, HINT, KNOWN, TAKEN, Refused

log = logging.getLogger(__name__)

STATE_EVERY = 1.0  # s
CONDITION_EVERY = 3.0  # s


class BenchRecorder:
    """All that one bench needs; no two of its methods are called at a time."""

    def __init__(self, parts: Parts) -> None:
        self.context = BenchContext(parts)
        self.links = DeviceManager(self.context)
        self.run = RunController(self.context)
        self.beginning = RunStarter(self.context, self.run)
        self.at_rest = ZeroController(self.context)
        self.wiring_check = WiringCheck(self.context)
        self.device_commands = device_commands.DeviceCommands(self.context)
        self.taken = False  # by another recorder
        self._condition_due = 0.0
        self._shown: object = None
        self._handlers: dict[type, Callable[[Any], None]] = {
            events.Arrived: self._on_block,
            events.ClockRead: self.links.on_clock,
            events.Linked: self.links.on_linked,
            events.Lost: self._on_lost,
            events.Configured: self._on_configured,
            events.ShuntSet: self.at_rest.on_shunt,
            events.Probed: self.wiring_check.on_probed,
            events.CommandFinished: self.device_commands.on_command_finished,
            events.ActuatorConnected: self.links.on_frame_linked,
            events.ActuatorLost: self.links.on_frame_lost,
            events.ActuatorState: self.run.on_frame_seen,
            events.ActuatorCommandFinished: self._on_frame_done,
            events.OrderIn: self._on_order,
            events.DevicesKnown: self.links.on_devices,
            events.SetupLoaded: self.links.on_setup,
            events.OpenRunFound: self.run.on_open_run,
            events.Began: self.beginning.on_began,
            events.NotBegun: self.beginning.on_not_begun,
            events.WriteRefused: self.run.on_write_refused,
            events.BenchTaken: self._on_taken,
        }
        self._orders: dict[str, Callable[[events.OrderIn], None]] = {
            "start": self.beginning.start,
            "stop": self._stop,
            "emergency": self._emergency,
            "return": lambda order: self.context.motion.go_home(order.key),
            "measure": self.at_rest.measure,
            "shunt": self.at_rest.measure,
            "check": self.wiring_check.check,
            **dict.fromkeys(device_commands.KINDS, self.device_commands.tell),
            "reset_peaks": self._reset_peaks,
        }

    def handle(self, event: events.Event) -> None:
        """Take one event. A fault of our own stops what moves, and the bench goes on."""
        try:
            self._handlers[type(event)](event)
        except Exception:
            log.exception("Not handled: %s", type(event).__name__)
            self.context.motion.stop()

    def tick(self) -> None:
        """What is due by time, not by events."""
        context = self.context
        context.motion.alive()
        context.motion.watch("" if self.beginning.under_way else self.run.unwatched())
        self.beginning.tick()
        self.at_rest.tick()
        self.wiring_check.tick()
        self.run.tick()
        if context.now >= self._condition_due:
            self._condition_due = context.now + CONDITION_EVERY
            context.condition_all()
        if context.now >= context.state_due:
            context.state_due = context.now + STATE_EVERY
            self._show_state()

    def leave(self) -> None:
        """The process ends: nothing moves any more, an open run waits for the next recorder."""
        self.context.motion.stop()
        if self.run.recording:
            self.run.recording.leave()
        for device in self.context.devices.values():
            device.port.finish()
        self.context.motion.finish()
        self.context.parts.publisher.state({**self._state(), "left": True})

    # Events that concern more than one room

    def _on_lost(self, event: events.Lost) -> None:
        self.links.on_lost(event)
        why = f"{event.device} is lost: {event.why}"
        self.beginning.on_lost(event.device, why)
        self._measure_no_more(event.device, why)

    def _measure_no_more(self, device: str, why: str) -> None:
        self.at_rest.give_up(device, why)
        self.wiring_check.give_up(device, why)

    def _on_configured(self, event: events.Configured) -> None:
        if self.beginning.waits_for(event.token):
            self.beginning.on_configured(event)
        elif event.token == self.context.devices[event.device].asked:
            self.links.on_configured(event)
            if event.problem:
                self._measure_no_more(event.device, not_taken(event.device, event.problem))

    def _on_frame_done(self, event: events.ActuatorCommandFinished) -> None:
        waiting = self.context.motion.waiting
        if event.deed == "move":
            self.run.on_moved(event.token, event.problem)
        elif event.deed == "home" or event.token in waiting:
            waiting.discard(event.token)
            if event.problem:
                self.context.refuse(event.token, f"The device did not do it: {event.problem}")
            else:
                self.context.done(event.token)

    def _on_taken(self, event: events.BenchTaken) -> None:
        """Somebody else records here now: hands off, and nothing is closed in their place."""
        log.error("Another recorder has taken this bench.")
        self.context.motion.stop()
        self.taken = True

    # Samples

    def _on_block(self, event: events.Arrived) -> None:
        """StopConditions first, then the run, then the screens."""
        device, block = self.context.devices[event.device], event.block
        recording = self.run.recording
        if not device.frames.keys and not (recording and event.device in recording.tracks):
            device.ring.push(block)  # nobody looks at it, yet a start may be under way
            return
        now = self.context.now
        place = recording.place_of(event.device, block) if recording else None
        digest = summarise_block(block.counts, block.full_scale, block.rail, BINS, place)
        if not block.again:
            device.seen_at = now
            device.settle(block)
            if recording and (met := recording.look(event.device, digest)):
                self.run.is_done(met)
        if recording:
            recording.push(event.device, block, digest, now)
        else:
            device.ring.push(block)
        if not block.again:  # old ones are of use to the run, not to the screens
            if device.settled:
                self.at_rest.push(event.device, digest)
                self.wiring_check.push(event.device, digest, block.rate_hz)
            self._show_block(device, block, digest)

    def _show_block(self, device: BenchDevice, block: SampleBlock, digest: BlockSummary) -> None:
        end_ns = device.clock.host_ns(block.time_ns) + round(block.samples * 1e9 / block.rate_hz)
        run = self.run.recording
        in_run = run and device.label in run.tracks
        run_s = (end_ns - run.start_ns) * 1e-9 if run and in_run else NO_RUN
        self.context.parts.publisher.frame(device.frames.encode(digest, end_ns * 1e-9, run_s))

    # Orders

    def _on_order(self, order: events.OrderIn) -> None:
        context = self.context
        try:
            if order.expires_at <= context.clock.utc():
                raise Refused("The order came too late.", "Give it again.")
            if order.kind not in KNOWN:
                raise Refused(f"This recorder knows no order “{order.kind}”.")
            if order.kind not in TAKEN[context.phase]:
                raise Refused(DOING[context.phase], HINT[context.phase])
            self._orders[order.kind](order)
        except Refused as refused:
            context.refuse(order.key, str(refused), refused.hint)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            log.exception("Order %s", order.kind)
            context.refuse(order.key, f"The order makes no sense to the recorder: {error!r}")

    def _stop(self, order: events.OrderIn) -> None:
        """End the run, or the beginning of one; answered when the actuator stands."""
        wanted, recording = order.arguments.get("run"), self.run.recording
        if wanted and (recording is None or recording.run_id != wanted):
            raise Refused("This run is not being recorded.")
        self._stop_everything(order.key, str(order.arguments.get("why") or "Stopped by hand"))

    def _emergency(self, order: events.OrderIn) -> None:
        self._stop_everything(order.key, "Emergency stop")

    def _stop_everything(self, key: str, why: str) -> None:
        """The actuator before all else, then whatever was going on."""
        if not self.context.motion.stop_for(key):
            self.context.done(key)
        self.beginning.call_off(why)
        self.at_rest.end(why)
        self.wiring_check.end(why)
        if self.run.recording:
            self.run.end(RunState.KEPT, why)

    def _reset_peaks(self, order: events.OrderIn) -> None:
        keys = [str(k) for k in order.arguments.get("channels") or []]
        for device in self.context.devices.values():
            device.frames.reset_peaks(keys)
        self.context.done(order.key)

    # Showing

    def _state(self) -> dict[str, Any]:
        return bench_state(self.context, self.run.recording)

    def _show_state(self) -> None:
        """The state each second; and news where the preflight list reads something else in it."""
        state = self._state()
        self.context.parts.publisher.state(state)
        facts = (state["home"], state["motion"])
        if facts != self._shown:
            self._shown = facts
            self.context.parts.publisher.news("bench")
