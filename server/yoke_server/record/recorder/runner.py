"""The recorder of one bench: what happens comes in as events, what must be done goes out.

It has no thread, no socket and no database of its own: all that is handed in, so that a test
can play any course of events on a clock of its own. Three rules hold whatever happens: what
was stopped never starts by itself; what ends a run stops the actuator first; what was
received is stored, or shown as missing.
"""

import logging
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from yoke_core.block import BlockDigest, digest_block

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.bench.models import Link, OrderState
from yoke_server.record.models import RunState
from yoke_server.record.recorder import events
from yoke_server.record.recorder.acquisition import (
    DOING,
    FOLLOWS,
    HINT,
    KNOWN,
    TAKEN,
    Phase,
    Refused,
)
from yoke_server.record.recorder.clock import Clock
from yoke_server.record.recorder.device import BenchDevice, Port, conditioning
from yoke_server.record.recorder.live_frame import BINS, NO_RUN
from yoke_server.record.recorder.motion import ActuatorPart, Motion
from yoke_server.record.recorder.recording import Recording, Track
from yoke_server.record.recorder.resting import Resting
from yoke_server.record.recorder.starting import Starting, make_track
from yoke_server.record.recorder.state import bench_state
from yoke_server.record.recorder.writer import Begin, Close, Work
from yoke_server.wire.document import FrozenChannel, FrozenSetup

log = logging.getLogger(__name__)

STATE_EVERY = 1.0  # s
CONDITION_EVERY = 3.0  # s
PATIENCE = 60.0  # s that all devices may be away before a run is ended
UNWATCHED = 1.0  # s without samples of a device that is watched, after which nothing moves
ARMING = 6.0  # s in which devices confirm their settings


class WriterPart(Protocol):
    trouble: str

    @property
    def full(self) -> bool: ...
    @property
    def backlog_s(self) -> float: ...
    @property
    def room_bytes(self) -> int: ...
    def put(self, work: Work) -> None: ...


class DeskPart(Protocol):
    heard_at: float

    def answer(self, key: str, state: OrderState, answer: dict[str, Any]) -> None: ...
    def note(self, label: str, **facts: Any) -> None: ...


class ShowPart(Protocol):
    def frame(self, payload: bytes) -> None: ...
    def state(self, state: dict[str, Any]) -> None: ...
    def news(self, kind: str) -> None: ...


@dataclass(frozen=True, slots=True)
class Parts:
    """What the runner works with. Ports are made when a device becomes known."""

    clock: Clock
    writer: WriterPart
    desk: DeskPart
    show: ShowPart
    make_port: Callable[[str, events.Address], Port | None]
    make_actuator: Callable[[str, events.Address], ActuatorPart | None]
    free_bytes: Callable[[], int | None]


