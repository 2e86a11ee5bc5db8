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

from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.stops import StopRequested
from yoke_server.kinds.orders.devices import Pretend, ReadSheets, WriteSheet
from yoke_server.kinds.orders.measuring import (
    CheckShunts,
    CheckWiring,
    MeasureAtRest,
    TakeSnapshot,
)
from yoke_server.kinds.orders.runs import (
    EndGently,
    GoOn,
    HoldHere,
    MarkRun,
    PauseRun,
    ReleaseStop,
    ResetPeaks,
    ReturnHome,
    SkipLeg,
    StartRun,
)
from yoke_server.live.protocol import BenchState, Phase
from yoke_server.record.models import RunState
from yoke_server.record.recorder.control import device_commands
from yoke_server.record.recorder.control.bench_context import BenchContext, refusal_of
from yoke_server.record.recorder.control.bench_state import bench_state
from yoke_server.record.recorder.control.block_display import BlockDisplay
from yoke_server.record.recorder.control.device_manager import DeviceManager
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.control.run_controller import RunController
from yoke_server.record.recorder.control.run_starter import RunStarter
from yoke_server.record.recorder.control.signal_snapshot import SignalSnapshots
from yoke_server.record.recorder.control.wiring_check import WiringCheck
from yoke_server.record.recorder.control.zero_controller import ZeroController
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import DOING, HINT, TAKEN, Refused
from yoke_server.record.recorder.stream.positioned import PositionedBlock

log = logging.getLogger(__name__)

STATE_EVERY = 1.0  # s
CONDITION_EVERY = 3.0  # s


