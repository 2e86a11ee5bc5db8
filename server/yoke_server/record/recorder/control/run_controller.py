"""The run that is being recorded, from its first block until its end is in the database."""

import logging
from collections.abc import Mapping

from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.stops import StopRequested
from yoke_server.live.protocol import Phase
from yoke_server.record.models import RunState
from yoke_server.record.readings.live import live_nodes
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import conditioning
from yoke_server.record.recorder.control.recording import Recording
from yoke_server.record.recorder.control.track import Track
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.progress import Place, ResumedStream
from yoke_server.record.recorder.storage.work import Close
from yoke_server.record.recorder.stream.computed_writer import ComputedWriter
from yoke_server.record.recorder.stream.writer import StreamWriter
from yoke_server.record.runs import sample_bytes_of
from yoke_server.setups.document import FrozenSetup

log = logging.getLogger(__name__)

PATIENCE = 60.0  # s that all devices may be away before a run is ended
ROOM = 256 << 20  # bytes that the writer must still take for computed samples to be kept too
UNSEEN = 1.0  # s that the newest sample of a watched device may be old while something moves


class RunController:
    """At most one run at a time. Every end of a run stops all motion first."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context
        self.recording: Recording | None = None
        self._closing: Close | None = None

    # StreamOrigin

    def record(self, run_id: int, name: str, setup: FrozenSetup, start_ns: int) -> Recording:
        """A run is in the database: its samples are kept from now on."""
        context = self._context
        self.recording = Recording(
            run_id, name, setup, start_ns, context.clock.bench_ns, self._stop_motion
        )
        context.enter(Phase.RECORDING)
        return self.recording

    def add_track(
        self,
        label: str,
        stream_id: int,
        beginning: Place,
        resumed: ResumedStream | None = None,
        computed: Mapping[str, int] | None = None,
    ) -> None:
        """Keep a device's samples from a place on.

        computed : streams by channel key, of what is computed from the first sample on
        """
        recording, context = self.recording, self._context
        assert recording is not None
        device = context.devices[label]
        channels = recording.setup.of_device(label)
        columns = [c.input_number - 1 for c in channels]
        sample_bytes = resumed.sample_bytes if resumed else sample_bytes_of(channels)
        writer = StreamWriter(
            recording.run_id,
            stream_id,
            columns,
            beginning,
            context.parts.writer.put,
            context.clock.monotonic,
            resumed,
            sample_bytes,
        )
        track = Track(
            label,
            device.line,
            writer,
            recording.look,
            recording.fail,
            self._computed_writer(recording, label, computed or {}),
        )
        recording.tracks[label] = track
        device.heard_at = context.now
        device.port.set_streaming(True)
        device.line.subscribe(track, beginning)

    def _computed_writer(
        self, recording: Recording, label: str, streams: Mapping[str, int]
    ) -> ComputedWriter | None:
        setup, context = recording.setup, self._context
        nodes = live_nodes(setup, list(streams)).get(label) if streams else None
        if not nodes:
            return None
        return ComputedWriter(
            recording.run_id,
            streams,
            nodes,
            setup.of_device(label),
            setup.rates_hz[label],
            context.parts.writer.put,
            context.clock.monotonic,
            lambda: context.parts.writer.room_bytes > ROOM,
        )

    def on_open_run(self, event: events.OpenRunLoaded) -> None:
        """Resume a run that an earlier recorder left; its motion is stopped and stays stopped."""
        log.warning("Going on with %s", event.run_name)
        recording = self.record(event.run_id, event.run_name, event.setup, event.start_ns)
        recording.resume(event.progress)
        for label, stream in event.streams.items():
            if device := self._context.devices.get(label):
                device.line.go_on_from(stream, event.setup.rates_hz[label])
                self.add_track(label, stream.stream_id, stream.place, stream)
                device.in_force = conditioning(event.setup, label)

    # While it is recorded

    def tick(self) -> None:
        """Look whether it must end, or is done."""
        if (recording := self.recording) is None:
            return
        recording.tick()
        if why := self._broken(recording):
            self.end(RunState.INTERRUPTED, why)
        elif recording.is_over:
            self.end(RunState.KEPT, recording.triggered)

    def _broken(self, recording: Recording) -> str:
        """Why it cannot go on; empty while it can."""
        now, devices = self._context.now, self._context.devices
        if recording.fault:
            return recording.fault
        if self._context.parts.writer.full:
            return "The database took no samples until the memory was full"
        if now - max((devices[k].heard_at for k in recording.tracks), default=now) > PATIENCE:
            return "No device sent samples for a minute"
        return ""

    def on_actuator_state(self, event: events.ActuatorState) -> None:
        if self.recording:
            self.recording.look_at_actuator(event.state)

    def begin_motion(self, order: events.OrderIn[OrderSpec]) -> None:
        """Raises Refused unless it may: the check of a second ago is not enough."""
        recording = self.recording
        assert recording is not None
        recording.motion_id = order.key
        self._context.actuators.begin_run(order, recording.setup.motion, self._why_unseen)

    def on_motion(self, motion_id: str, problem: str) -> None:
        """The actuator took, or refused, a motion; an earlier run's answer may come late."""
        if self.recording and problem and self.recording.motion_id == motion_id:
            self.end(RunState.INTERRUPTED, f"The actuator did not move: {problem}")

    def _why_unseen(self) -> str:
        """Why nobody sees what a motion does; empty while somebody does."""
        recording, context = self.recording, self._context
        if recording is None:
            return "no run is recorded"
        if recording.triggered or recording.fault:
            return recording.fault or recording.triggered
        for label in sorted(recording.watched_devices):
            device = context.devices.get(label)
            if device is None or device.line.age_s > UNSEEN * context.clock.speed:
                return f"the newest samples of {label} are more than {UNSEEN:g} s old"
        return ""

    # Its end

    def _stop_motion(self, why: str) -> None:
        """What was to end the run has happened: nothing moves any more, a tail is kept."""
        self._context.actuators.stop_all()
        log.info("%s", why)

    def end(self, state: RunState, why: str, stop: StopRequested | None = None) -> None:
        """Stop what moves, then give out everything received, then close.

        stop : the one that ends it
        """
        context, recording = self._context, self.recording
        context.actuators.stop_all()
        if recording is None:
            return
        self.recording = None
        closed = recording.finish()
        computed = recording.finish_computed()
        self._closing = Close(recording.run_id, state, why, closed, stop, computed)
        context.enter(Phase.CLOSING)
        context.parts.writer.put(self._closing)

    def on_closed(self, event: events.RunClosed) -> None:
        """Its end is in the database; where that takes it never, at least that it has ended."""
        work = self._closing
        if work is None or work.run_id != event.run_id:
            return
        if event.problem and work.streams:
            why = f"The database refuses its end: {event.problem}"
            self._closing = Close(work.run_id, RunState.INTERRUPTED, why, [], work.stop)
            self._context.parts.writer.put(self._closing)
            return
        self._closing = None
        self._context.be_idle()

    def on_write_refused(self, event: events.WriteRefused) -> None:
        if self.recording and self.recording.run_id == event.run_id:
            self.end(RunState.INTERRUPTED, f"The database refuses its samples: {event.why}")