class BenchRecorder:
    """All that one bench needs; every method is called from one thread."""

    def __init__(self, parts: Parts) -> None:
        self.parts = parts
        self._clock = parts.clock
        self.phase = Phase.IDLE
        self.devices: dict[str, BenchDevice] = {}
        self.recording: Recording | None = None
        self.motion = Motion(lambda: self._clock.monotonic() - parts.desk.heard_at)
        self._addresses: dict[str, events.Address] = {}
        self._setup: FrozenSetup | None = None
        self._starting: Starting | None = None
        self._resting: Resting | None = None
        self._state_due = self._condition_due = 0.0
        self._shown: object = None
        self.taken = False  # by another recorder
        self._handlers: dict[type, Callable[[Any], None]] = {
            events.Arrived: self._on_block,
            events.ClockRead: self._on_clock,
            events.Linked: self._on_linked,
            events.Lost: self._on_lost,
            events.Configured: self._on_configured,
            events.ShuntSet: self._on_shunt,
            events.FrameLinked: self._on_frame_linked,
            events.FrameLost: self._on_frame_lost,
            events.FrameSeen: self._on_frame_seen,
            events.FrameDone: self._on_frame_done,
            events.OrderIn: self._on_order,
            events.DevicesKnown: self._on_devices,
            events.SetupLoaded: self._on_setup,
            events.OpenRunFound: self._on_open_run,
            events.Began: self._on_began,
            events.NotBegun: self._on_not_begun,
            events.WriteRefused: self._on_write_refused,
            events.BenchTaken: self._on_taken,
        }
        self._orders: dict[str, Callable[[events.OrderIn], None]] = {
            "start": self._start,
            "stop": self._stop,
            "emergency": self._emergency,
            "return": lambda order: self.motion.go_home(order.key),
            "measure": self._measure,
            "shunt": self._measure,
            "reset_peaks": self._reset_peaks,
        }

    def handle(self, event: events.Event) -> None:
        """Take one event. A fault of our own stops what moves, and the bench goes on."""
        try:
            self._handlers[type(event)](event)
        except Exception:
            log.exception("Not handled: %s", type(event).__name__)
            self.motion.stop()

    def tick(self) -> None:
        """What is due by time, not by events."""
        now = self._clock.monotonic()
        self.motion.alive()
        self.motion.watch(self._unwatched(now))
        if self._starting:
            self._look_after_start(self._starting, now)
        if self._resting and (over := self._resting.overdue(now)):
            self._end_rest(over)
        if self.recording:
            self._look_after_run(self.recording, now)
        if now >= self._condition_due:
            self._condition_due = now + CONDITION_EVERY
            self._condition_all()
        if now >= self._state_due:
            self._state_due = now + STATE_EVERY
            self._show_state()

    def leave(self) -> None:
        """The process ends: nothing moves any more, an open run waits for the next recorder."""
        self.motion.stop()
        if self.recording:
            self.recording.leave()
        for device in self.devices.values():
            device.port.finish()
        self.motion.finish()
        self.parts.show.state({**bench_state(self), "left": True})

    def _enter(self, phase: Phase) -> None:
        if phase is self.phase:
            return
        if phase not in FOLLOWS[self.phase]:
            raise RuntimeError(f"{self.phase} may not be followed by {phase}")
        self.phase = phase
        self._state_due = 0.0  # shown at once

    def _be_idle(self) -> None:
        self._enter(Phase.IDLE)
        self._condition_all()

    def _condition_all(self) -> None:
        """Bring settings in force where they are not; tried again where a device refused."""
        for device in self.devices.values():
            self._condition(device)

    # Devices and setup

    def _on_devices(self, event: events.DevicesKnown) -> None:
        """New devices get a port; one that moved or went loses its own."""
        for label in [k for k, a in self._addresses.items() if event.devices.get(k) != a]:
            del self._addresses[label]
            if device := self.devices.get(label):
                device.port.finish()
                device.lost("its address was changed.")
            elif label == self.motion.label:
                self.motion.finish()
        for label, address in event.devices.items():
            if label not in self._addresses:
                self._addresses[label] = address
                self._know(label, address)

    def _know(self, label: str, address: events.Address) -> None:
        if port := self.parts.make_port(label, address):
            if old := self.devices.get(label):
                old.port = port
            else:
                self.devices[label] = BenchDevice(label, port)
            port.start()
        elif actuator := self.parts.make_actuator(label, address):
            self.motion.have(label, actuator)
        else:
            note = f"there is no driver “{address.driver}”."
            self.parts.desk.note(label, link=Link.LOST, link_note=note)

    def _on_setup(self, event: events.SetupLoaded) -> None:
        before = {c.key: c for c in self._setup.channels} if self._setup else {}
        self._setup = event.setup
        after = event.setup.channels if event.setup else []
        same = {c.key for c in after if before.get(c.key) == c}
        for device in self.devices.values():
            channels = event.setup.of_device(device.label) if event.setup else []
            if device.show_channels(channels, same):
                self._state_due = 0.0  # the screens need the layout before its frames
            self._condition(device)

    def _condition(self, device: BenchDevice) -> None:
        """Bring the setup's settings in force while nothing else goes on."""
        if self.phase is not Phase.IDLE or not device.usable or self._setup is None:
            return
        wanted = conditioning(self._setup, device.label)
        if wanted and wanted != device.in_force:
            device.in_force = wanted
            device.port.configure("setup", *wanted)

    def _on_linked(self, event: events.Linked) -> None:
        device, other = self.devices[event.device], event.controlled_by_other
        device.why_not = other
        i = event.identity
        self.parts.desk.note(
            event.device, link=Link.LISTENING if other else Link.LINKED, link_note=other[:300],
            identity=i.model, serial=i.serial, firmware=i.firmware, self_test=i.self_test,
            temperature_c=event.temperature_c, controlled_by=other[:60] or "this recorder",
        )  # fmt: skip
        self._condition(device)

    def _on_lost(self, event: events.Lost) -> None:
        self.devices[event.device].lost(event.why)
        note = event.why[:300]
        self.parts.desk.note(event.device, link=Link.LOST, link_note=note, controlled_by="")
        why = f"{event.device} is lost: {event.why}"
        starting = self._starting
        if starting and event.device in starting.waiting | set(starting.since):
            self._call_off(why)
        if self._resting and event.device in self._resting.devices:
            self._end_rest(why)

    def _on_clock(self, event: events.ClockRead) -> None:
        clock = self.devices[event.device].clock
        if clock.push(event.reading) or clock.readings % 10 == 0:
            drift = round(clock.drift_ppm, 1)
            self.parts.desk.note(event.device, drift_ppm=drift, clock_steps=clock.steps)

    # Samples

    def _on_block(self, event: events.Arrived) -> None:
        """Watches first, then the run, then the screens."""
        device, block = self.devices[event.device], event.block
        recording = self.recording
        if not device.frames.keys and not (recording and event.device in recording.tracks):
            device.ring.push(block)  # nobody looks at it, yet a start may be under way
            return
        now = self._clock.monotonic()
        digest = digest_block(block.counts, block.full_scale, block.rail, BINS)
        if not block.again:
            device.seen_at = now
            device.forget_unsettled(block)
            if recording and (met := recording.look(event.device, digest)):
                self._run_is_done(met)
        if recording:
            recording.push(event.device, block, digest, now)
        else:
            device.ring.push(block)
        if block.again:  # old: of use to the run, not to the screens
            return
        if self._resting:
            self._resting.push(event.device, digest)
            self._go_on_resting()
        self._show_block(device, block, digest)

    def _run_is_done(self, met: str) -> None:
        """What was to end the run has happened: nothing moves any more, a tail is kept."""
        self.motion.stop()
        log.info("%s", met)

    def _show_block(self, device: BenchDevice, block: SampleBlock, digest: BlockDigest) -> None:
        end_ns = device.clock.host_ns(block.time_ns) + round(block.samples * 1e9 / block.rate_hz)
        run = self.recording
        in_run = run and device.label in run.tracks
        run_s = (end_ns - run.start_ns) * 1e-9 if run and in_run else NO_RUN
        self.parts.show.frame(device.frames.encode(digest, end_ns * 1e-9, run_s))

    # Orders

    def _on_order(self, order: events.OrderIn) -> None:
        try:
            if order.expires_at <= self._clock.utc():
                raise Refused("The order came too late.", "Give it again.")
            if order.kind not in KNOWN:
                raise Refused(f"This recorder knows no order “{order.kind}”.")
            if order.kind not in TAKEN[self.phase]:
                raise Refused(DOING[self.phase], HINT[self.phase])
            self._orders[order.kind](order)
        except Refused as refused:
            self._refuse(order.key, str(refused), refused.hint)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            log.exception("Order %s", order.kind)
            self._refuse(order.key, f"The order makes no sense to the recorder: {error!r}")

    def _done(self, key: str, answer: dict[str, Any] | None = None) -> None:
        self.parts.desk.answer(key, OrderState.DONE, answer or {})

    def _refuse(self, key: str, title: str, hint: str = "") -> None:
        self.parts.desk.answer(key, OrderState.REFUSED, {"title": title, "hint": hint})

    def _require_usable(self, labels: set[str]) -> None:
        for label in sorted(labels):
            device = self.devices.get(label)
            if device is None:
                raise Refused(f"{label} is not on this bench.", "Wire its channels anew.")
            if not device.usable:
                raise Refused(
                    f"{label} is not linked: {device.why_not}", "Link it, then try again."
                )

    def _stop(self, order: events.OrderIn) -> None:
        """End the run, or the beginning of one; answered when the actuator stands."""
        run = order.arguments.get("run")
        if run and (self.recording is None or self.recording.run_id != run):
            raise Refused("This run is not being recorded.")
        self._stop_everything(order.key, str(order.arguments.get("why") or "Stopped by hand"))

    def _emergency(self, order: events.OrderIn) -> None:
        self._stop_everything(order.key, "Emergency stop")

    def _stop_everything(self, key: str, why: str) -> None:
        """The actuator before all else, then whatever was going on."""
        if not self.motion.stop_for(key):
            self._done(key)
        if self._starting:
            self._call_off(why)
        if self._resting:
            self._end_rest(why)
        if self.recording:
            self._end_run(RunState.KEPT, why)

    def _reset_peaks(self, order: events.OrderIn) -> None:
        keys = [str(k) for k in order.arguments.get("channels") or []]
        for device in self.devices.values():
            device.frames.reset_peaks(keys)
        self._done(order.key)

    # Beginning a run

    def _start(self, order: events.OrderIn) -> None:
        """Arm: settings in force and read back; the run begins with the samples after that."""
        setup = order.setup
        if setup is None:
            raise Refused("The order names no setup that is known.")
        wanted = {c.device_label: conditioning(setup, c.device_label) for c in setup.channels}
        if not wanted:
            raise Refused("There is no channel to record.", "Wire one first.")
        self._require_usable(set(wanted))
        pull = bool(order.arguments.get("pull")) and setup.motion.moves
        if pull:
            self.motion.require_ready()
        self._starting = Starting(
            order.key, int(order.arguments["revision"]), order.arguments.get("operator"), pull,
            self._clock.monotonic() + ARMING, setup, set(wanted),
        )  # fmt: skip
        self._enter(Phase.ARMING)
        for label, settings in wanted.items():
            assert settings is not None
            self.devices[label].in_force = None
            self.devices[label].port.configure(order.key, *settings)

    def _on_configured(self, event: events.Configured) -> None:
        device, starting = self.devices[event.device], self._starting
        if starting is None or event.token != starting.order_key:
            if event.token == "setup":  # noqa: S105 (a name, no secret)
                self.parts.desk.note(event.device, link_note=event.problem[:300])
                device.in_force = None if event.problem else device.in_force
                device.settled_at = event.status.next if event.status else None
        elif event.status is None:
            self._call_off(f"{event.device} does not take its settings: {event.problem}")
        else:
            device.in_force = conditioning(starting.setup, event.device)
            starting.waiting.discard(event.device)
            starting.since[event.device] = event.status

    def _look_after_start(self, starting: Starting, now: float) -> None:
        if self.phase is not Phase.ARMING:
            return
        if now > starting.until:
            who = ", ".join(sorted(starting.waiting)) or "A device"
            self._call_off(f"{who} did not confirm its settings in time")
        elif plan := starting.make_plan(self.devices):
            self._enter(Phase.BEGINNING)
            self.parts.writer.put(Begin(plan))

    def _call_off(self, why: str) -> None:
        """A start that was stopped, or cannot be, is past: whatever comes of it later."""
        starting = self._starting
        assert starting is not None
        starting.call_off(_sentence(why))
        if self.phase is Phase.ARMING:
            self._refuse(starting.order_key, f"The run did not begin. {_sentence(why)}")
            self._starting = None
            self._be_idle()

    def _on_not_begun(self, event: events.NotBegun) -> None:
        if self._starting and self._starting.order_key == event.order_key:
            self._starting = None
            self._refuse(event.order_key, f"The run did not begin. {event.why}")
            self._be_idle()

    def _on_began(self, event: events.Began) -> None:
        starting = self._starting
        if starting is None or starting.order_key != event.order_key:
            return
        self._starting = None
        assert starting.plan is not None
        tracks = {
            label: self._track(label, starting.setup, (event.run_id, event.streams[label]), place)
            for label, place in starting.first_places(self.devices).items()
        }
        self._record(event.run_id, event.run_name, starting.setup, starting.plan.start_ns, tracks)
        for label, track in tracks.items():
            for block in starting.blocks(self.devices, label):
                track.push(block, None, self._clock.monotonic())
        if starting.stopped:
            self._end_run(RunState.INTERRUPTED, f"Before it had begun: {starting.stopped}")
        elif starting.pull:
            self._pull(starting)

    def _pull(self, starting: Starting) -> None:
        """Move, if it still may: the check of a second ago is not enough."""
        try:
            self.motion.begin(starting.order_key, starting.setup.motion)
        except Refused as refused:
            self._end_run(RunState.INTERRUPTED, f"The actuator did not move: {refused}")

    def _track(self, label: str, setup: FrozenSetup, ids: tuple[int, int], place: Any) -> Track:
        put, monotonic = self.parts.writer.put, self._clock.monotonic
        return make_track(self.devices[label], setup, ids, put, monotonic, place)

    def _record(
        self, run_id: int, name: str, setup: FrozenSetup, start_ns: int, tracks: dict[str, Track]
    ) -> None:
        for label in tracks:
            self.devices[label].seen_at = self._clock.monotonic()
        self.recording = Recording(run_id, name, setup, start_ns, tracks, self._clock.bench_ns)
        self._enter(Phase.RECORDING)

    def _on_open_run(self, event: events.OpenRunFound) -> None:
        """Go on with a run that an earlier recorder left; what moved then stands, and stays so."""
        log.warning("Going on with %s", event.run_name)
        tracks = {
            label: make_track(
                self.devices[label], event.setup, (event.run_id, resumed.stream_id),
                self.parts.writer.put, self._clock.monotonic, resumed=resumed,
            )
            for label, resumed in event.streams.items()
            if label in self.devices
        }  # fmt: skip
        self._record(event.run_id, event.run_name, event.setup, event.start_ns, tracks)
        for label in tracks:
            self.devices[label].in_force = conditioning(event.setup, label)

    # Ending it

    def _look_after_run(self, recording: Recording, now: float) -> None:
        recording.tick()
        if met := recording.time_is_up():
            self._run_is_done(met)
        seen_at = max((self.devices[k].seen_at for k in recording.tracks), default=now)
        if self.parts.writer.full:
            why = "The database took no samples until the memory was full"
            self._end_run(RunState.INTERRUPTED, why)
        elif broken := [k for k, t in recording.tracks.items() if t.broke_off]:
            why = f"{broken[0]} began anew, so its samples no longer fit on"
            self._end_run(RunState.INTERRUPTED, why)
        elif now - seen_at > PATIENCE:
            self._end_run(RunState.INTERRUPTED, "No device sent samples for a minute")
        elif recording.met and recording.tail_is_over:
            self._end_run(RunState.KEPT, recording.met)

    def _on_write_refused(self, event: events.WriteRefused) -> None:
        if self.recording and self.recording.run_id == event.run_id:
            why = f"The database refuses its samples: {event.why}"
            self._end_run(RunState.INTERRUPTED, why)

    def _end_run(self, state: RunState, why: str) -> None:
        """Stop what moves, then give out everything received, then close."""
        self.motion.stop()
        recording, self.recording = self.recording, None
        assert recording is not None
        self.parts.writer.put(Close(recording.run_id, state, why, recording.finish()))
        self._be_idle()

    def _on_taken(self, event: events.BenchTaken) -> None:
        """Somebody else records here now: hands off, and nothing is closed in their place."""
        log.error("Another recorder has taken this bench.")
        self.motion.stop()
        self.taken = True

    # The actuator

    def _unwatched(self, now: float) -> str:
        """Why nobody sees what a pull does; empty while somebody does."""
        if self.recording is None:
            return "" if self._starting else "No run is recorded"
        away = [
            d for d in self.recording.watched_devices
            if d not in self.devices or now - self.devices[d].seen_at > UNWATCHED
        ]  # fmt: skip
        return f"{away[0]} sends no samples" if away else ""

    def _on_frame_linked(self, event: events.FrameLinked) -> None:
        i = event.identity
        self.parts.desk.note(
            self.motion.label, link=Link.LINKED, link_note="", identity=i.model, serial=i.serial,
            firmware=i.firmware, self_test=i.self_test, controlled_by="this recorder",
        )  # fmt: skip

    def _on_frame_lost(self, event: events.FrameLost) -> None:
        self.motion.state = None
        note = event.why[:300]
        self.parts.desk.note(self.motion.label, link=Link.LOST, link_note=note, controlled_by="")

    def _on_frame_seen(self, event: events.FrameSeen) -> None:
        self.motion.state = event.state
        if self.recording and (met := self.recording.came_to_stand(event.state)):
            self._run_is_done(met)

    def _on_frame_done(self, event: events.FrameDone) -> None:
        if event.deed == "move":
            if event.problem and self.recording:
                self._end_run(RunState.INTERRUPTED, f"The actuator did not move: {event.problem}")
            elif self.recording:
                self.recording.began_to_move()
        elif event.deed == "home" or event.token in self.motion.waiting:
            self.motion.waiting.discard(event.token)
            if event.problem:
                self._refuse(event.token, f"The device did not do it: {event.problem}")
            else:
                self._done(event.token)

    # At rest: zeros and shunts

    def _measure(self, order: events.OrderIn) -> None:
        channels = self._chosen([str(k) for k in order.arguments["channels"]])
        self._require_usable(set(channels))
        shunt = order.kind == "shunt"
        ports = {label: self.devices[label].port for label in channels}
        self._enter(Phase.SHUNTING if shunt else Phase.MEASURING)
        self._resting = Resting(order.key, channels, ports, self._clock.monotonic(), shunt)

    def _chosen(self, keys: list[str]) -> dict[str, list[FrozenChannel]]:
        """The channels by device."""
        found = [c for c in self._setup.channels if c.key in keys] if self._setup else []
        if len(found) != len(set(keys)):
            raise Refused("The bench works with another setup.", "Put this setup on the bench.")
        labels = {c.device_label for c in found}
        return {label: [c for c in found if c.device_label == label] for label in labels}

    def _on_shunt(self, event: events.ShuntSet) -> None:
        if not self._resting or event.token != self._resting.order_key:
            return
        if event.problem:
            self._end_rest(f"{event.device} does not switch its shunt: {event.problem}")
            return
        self._resting.switched(event.device, event.on, event.shunt_ohm)
        self._go_on_resting()

    def _go_on_resting(self) -> None:
        resting = self._resting
        if resting and (answer := resting.go_on()) is not None:
            self._resting = None
            self._done(resting.order_key, answer)
            self._be_idle()

    def _end_rest(self, why: str) -> None:
        """Given up: shunts off again, whatever was reached."""
        resting, self._resting = self._resting, None
        assert resting is not None
        resting.shunts_off()
        for label in resting.devices:
            self.devices[label].in_force = None  # its shunts are to be confirmed off
        self._refuse(resting.order_key, _sentence(why))
        self._be_idle()

    # Showing

    def _show_state(self) -> None:
        """The state each second; and news where the preflight list may have changed."""
        state = bench_state(self)
        self.parts.show.state(state)
        away = tuple(d.why_not for d in self.devices.values())
        facts = (state["home"], state["motion"], state["phase"], away)
        if facts != self._shown:
            self._shown = facts
            self.parts.show.news("bench")


def _sentence(why: str) -> str:
    return why if why.endswith(".") else f"{why}."
