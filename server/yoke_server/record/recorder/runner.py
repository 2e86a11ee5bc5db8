"""The recorder of one bench: what happens comes in as events, what must be done goes out.

It has no thread, no socket and no database of its own: all that is handed in, so that a test
can play any course of events on a clock of its own. Three rules hold whatever happens: what
was stopped never starts by itself; what ends a run stops the actuator first; what was
received is stored, or shown as missing.
"""

import logging
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, Protocol

from yoke_core.block import BlockDigest, digest_block

from yoke_server.bench.drivers.base import FrameState, SampleBlock
from yoke_server.bench.models import Link, OrderState
from yoke_server.record.models import RunState
from yoke_server.record.recorder import events
from yoke_server.record.recorder.acquisition import DOING, FOLLOWS, HINT, KNOWN, TAKEN, Phase
from yoke_server.record.recorder.begin import Plan, begin_run, close_run
from yoke_server.record.recorder.block_order import BlockOrder
from yoke_server.record.recorder.clock import Clock
from yoke_server.record.recorder.device import BenchDevice, Port, Starting, conditioning
from yoke_server.record.recorder.keeper import Keeper
from yoke_server.record.recorder.live_frame import BINS, NO_RUN, LiveFrames
from yoke_server.record.recorder.recording import Closed, Recording, Track
from yoke_server.record.recorder.resting import Resting
from yoke_server.record.recorder.resume import ResumedStream
from yoke_server.record.recorder.watches import TAIL
from yoke_server.record.recorder.writer import Deed, Work
from yoke_server.wire.document import FrozenChannel, FrozenSetup

log = logging.getLogger(__name__)

STATE_EVERY = 1.0  # s
PATIENCE = 60.0  # s that all devices may be away before a run is ended
DATABASE_AWAY = 5.0  # s without the database, and so without orders, after which nothing moves
UNWATCHED = 1.0  # s without samples of a device that is watched, after which nothing moves
ARMING = 6.0  # s in which devices confirm their settings
AWAY_M = 5e-5  # from home; a pull begins at home


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


class ActuatorPart(Protocol):
    def start(self) -> None: ...
    def finish(self) -> None: ...
    def alive(self) -> None: ...
    def ramp(self, token: str, speed_m_s: float, target_m: float) -> None: ...
    def home(self, token: str) -> None: ...
    def stop(self, token: str = "") -> None: ...


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


class Refused(Exception):
    """An order that cannot be carried out, with the hint for the person who gave it."""

    def __init__(self, title: str, hint: str = "") -> None:
        super().__init__(title)
        self.hint = hint


