"""The run that is being recorded: its beginning is past, its end is watched for."""

import logging
from typing import Any

from yoke_server.record.models import RunState
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import conditioning
from yoke_server.record.recorder.control.pending_start import make_track
from yoke_server.record.recorder.control.recording import Recording, Track
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import Phase, Refused
from yoke_server.record.recorder.storage.writer import Close
from yoke_server.wire.document import FrozenSetup

log = logging.getLogger(__name__)

PATIENCE = 60.0  # s that all devices may be away before a run is ended
UNWATCHED = 1.0  # s without samples of a device that is watched, after which nothing moves


class RunController:
    """At most one at a time; what ends it stops the actuator first."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context
        self.recording: Recording | None = None

    def track(self, label: str, setup: FrozenSetup, ids: tuple[int, int], **where: Any) -> Track:
        """A device's part of the run ``ids`` (run, stream)."""
        put, monotonic = self._context.parts.writer.put, self._context.clock.monotonic
        return make_track(self._context.devices[label], setup, ids, put, monotonic, **where)

    def record(
        self, run_id: int, name: str, setup: FrozenSetup, start_ns: int, tracks: dict[str, Track]
    ) -> None:
        context = self._context
        for label in tracks:
            context.devices[label].seen_at = context.now
            context.devices[label].port.set_streaming(True)
        self.recording = Recording(run_id, name, setup, start_ns, tracks, context.clock.bench_ns)
        context.enter(Phase.RECORDING)

    def on_open_run(self, event: events.OpenRunFound) -> None:
        """Go on with a run that an earlier recorder left; what moved then stands, and stays so."""
        log.warning("Going on with %s", event.run_name)
        tracks = {
            label: self.track(
                label, event.setup, (event.run_id, resumed.stream_id), resumed=resumed
            )
            for label, resumed in event.streams.items()
            if label in self._context.devices
        }
        self.record(event.run_id, event.run_name, event.setup, event.start_ns, tracks)
        for label in tracks:
            self._context.devices[label].in_force = conditioning(event.setup, label)

    def tick(self) -> None:
        """Look whether it must end, or is done."""
        if (recording := self.recording) is None:
            return
        recording.tick()
        if met := recording.time_is_up():
            self.is_done(met)
        if why := self._broken(recording):
            self.end(RunState.INTERRUPTED, why)
        elif recording.met and recording.tail_is_over:
            self.end(RunState.KEPT, recording.met)

    def _broken(self, recording: Recording) -> str:
        """Why it cannot go on; empty while it can."""
        now, devices = self._context.now, self._context.devices
        if self._context.parts.writer.full:
            return "The database took no samples until the memory was full"
        if broken := [k for k, t in recording.tracks.items() if t.broke_off]:
            return f"{broken[0]} began anew, so its samples no longer fit on"
        if now - max((devices[k].seen_at for k in recording.tracks), default=now) > PATIENCE:
            return "No device sent samples for a minute"
        return ""

    def is_done(self, met: str) -> None:
        """What was to end the run has happened: nothing moves any more, a tail is kept."""
        self._context.motion.stop()
        log.info("%s", met)

    def end(self, state: RunState, why: str) -> None:
        """Stop what moves, then give out everything received, then close."""
        self._context.motion.stop()
        recording, self.recording = self.recording, None
        assert recording is not None
        work = Close(recording.run_id, state, why, recording.finish())
        self._context.parts.writer.put(work)
        self._context.be_idle()

    def on_write_refused(self, event: events.WriteRefused) -> None:
        if self.recording and self.recording.run_id == event.run_id:
            self.end(RunState.INTERRUPTED, f"The database refuses its samples: {event.why}")

    def on_frame_seen(self, event: events.ActuatorState) -> None:
        self._context.motion.state = event.state
        if self.recording and (met := self.recording.came_to_stand(event.state)):
            self.is_done(met)

    def pull(self, token: str) -> None:
        """Move, if it still may: the check of a second ago is not enough."""
        assert self.recording is not None
        try:
            self._context.motion.begin(token, self.recording.setup.motion)
            self.recording.motion_token = token
        except Refused as refused:
            self.end(RunState.INTERRUPTED, f"The actuator did not move: {refused}")

    def on_moved(self, token: str, problem: str) -> None:
        """The actuator took, or refused, the motion of the run; not that of an earlier one, whose
        answer comes late."""
        if self.recording is None or self.recording.motion_token != token:
            return
        if problem:
            self.end(RunState.INTERRUPTED, f"The actuator did not move: {problem}")
        else:
            self.recording.began_to_move()

    def unwatched(self) -> str:
        """Why nobody sees what a pull does; empty while somebody does."""
        if self.recording is None:
            return "No run is recorded"
        now, devices = self._context.now, self._context.devices
        away = [
            d for d in self.recording.watched_devices
            if d not in devices or now - devices[d].seen_at > UNWATCHED
        ]  # fmt: skip
        return f"{away[0]} sends no samples" if away else ""