class BenchRecorder:
    """All that one bench needs; no two of its methods are called at a time, but `stop_now`."""

    def __init__(self, parts: Parts) -> None:
        self.context = BenchContext(parts)
        display = BlockDisplay(
            parts.publisher.frame,
            self._run_start_ns,
            self._measure,
            self._on_restart,
            self.context.devices.values,
        )
        self.devices = DeviceManager(self.context, display)
        self.run = RunController(self.context)
        self.starter = RunStarter(self.context, self.run)
        self.zeroing = ZeroController(self.context)
        self.wiring_check = WiringCheck(self.context)
        self.snapshots = SignalSnapshots(self.context)
        self.device_commands = device_commands.DeviceCommands(self.context)
        self.taken = False  # by another recorder
        self._unconfirmed: dict[str, StopRequested] = {}  # stops that are being carried out
        self._early_stop: StopRequested | None = None  # before it is known what was left open
        self._returns: set[str] = set()  # orders to be answered when the way home has begun
        self._condition_due = 0.0
        self._shown: object = None
        self._handlers: dict[type, Callable[[Any], None]] = {
            events.Arrived: self._on_block,
            events.ClockRead: self.devices.on_clock,
            events.Linked: self.devices.on_linked,
            events.HousekeepingRead: self.devices.on_housekeeping,
            events.Lost: self._on_lost,
            events.Configured: self._on_configured,
            events.StatusRead: self.zeroing.on_status,
            events.ShuntSet: self.zeroing.on_shunt,
            events.Probed: self.wiring_check.on_probed,
            events.CommandFinished: self.device_commands.on_command_finished,
            events.ActuatorConnected: self.devices.on_actuator_connected,
            events.ActuatorLost: self.devices.on_actuator_lost,
            events.ActuatorState: self._on_actuator_state,
            events.ActuatorCommandFinished: self._on_actuator_command,
            events.OrderIn: self._on_order,
            StopRequested: self._on_stop,
            events.StopsReleased: self._on_released,
            events.DevicesKnown: self.devices.on_devices,
            events.SetupLoaded: self.devices.on_setup,
            events.OpenRunLoaded: self._on_open_run,
            events.NoOpenRun: self._on_no_open_run,
            events.Began: self.starter.on_began,
            events.NotBegun: self.starter.on_not_begun,
            events.RunClosed: self.run.on_closed,
            events.WriteRefused: self.run.on_write_refused,
            events.BenchLocked: self._on_bench_locked,
        }
        self._orders: dict[type[OrderSpec], Callable[[Any], None]] = {
            StartRun: self.starter.start,
            MarkRun: self.run.mark,
            PauseRun: self.run.pause,
            GoOn: self.run.go_on,
            HoldHere: self.run.hold,
            SkipLeg: self.run.skip,
            EndGently: self.run.unload,
            ReturnHome: self._return,
            ReleaseStop: self._release,
            MeasureAtRest: self.zeroing.measure,
            CheckShunts: self.zeroing.check_shunts,
            CheckWiring: self.wiring_check.check,
            TakeSnapshot: self.snapshots.take,
            Pretend: self.device_commands.send,
            ReadSheets: self.device_commands.send,
            WriteSheet: self.device_commands.send,
            ResetPeaks: self._reset_peaks,
        }

    def handle(self, event: events.Event) -> None:
        """Take one event. A fault of our own stops what moves, and the bench goes on."""
        try:
            self._handlers[type(event)](event)
        except Exception:
            log.exception("Not handled: %s", type(event).__name__)
            self.context.actuators.stop_all()

    def stop_now(self, stop: StopRequested) -> None:
        """Have everything stand before the stop is handled as an event. From any thread."""
        self.context.actuators.stop_for(stop)

    def tick(self) -> None:
        """What is due by time, not by events."""
        context = self.context
        context.actuators.tick(context.phase)
        for device in context.devices.values():
            device.line.tick()
        self.starter.tick()
        self.zeroing.tick()
        self.wiring_check.tick()
        self.snapshots.tick()
        self.run.tick()
        if context.now >= self._condition_due:
            self._condition_due = context.now + CONDITION_EVERY
            context.condition_all()
        if context.now >= context.state_due:
            context.state_due = context.now + STATE_EVERY
            self._show_state()

    def leave(self) -> None:
        """The process ends: nothing moves any more, an open run waits for the next recorder."""
        self.context.actuators.stop_all()
        if self.run.recording:
            self.run.recording.leave()
        for device in self.context.devices.values():
            device.port.finish()
        self.context.actuators.finish()
        self.context.parts.publisher.state(self._state().model_copy(update={"left": True}))

    # Taking up what an earlier recorder left

    def _on_open_run(self, event: events.OpenRunLoaded) -> None:
        try:
            self.run.on_open_run(event)
        except Exception:
            log.exception("%s cannot be gone on with.", event.run_name)
            self.run.end(RunState.INTERRUPTED, "The recorder cannot go on with it")
        if stop := self._early_stop:
            self.run.end(RunState.KEPT, stop.why, stop)
        self.devices.start_ports()

    def _on_no_open_run(self, event: events.NoOpenRun) -> None:
        self.context.be_idle()
        self.devices.start_ports()

    # Events that concern more than one room

    def _on_lost(self, event: events.Lost) -> None:
        self.devices.on_lost(event)
        why = f"{event.device} is lost: {event.why}"
        self.starter.on_lost(event.device, why)
        self._measure_no_more(event.device, why)

    def _on_restart(self, device: str, acquisition: int) -> None:
        """A device began a new acquisition: unless it was told to, what was under way with it
        is over."""
        self.starter.on_restart(device, acquisition)
        if self.devices.on_restart(device, acquisition):
            self._measure_no_more(device, f"{device} began anew")

    def _measure_no_more(self, device: str, why: str) -> None:
        self.zeroing.give_up(device, why)
        self.wiring_check.give_up(device, why)
        self.snapshots.give_up(device, why)

    def _on_configured(self, event: events.Configured) -> None:
        if self.starter.waits_for(event.token):
            self.starter.on_configured(event)
        elif event.token == self.context.devices[event.device].asked:
            self.devices.on_configured(event)
            if event.problem:
                self._measure_no_more(event.device, refusal_of(event.device, event.problem))

    def _on_actuator_state(self, event: events.ActuatorState) -> None:
        self.context.actuators.set_state(event.actuator, event.state)
        self.run.on_actuator_state(event)

    def _on_actuator_command(self, event: events.ActuatorCommandFinished) -> None:
        actuators = self.context.actuators
        if event.action == "stop":
            problem = actuators.on_stopped(event.actuator, event.token, event.problem)
            if problem is not None:
                self._confirm(event.token, problem)
            return
        if event.problem:
            actuators.permits.end(event.actuator)
        self.run.on_motion(event.token, event.problem)
        if event.token in self._returns:
            self._returns.discard(event.token)
            if event.problem:
                self.context.refuse(event.token, f"The actuator did not move: {event.problem}")
            else:
                self.context.done(event.token)

    def _on_bench_locked(self, event: events.BenchLocked) -> None:
        """Somebody else records here now: hands off, and nothing is closed in their place."""
        log.error("Another recorder has taken this bench.")
        self.context.actuators.stop_all()
        self.taken = True

    # Samples

    def _on_block(self, event: events.Arrived) -> None:
        """In order to the run first, then to the screens: see `DeviceLine`."""
        device = self.context.devices[event.device]
        device.heard_at = self.context.now
        device.line.push_block(event.block)

    def _measure(self, device: str, placed: PositionedBlock) -> None:
        self.zeroing.push_block(device, placed)
        self.wiring_check.push_block(device, placed)
        self.snapshots.push_block(device, placed)

    def _run_start_ns(self, device: str) -> int | None:
        recording = self.run.recording
        if recording is None or recording.waiting or device not in recording.tracks:
            return None
        return recording.start_ns

    # Orders and stops

    def _on_order(self, order: events.OrderIn[OrderSpec]) -> None:
        context = self.context
        try:
            if context.now >= order.deadline:
                raise Refused("The order came too late.", "Give it again.")
            if type(order.order) not in TAKEN[context.phase]:
                raise Refused(DOING[context.phase], HINT[context.phase])
            self._orders[type(order.order)](order)
        except Refused as refused:
            context.refuse(order.key, str(refused), refused.hint)
        except (KeyError, TypeError, ValueError, AttributeError):
            log.exception("Order %s", order.order.kind)
            context.refuse(
                order.key, "The recorder cannot read the order.", "Its log says what is wrong."
            )

    def _on_stop(self, stop: StopRequested) -> None:
        """Stop the actuators first, then the activity of the phase. Taken in every phase."""
        context = self.context
        context.actuators.stop_for(stop)
        self._unconfirmed[stop.key] = stop
        if context.phase is Phase.TAKING_UP:
            self._early_stop = stop
        recording = self.run.recording
        if stop.run and (recording is None or recording.run_id != stop.run):
            self._confirm(stop.key, "")  # that run is over already
            return
        if not context.actuators.confirm_stop(stop.key):
            self._confirm(stop.key, "")
        self.starter.call_off(stop.why)
        self.zeroing.end(stop.why)
        self.wiring_check.end(stop.why)
        self.run.end(RunState.KEPT, stop.why, stop)
        context.state_due = 0.0

    def _confirm(self, key: str, problem: str) -> None:
        """A stop is carried out, or something may not stand: told at once, then written down."""
        self.context.parts.stops.confirm(key, problem)
        if stop := self._unconfirmed.pop(key, None):
            self.context.parts.life.keep_stop(stop, problem)

    def _release(self, order: events.OrderIn[ReleaseStop]) -> None:
        """Let things move again, as soon as that is written down."""
        if self._unconfirmed or self.context.parts.life.has_unkept_stops:
            raise Refused("The stop is not written down yet.", "Try again in a second.")
        self.context.actuators.permits.require_releasable(order.requested_at)
        self.context.parts.listener.release(order.key, order.requested_at)

    def _on_released(self, event: events.StopsReleased) -> None:
        self.context.actuators.permits.release(event.requested_at)
        self.context.state_due = 0.0

    def _return(self, order: events.OrderIn[ReturnHome]) -> None:
        self.context.actuators.go_home(order)
        self._returns.add(order.key)

    def _reset_peaks(self, order: events.OrderIn[ResetPeaks]) -> None:
        for device in self.context.devices.values():
            device.frames.reset_peaks(order.order.channels)
            device.late.reset_peaks(order.order.channels)
        self.context.done(order.key)

    # Showing

    def _state(self) -> BenchState:
        return bench_state(self.context, self.run.recording)

    def _show_state(self) -> None:
        """The state each second; and news where the preflight list reads something else in it."""
        state = self._state()
        self.context.parts.publisher.state(state)
        facts = (state.home, state.motion, state.latched)
        if facts != self._shown:
            self._shown = facts
            self.context.parts.publisher.news("bench")