class BenchRecorder:
    """All that one bench needs; every method is called from one thread."""

    def __init__(self, parts: Parts) -> None:
        self._parts = parts
        self._clock = parts.clock
        self.phase = Phase.IDLE
        self.devices: dict[str, BenchDevice] = {}
        self.recording: Recording | None = None
        self._addresses: dict[str, events.Address] = {}
        self._setup: FrozenSetup | None = None
        self._starting: Starting | None = None
        self._resting: Resting | None = None
        self._actuator: ActuatorPart | None = None
        self._frame_label = ""
        self._frame: FrameState | None = None
        self._stops: set[str] = set()  # orders answered when the actuator has stopped
        self._state_due = 0.0
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
            "return": self._return,
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
            self._stop_moving()

    def tick(self) -> None:
        """What is due by time, not by events."""
        now = self._clock.monotonic()
        if self._actuator:
            self._actuator.alive()
        if self._moving:
            self._watch_the_watching(now)
        if self._starting:
            self._look_after_start(now)
        if self._resting and (over := self._resting.overdue(now)):
            self._end_rest(over)
        if self.recording:
            self._look_after_run(self.recording, now)
        if now >= self._state_due:
            self._state_due = now + STATE_EVERY
            self._show_state()

    def leave(self) -> None:
        """The process ends: nothing moves any more, an open run waits for the next recorder."""
        self._stop_moving()
        if self.recording:
            self.recording.leave()
        for device in self.devices.values():
            device.port.finish()
        if self._actuator:
            self._actuator.finish()
        self._parts.show.state({**self._state(), "left": True})

    def _enter(self, phase: Phase) -> None:
        if phase is self.phase:
            return
        if phase not in FOLLOWS[self.phase]:
            raise RuntimeError(f"{self.phase} may not be followed by {phase}")
        self.phase = phase
        self._state_due = 0.0  # shown at once

    # Devices and setup

    def _on_devices(self, event: events.DevicesKnown) -> None:
        """New devices get a port; one that moved or went loses its own."""
        gone = [k for k, a in self._addresses.items() if event.devices.get(k) != a]
        for label in gone:
            del self._addresses[label]
            if device := self.devices.get(label):
                device.port.finish()
                device.lost("its address was changed.")
            elif label == self._frame_label and self._actuator:
                self._actuator.finish()
                self._actuator, self._frame = None, None
        for label, address in event.devices.items():
            if label not in self._addresses:
                self._addresses[label] = address
                self._know(label, address)

    def _know(self, label: str, address: events.Address) -> None:
        if port := self._parts.make_port(label, address):
            if old := self.devices.get(label):
                old.port = port
            else:
                self.devices[label] = BenchDevice(label, port)
                self._show_channels_of(self.devices[label], set())
            port.start()
        elif actuator := self._parts.make_actuator(label, address):
            self._actuator, self._frame_label = actuator, label
            actuator.start()
        else:
            note = f"there is no driver “{address.driver}”."
            self._parts.desk.note(label, link=Link.LOST, link_note=note)

    def _on_setup(self, event: events.SetupLoaded) -> None:
        before = {c.key: c for c in self._setup.channels} if self._setup else {}
        self._setup = event.setup
        after = {c.key: c for c in self._setup.channels} if self._setup else {}
        same = {k for k, c in after.items() if before.get(k) == c}
        for device in self.devices.values():
            self._show_channels_of(device, same)
            self._condition(device)

    def _show_channels_of(self, device: BenchDevice, same: set[str]) -> None:
        channels = self._setup.of_device(device.label) if self._setup else []
        if [c.key for c in channels] == device.frames.keys and same >= set(device.frames.keys):
            if device.frames.keys or device.frames.layout["device"]:
                return
        fresh = LiveFrames(device.label, channels)
        fresh.take_over(device.frames, same & set(device.frames.keys))
        device.frames = fresh
        self._state_due = 0.0  # the screens need the layout before its frames

    def _condition(self, device: BenchDevice) -> None:
        """Bring the setup's settings in force while nothing else goes on."""
        if self.phase is not Phase.IDLE or not device.usable or self._setup is None:
            return
        wanted = conditioning(self._setup, device.label)
        if wanted and wanted != device.in_force:
            device.in_force = wanted
            device.port.configure("setup", *wanted)

    def _on_linked(self, event: events.Linked) -> None:
        device = self.devices[event.device]
        device.why_not = event.controlled_by_other
        i = event.identity
        self._parts.desk.note(
            event.device, link=Link.LISTENING if event.controlled_by_other else Link.LINKED,
            link_note=event.controlled_by_other, identity=i.model, serial=i.serial,
            firmware=i.firmware, self_test=i.self_test, temperature_c=event.temperature_c,
            controlled_by="" if event.controlled_by_other else "this recorder",
        )  # fmt: skip
        self._condition(device)

    def _on_lost(self, event: events.Lost) -> None:
        device = self.devices[event.device]
        device.lost(event.why)
        self._parts.desk.note(
            event.device, link=Link.LOST, link_note=event.why[:300], controlled_by=""
        )
        why = f"{event.device} is lost: {event.why}"
        if self._starting and event.device in self._starting.waiting | set(self._starting.since):
            self._call_off(why)
        if self._resting and event.device in self._resting.devices:
            self._end_rest(why)

    def _on_clock(self, event: events.ClockRead) -> None:
        device = self.devices[event.device]
        device.clock.push(event.reading)
        if device.clock.readings % 10 == 0:
            self._parts.desk.note(
                event.device, drift_ppm=round(device.clock.drift_ppm, 1),
                clock_steps=device.clock.steps,
            )  # fmt: skip

    # Samples

    def _on_block(self, event: events.Arrived) -> None:
        """Watches first, then the run, then the screens."""
        device, block = self.devices[event.device], event.block
        now = self._clock.monotonic()
        digest = digest_block(block.counts, block.full_scale, block.rail, BINS)
        recording = self.recording
        if not block.again:
            device.seen_at = now
            if recording and (watch := recording.look(event.device, digest)):
                self._stop_moving()
                recording.tail_until_ns = self._clock.bench_ns() + round(TAIL * 1e9)
                log.info("%s", watch.words)
        if recording:
            recording.push(event.device, block, digest, now)
        else:
            device.ring.push(block)
        if block.again:  # old: of use to the run, not to the screens
            return
        if self._resting and self.phase in (Phase.MEASURING, Phase.SHUNTING):
            self._resting.push(event.device, digest)
            self._go_on_resting()
        self._show_block(device, block, digest)

    def _show_block(self, device: BenchDevice, block: SampleBlock, digest: BlockDigest) -> None:
        end_ns = device.clock.host_ns(block.time_ns) + round(block.samples * 1e9 / block.rate_hz)
        run = self.recording
        in_run = run and device.label in run.tracks
        run_s = (end_ns - run.start_ns) * 1e-9 if run and in_run else NO_RUN
        self._parts.show.frame(device.frames.encode(digest, end_ns * 1e-9, run_s))

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
        except Exception as error:
            log.exception("Order %s", order.kind)
            self._refuse(order.key, f"The order makes no sense to the recorder: {error!r}")

    def _done(self, key: str, answer: dict[str, Any] | None = None) -> None:
        self._parts.desk.answer(key, OrderState.DONE, answer or {})

    def _refuse(self, key: str, title: str, hint: str = "") -> None:
        self._parts.desk.answer(key, OrderState.REFUSED, {"title": title, "hint": hint})

    def _usable(self, labels: set[str]) -> None:
        for label in sorted(labels):
            device = self.devices.get(label)
            if device is None:
                raise Refused(f"{label} is not on this bench.", "Wire its channels anew.")
            if not device.usable:
                raise Refused(
                    f"{label} is not linked: {device.why_not}", "Link it, then try again."
                )

    def _start(self, order: events.OrderIn) -> None:
        """Arm: settings in force and read back; the run begins with the samples after that."""
        setup = order.setup
        if setup is None:
            raise Refused("The order names no setup that is known.")
        wanted = {label: conditioning(setup, label) for label in self._labels(setup)}
        if not wanted:
            raise Refused("There is no channel to record.", "Wire one first.")
        self._usable(set(wanted))
        pull = bool(order.arguments.get("pull"))
        if pull:
            self._check_actuator()
        now = self._clock.monotonic()
        self._starting = Starting(
            order.key, int(order.arguments["revision"]), order.arguments.get("operator"), pull,
            now + ARMING, setup, set(wanted),
        )  # fmt: skip
        self._enter(Phase.ARMING)
        for label, settings in wanted.items():
            assert settings is not None
            self.devices[label].in_force = None
            self.devices[label].port.configure(order.key, *settings)

    @staticmethod
    def _labels(setup: FrozenSetup) -> set[str]:
        return {c.device_label for c in setup.channels}

    def _check_actuator(self) -> None:
        if self._actuator is None:
            raise Refused("This bench has no actuator.")
        if self._frame is None:
            raise Refused("The actuator is not linked.", "Link it, then try again.")
        if self._frame.moving:
            raise Refused("The actuator is moving.", "Wait until it stands, or stop it.")
        if not self._home:
            raise Refused("The actuator is not home.", "Return it first.")

    @property
    def _home(self) -> bool:
        return self._frame is not None and abs(self._frame.position_m) <= AWAY_M

    def _stop(self, order: events.OrderIn) -> None:
        """End the run, or the beginning of one; answered when the actuator stands."""
        run = order.arguments.get("run")
        if run and (self.recording is None or self.recording.run_id != run):
            raise Refused("This run is not being recorded.")
        why = str(order.arguments.get("why") or "Stopped by hand")
        self._answer_when_stopped(order.key)
        if self._starting:
            self._call_off(why)
        self._end_run(RunState.KEPT, why)

    def _emergency(self, order: events.OrderIn) -> None:
        """The actuator before all else, then whatever was going on."""
        self._answer_when_stopped(order.key)
        if self._starting:
            self._call_off("Emergency stop")
        if self._resting:
            self._end_rest("Emergency stop")
        self._end_run(RunState.KEPT, "Emergency stop")

    def _answer_when_stopped(self, key: str) -> None:
        if self._actuator is None:
            self._done(key)
            return
        self._stops.add(key)
        self._actuator.stop(key)

    def _return(self, order: events.OrderIn) -> None:
        if self._actuator is None or self._frame is None:
            raise Refused("The actuator is not linked.", "Link it, then try again.")
        if self._clock.monotonic() - self._parts.desk.heard_at > DATABASE_AWAY:
            raise Refused("The database is away, so nobody could stop the actuator.")
        self._actuator.home(order.key)

    def _reset_peaks(self, order: events.OrderIn) -> None:
        keys = [str(k) for k in order.arguments.get("channels") or []]
        for device in self.devices.values():
            device.frames.reset_peaks(keys)
        self._done(order.key)

    # Beginning a run

    def _on_configured(self, event: events.Configured) -> None:
        device = self.devices[event.device]
        if event.token == "setup":  # noqa: S105 (a name, no secret)
            if event.problem:
                log.warning("%s: %s", event.device, event.problem)
            self._parts.desk.note(event.device, link_note=event.problem[:300])
            return
        starting = self._starting
        if starting is None or event.token != starting.order_key:
            return
        if event.status is None:
            self._call_off(f"{event.device} does not take its settings: {event.problem}")
            return
        device.in_force = conditioning(starting.setup, event.device)
        starting.waiting.discard(event.device)
        starting.since[event.device] = event.status

    def _look_after_start(self, now: float) -> None:
        starting = self._starting
        assert starting is not None
        if self.phase is not Phase.ARMING:
            return
        if now > starting.expires_s:
            who = ", ".join(sorted(starting.waiting)) or "A device"
            self._call_off(f"{who} did not confirm its settings in time")
        elif not starting.waiting:
            self._begin_if_first_blocks_came(starting)

    def _begin_if_first_blocks_came(self, starting: Starting) -> None:
        """Plan the run once each device's first confirmed block is in its ring."""
        firsts = {}
        for label, status in starting.since.items():
            blocks = self.devices[label].ring.since(status.acquisition, status.next)
            if not blocks:
                return
            firsts[label] = min(blocks, key=lambda b: b.sequence)
        start_ns = min(self.devices[k].clock.host_ns(b.time_ns) for k, b in firsts.items())
        channels = {label: starting.setup.of_device(label) for label in firsts}
        rates = {label: b.rate_hz for label, b in firsts.items()}
        plan = Plan(
            starting.order_key, starting.revision_id, starting.operator_id, start_ns, rates,
            channels,
        )  # fmt: skip
        starting.plan, starting.start_ns = plan, start_ns
        self._enter(Phase.BEGINNING)
        self._parts.writer.put(Deed(partial(begin_run, plan), "begin a run"))

    def _call_off(self, why: str) -> None:
        """A start that was stopped, or cannot be, is past: whatever comes of it later."""
        starting = self._starting
        assert starting is not None
        starting.stopped = starting.stopped or why
        if self.phase is Phase.ARMING:
            self._refuse(starting.order_key, f"The run did not begin. {_sentence(why)}")
            self._starting = None
            self._enter(Phase.IDLE)
        elif starting.plan:
            starting.plan.cancelled = starting.plan.cancelled or _sentence(why)

    def _on_not_begun(self, event: events.NotBegun) -> None:
        starting, self._starting = self._starting, None
        if starting is None:
            return
        self._refuse(event.order_key, f"The run did not begin. {event.why}")
        self._enter(Phase.IDLE)
        self._condition_all()

    def _on_began(self, event: events.Began) -> None:
        starting, self._starting = self._starting, None
        if starting is None or starting.order_key != event.order_key:
            return
        tracks = {
            label: self._track(label, event.run_id, event.streams[label], starting.setup)
            for label in starting.since
        }
        for label, status in starting.since.items():
            blocks = self.devices[label].ring.since(status.acquisition, status.next)
            tracks[label].order.acquisition = status.acquisition
            tracks[label].order.next = min((b.sequence for b in blocks), default=status.next)
        self._record(event.run_id, event.run_name, starting.setup, starting.start_ns, tracks)
        for label, status in starting.since.items():
            for block in self.devices[label].ring.since(status.acquisition, status.next):
                tracks[label].push(block, None, self._clock.monotonic())
        if starting.stopped:
            self._end_run(RunState.INTERRUPTED, f"{starting.stopped}, before the run had begun")
        elif starting.pull:
            self._pull(starting)

    def _pull(self, starting: Starting) -> None:
        """Move, if it still may: the check of a second ago is not enough."""
        try:
            self._check_actuator()
            if self._clock.monotonic() - self._parts.desk.heard_at > DATABASE_AWAY:
                raise Refused("The database is away, so nobody could stop the actuator.")
        except Refused as refused:
            self._end_run(RunState.INTERRUPTED, f"The actuator did not move. {refused}")
            return
        assert self._actuator is not None
        setup = starting.setup
        self._actuator.ramp(starting.order_key, setup.pull_speed_m_s, setup.travel_limit_m)

    def _track(
        self,
        label: str,
        run_id: int,
        stream_id: int,
        setup: FrozenSetup,
        resumed: ResumedStream | None = None,
    ) -> Track:
        device = self.devices[label]
        span = resumed.span if resumed else None
        order = BlockOrder(
            span.acquisition if span else -1,
            resumed.last_sequence + 1 if resumed else 0,
            lambda first, last: device.port.send_again(first, last),
        )
        columns = [c.input_number - 1 for c in setup.of_device(label)]
        keeper = Keeper(
            run_id, stream_id, columns, device.clock, self._parts.writer.put,
            self._clock.monotonic, resumed,
        )  # fmt: skip
        return Track(order, keeper)

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
            label: self._track(label, event.run_id, s.stream_id, event.setup, s)
            for label, s in event.streams.items()
            if label in self.devices
        }
        self._record(event.run_id, event.run_name, event.setup, event.start_ns, tracks)
        for label in tracks:
            self.devices[label].in_force = conditioning(event.setup, label)

    # Ending it

    def _look_after_run(self, recording: Recording, now: float) -> None:
        recording.tick()
        broken = [k for k, t in recording.tracks.items() if t.broke_off]
        silent = max((self.devices[k].seen_at for k in recording.tracks), default=now)
        if self._parts.writer.full:
            self._end_run(
                RunState.INTERRUPTED, "The database took no samples until the memory was full"
            )
        elif broken:
            self._end_run(
                RunState.INTERRUPTED, f"{broken[0]} began anew, so its samples no longer fit on"
            )
        elif now - silent > PATIENCE:
            self._end_run(RunState.INTERRUPTED, "No device sent samples for a minute")
        elif recording.met and recording.tail_until_ns is not None:
            if self._clock.bench_ns() >= recording.tail_until_ns:
                self._end_run(RunState.KEPT, recording.met.words)

    def _on_write_refused(self, event: events.WriteRefused) -> None:
        if self.recording and self.recording.run_id == event.run_id:
            why = f"The database refuses its samples: {event.why}"
            self._end_run(RunState.INTERRUPTED, why)

    def _end_run(self, state: RunState, why: str) -> None:
        """Stop what moves, then give out everything received, then close."""
        self._stop_moving()
        recording, self.recording = self.recording, None
        if recording is None:
            return
        closed = recording.finish()
        self._parts.writer.put(Deed(partial(_close, recording.run_id, state, why, closed), "close"))
        self._enter(Phase.IDLE)
        self._condition_all()

    def _condition_all(self) -> None:
        for device in self.devices.values():
            self._condition(device)

    def _on_taken(self, event: events.BenchTaken) -> None:
        """Somebody else records here now: hands off, and nothing is closed in their place."""
        log.error("Another recorder has taken this bench.")
        self._stop_moving()
        self.taken = True

    # The actuator

    @property
    def _moving(self) -> bool:
        return self._frame is not None and self._frame.moving

    def _stop_moving(self) -> None:
        if self._actuator:
            self._actuator.stop()

    def _watch_the_watching(self, now: float) -> None:
        """What moves must be heard about and watched."""
        if now - self._parts.desk.heard_at > DATABASE_AWAY:
            log.warning("The database is away: the actuator is stopped.")
            self._stop_moving()
        recording = self.recording
        if self._frame is None or self._frame.motion != "RAMP":
            return
        if recording is None:
            self._stop_moving()
        elif any(now - self.devices[d].seen_at > UNWATCHED for d in recording.watched_devices):
            log.warning("Samples stay away: the actuator is stopped.")
            self._stop_moving()

    def _on_frame_linked(self, event: events.FrameLinked) -> None:
        i = event.identity
        self._parts.desk.note(
            self._frame_label, link=Link.LINKED, link_note="", identity=i.model, serial=i.serial,
            firmware=i.firmware, self_test=i.self_test, controlled_by="this recorder",
        )  # fmt: skip

    def _on_frame_lost(self, event: events.FrameLost) -> None:
        self._frame = None
        self._parts.desk.note(
            self._frame_label, link=Link.LOST, link_note=event.why[:300], controlled_by=""
        )

    def _on_frame_seen(self, event: events.FrameSeen) -> None:
        self._frame = event.state

    def _on_frame_done(self, event: events.FrameDone) -> None:
        if event.deed == "ramp" and event.problem and self.recording:
            self._end_run(RunState.INTERRUPTED, f"The actuator did not move: {event.problem}")
        elif event.deed == "home":
            if event.problem:
                self._refuse(event.token, f"The device did not do it: {event.problem}")
            else:
                self._done(event.token)
        elif event.deed == "stop" and event.token in self._stops:
            self._stops.discard(event.token)
            if event.problem:
                self._refuse(event.token, f"The device did not do it: {event.problem}")
            else:
                self._done(event.token)

    # At rest: zeros and shunts

    def _measure(self, order: events.OrderIn) -> None:
        channels = self._chosen([str(k) for k in order.arguments["channels"]])
        self._usable(set(channels))
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
        if self._resting and event.token == self._resting.order_key:
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
            self._enter(Phase.IDLE)
            self._condition_all()

    def _end_rest(self, why: str) -> None:
        """Given up: shunts off again, whatever was reached."""
        resting, self._resting = self._resting, None
        if resting is None:
            return
        resting.shunts_off()
        for label in resting.devices:
            self.devices[label].in_force = None  # its shunts are to be confirmed off
        self._refuse(resting.order_key, _sentence(why))
        self._enter(Phase.IDLE)
        self._condition_all()

    # Showing

    def _show_state(self) -> None:
        state = self._state()
        self._parts.show.state(state)
        gaps = (state["home"], state["phase"], tuple(d.why_not for d in self.devices.values()))
        if gaps != self._shown:
            self._shown = gaps
            self._parts.show.news("bench")

    def _state(self) -> dict[str, Any]:
        recording, writer = self.recording, self._parts.writer
        return {
            "phase": self.phase.value,
            "run": recording.run_id if recording else None,
            "run_name": recording.name if recording else "",
            "elapsed_s": recording.elapsed_s if recording else 0,
            "missing_blocks": recording.missing_blocks if recording else 0,
            "backlog_s": round(writer.backlog_s, 1),
            "queue_left_s": self._queue_left_s(),
            "trouble": writer.trouble,
            "free_bytes": self._parts.free_bytes(),
            "linked": all(d.usable for d in self.devices.values()),
            "devices": {d.label: self._device_state(d) for d in self.devices.values()},
            "layouts": [d.frames.layout for d in self.devices.values()],
            "motion": self._frame.motion if self._frame else "",
            "position_m": self._frame.position_m if self._frame else None,
            "home": self._home,
        }

    @staticmethod
    def _device_state(device: BenchDevice) -> dict[str, Any]:
        return {
            "why_not": device.why_not,
            "drift_ppm": round(device.clock.drift_ppm, 1),
            "clock_steps": device.clock.steps,
        }

    def _queue_left_s(self) -> float | None:
        """How long the database may stay away before the run must end."""
        if self.recording is None:
            return None
        setup = self.recording.setup
        rate = sum(4 * setup.rates_hz[c.device_label] for c in setup.channels)
        return round(self._parts.writer.room_bytes / rate)


def _close(run_id: int, state: RunState, why: str, streams: list[Closed]) -> None:
    close_run(run_id, state, why, streams)


def _sentence(why: str) -> str:
    return why if why.endswith(".") else f"{why}."
