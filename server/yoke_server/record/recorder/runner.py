"""The recorder's loop for one bench."""

import logging
import queue
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from django.db import Error, connection
from yoke_core.block import BlockDigest, digest_block

from yoke_server.bench.drivers.base import (
    AmplifierDriver,
    DriverError,
    InputSettings,
    SampleBlock,
)
from yoke_server.bench.drivers.bridge_amplifier import BridgeAmplifier
from yoke_server.bench.models import Amplifier, Bench, Command, CommandState, Link
from yoke_server.config.notify import NEWS, notify
from yoke_server.record.closing import close_run
from yoke_server.record.models import Run, RunState
from yoke_server.record.queries import open_run
from yoke_server.record.recorder.actuator import ActuatorLink
from yoke_server.record.recorder.link import AmplifierLink, LinkDown, LinkUp
from yoke_server.record.recorder.live_frame import BINS, NO_RUN, LiveFrames
from yoke_server.record.recorder.measure import Measurement, ShuntMeasurement
from yoke_server.record.recorder.resume import resume
from yoke_server.record.recorder.session import Session
from yoke_server.record.recorder.show import Show
from yoke_server.record.services import free_space
from yoke_server.record.store import Writer
from yoke_server.wire.frozen import FrozenChannel, FrozenSetup, freeze

log = logging.getLogger(__name__)

STATE_EVERY = 1.0  # s
ORDERS_EVERY = 5.0  # s, should a notification have been lost
PATIENCE = 60.0  # s without an amplifier before a resumed run is closed: its memory's length


class Refused(Exception):
    """An order that cannot be carried out, with the hint for the person who gave it."""

    def __init__(self, title: str, hint: str = "") -> None:
        super().__init__(title)
        self.hint = hint


@dataclass(frozen=True, slots=True)
class Wake:
    """Something may have changed in the database: orders, or the setup."""

    setup_changed: bool


@dataclass(slots=True)
class Pending:
    """An order whose answer comes with later blocks."""

    command: Command
    work: Measurement | ShuntMeasurement


class BenchRunner(threading.Thread):
    """Everything one bench needs; all its state lives in this thread."""

    def __init__(self, bench_id: int) -> None:
        super().__init__(name=f"bench-{bench_id}", daemon=True)
        self.bench_id = bench_id
        self.inbox: queue.SimpleQueue[object] = queue.SimpleQueue()
        self._ending = threading.Event()
        self._writer = Writer()
        self._show = Show(bench_id)
        self._driver: AmplifierDriver | None = None
        self._setup: FrozenSetup | None = None
        self._frames = LiveFrames([])
        self._conditioning: object = None
        self._session: Session | None = None
        self._starting: Command | None = None
        self._pending: Pending | None = None
        self._actuator = ActuatorLink(bench_id)
        self._state_due = 0.0
        self._orders_due = 0.0
        self._free_bytes: int | None = None
        self._last_block = time.monotonic()
        self._orders: dict[str, Callable[[Command], dict[str, Any] | None]] = {
            "start": self._start,
            "stop": self._stop_order,
            "emergency": self._emergency,
            "return": self._return,
            "measure": self._measure,
            "shunt": self._shunt,
        }

    # The loop

    def finish(self) -> None:
        """Ask the loop to end; an open run stays open and is resumed by the next process."""
        self._ending.set()
        self.inbox.put(Wake(setup_changed=False))
        self.join(timeout=20)

    def run(self) -> None:
        self._writer.start()
        self._show.start()
        self._load_setup()
        self._take_up_open_run()
        amplifier = Amplifier.objects.get(bench_id=self.bench_id)
        Amplifier.objects.filter(pk=amplifier.pk).update(link=Link.UNKNOWN, link_note="")
        link = AmplifierLink(lambda: BridgeAmplifier(amplifier.host, amplifier.port), self.inbox)
        link.start()
        try:
            self._take_orders()
            while not self._ending.is_set():
                self._turn_or_wait()
        finally:  # whatever ended the loop, a successor must find everything written
            link.finish()
            self._writer.finish()
            self._show.finish()
            connection.close()

    def _turn_or_wait(self) -> None:
        try:
            self._turn()
        except Error as error:
            self._database_away(error)

    def _turn(self) -> None:
        """One event, if there is one, and what is due by time."""
        try:
            self._handle(self.inbox.get(timeout=0.2))
        except queue.Empty:
            pass
        except DriverError as error:
            self._link_down(str(error))
        self._look_after()

    def _database_away(self, error: Error) -> None:
        """Samples wait in the writer, orders in their table; connect anew at the next use."""
        log.warning("The database is away: %s", str(error).split("\n")[0])
        connection.close()

    def _handle(self, event: object) -> None:
        if isinstance(event, SampleBlock):
            self._on_block(event)
        elif isinstance(event, Wake):
            if event.setup_changed:
                self._load_setup()
            self._take_orders()
        elif isinstance(event, LinkUp):
            self._link_up(event)
        elif isinstance(event, LinkDown):
            self._link_down(event.why)

    def _on_block(self, block: SampleBlock) -> None:
        self._last_block = time.monotonic()
        digest = digest_block(block.counts, block.full_scale, BridgeAmplifier.full_counts, BINS)
        if self._session:
            self._record(self._session, block, digest)
        if block.again:  # old: of use to the run, not to the screens
            return
        if self._pending and self._pending.work.push(digest):
            self._answer(self._pending.command, self._pending.work.result())
            self._pending = None
        end_s = block.time_ns * 1e-9 + block.samples / block.rate_hz
        run_s = self._session.run_time(end_s) if self._session else NO_RUN
        self._show.frame(self._frames.encode(digest, end_s, run_s))

    def _look_after(self) -> None:
        """What is due by time, not by blocks."""
        now = time.monotonic()
        if self._session and self._writer.full:
            self._end_run(RunState.INTERRUPTED, "The database took no samples for minutes.")
        if self._session and self._driver is None and self._starting is None:
            waited = now - self._last_block
            if waited > PATIENCE:
                self._end_run(RunState.INTERRUPTED, "The amplifier stayed away for a minute.")
        if now >= self._orders_due:
            self._orders_due = now + ORDERS_EVERY
            self._free_bytes = free_space()
            self._take_orders()
        if now >= self._state_due:
            self._state_due = now + STATE_EVERY
            self._actuator.look()
            self._show.state(self._state())

    # Link and setup

    def _link_up(self, event: LinkUp) -> None:
        self._driver = event.driver
        self._conditioning = None
        i = event.identity
        Amplifier.objects.filter(bench_id=self.bench_id).update(
            link=Link.LINKED, link_note="", identity=i.model, serial=i.serial,
            firmware=i.firmware, self_test=i.self_test, temperature_c=event.driver.temperature_c(),
        )  # fmt: skip
        self._condition()
        notify(NEWS, kind="bench", bench=self.bench_id)

    def _link_down(self, why: str) -> None:
        if self._driver:
            self._driver.close()  # so that the reading thread connects anew
        self._driver = None
        if self._pending:
            self._refuse(self._pending.command, Refused(f"The amplifier is lost: {why}"))
            self._pending = None
        changed = Amplifier.objects.filter(bench_id=self.bench_id).exclude(
            link=Link.LOST, link_note=why[:300]
        )
        if changed.update(link=Link.LOST, link_note=why[:300]):
            log.warning("Amplifier lost: %s", why)
            notify(NEWS, kind="bench", bench=self.bench_id)

    def _load_setup(self) -> None:
        bench = Bench.objects.select_related("active_setup__project", "active_setup__bench").get(
            pk=self.bench_id
        )
        self._setup = freeze(bench.active_setup) if bench.active_setup else None
        channels = self._setup.channels if self._setup else []
        self._frames = LiveFrames(channels)
        if not self._session:
            self._condition()

    def _condition(self) -> None:
        """Bring the setup's conditioning in force on the amplifier, if it differs."""
        if self._driver is None or self._setup is None:
            return
        settings = [_conditioning(c) for c in self._setup.channels]
        wanted = (settings, self._setup.rate_hz)
        if wanted != self._conditioning:
            if self._session is None:
                self._driver.configure(settings, self._setup.rate_hz)
            self._conditioning = wanted

    # Orders

    def _take_orders(self) -> None:
        waiting = Command.objects.filter(bench_id=self.bench_id, state=CommandState.WAITING)
        for command in waiting.exclude(pk__in=self._in_hand()).order_by("id"):
            try:
                answer = self._orders[command.kind](command)
                if answer is not None:
                    self._answer(command, answer)
            except Refused as refused:
                self._refuse(command, refused)
            except DriverError as error:
                self._refuse(command, Refused(f"The device did not do it: {error}"))

    def _in_hand(self) -> list[int]:
        """Orders taken up already; their answers come with later blocks."""
        commands = [self._starting, self._pending.command if self._pending else None]
        return [c.pk for c in commands if c]

    def _answer(self, command: Command, answer: dict[str, Any]) -> None:
        Command.objects.filter(pk=command.pk).update(state=CommandState.DONE, answer=answer)

    def _refuse(self, command: Command, refused: Refused) -> None:
        Command.objects.filter(pk=command.pk).update(
            state=CommandState.REFUSED, answer={"title": str(refused), "hint": refused.hint}
        )

    def _linked(self) -> AmplifierDriver:
        if self._driver is None:
            note = Amplifier.objects.get(bench_id=self.bench_id).link_note
            raise Refused(f"The amplifier is not linked: {note}", "Link it, then try again.")
        return self._driver

    def _start(self, command: Command) -> None:
        """Answered when the first block is recorded."""
        driver = self._linked()
        if self._session:
            raise Refused("A run is being recorded.", "Stop it first.")
        run = Run.objects.get(pk=command.arguments["run"])
        if command.arguments["pull"]:
            self._actuator.need()
        self._session = Session(run, self._writer, driver.full_counts, self._send_again)
        self._starting = command

    def _stop_order(self, command: Command) -> dict[str, Any]:
        session = self._session
        if not session or session.run.pk != command.arguments["run"]:
            raise Refused("This run is not being recorded.")
        self._end_run(RunState.KEPT, command.arguments["why"])
        self._actuator.stop()
        return {}

    def _emergency(self, command: Command) -> dict[str, Any]:
        try:
            self._actuator.stop()
        finally:
            if self._session:
                self._end_run(RunState.KEPT, "Emergency stop")
        return {}

    def _return(self, command: Command) -> dict[str, Any]:
        self._actuator.go_home()
        return {}

    def _chosen(self, command: Command) -> list[FrozenChannel]:
        self._load_setup()
        if self._pending:
            raise Refused("Channels are being measured already.", "Try again in a second.")
        wanted = set(command.arguments["channels"])
        channels = [c for c in self._setup.channels if c.id in wanted] if self._setup else []
        if len(channels) != len(wanted):
            raise Refused("The bench works with another setup.", "Put this setup on the bench.")
        return channels

    def _measure(self, command: Command) -> None:
        self._linked()
        self._pending = Pending(command, Measurement(self._chosen(command)))

    def _shunt(self, command: Command) -> None:
        driver = self._linked()
        channels = self._chosen(command)
        inputs = [c.input_number for c in channels]
        self._pending = Pending(
            command,
            ShuntMeasurement(
                channels,
                lambda on: driver.set_shunt(inputs, on),
                driver.shunt_ohm(inputs[0]),
            ),
        )

    # The run

    def _take_up_open_run(self) -> None:
        run = open_run(self.bench_id)
        if run is None:
            return
        session = Session(run, self._writer, BridgeAmplifier.full_counts, self._send_again)
        if run.state == RunState.RECORDING and resume(session):
            log.warning("Going on with %s", run.name)
            self._session = session
        else:
            close_run(run.pk, RunState.FAILED, "The recorder ended before the first sample.")

    def _record(self, session: Session, block: SampleBlock, digest: BlockDigest) -> None:
        if session.stream is None:
            if block.again:
                return
            self._begin(session, block)
        session.push(block, digest)
        if session.dropped:
            with suppress(DriverError):  # noted as lost; the run goes on to its own end
                self._actuator.stop()
        if session.why_ended:
            state = RunState.INTERRUPTED if session.interrupted else RunState.KEPT
            self._end_run(state, session.why_ended)

    def _begin(self, session: Session, block: SampleBlock) -> None:
        session.open(block)
        Run.objects.filter(pk=session.run.pk).update(
            state=RunState.RECORDING, started_at=datetime.now(UTC)
        )
        command, self._starting = self._starting, None
        assert command is not None
        try:
            if command.arguments["pull"]:
                self._actuator.ramp(session.setup.pull_speed_m_s, session.setup.travel_limit_m)
        except DriverError as error:
            self._refuse(command, Refused(f"The load frame does not pull: {error}"))
            self._end_run(RunState.FAILED, f"The load frame does not pull: {error}")
            return
        self._answer(command, {})
        notify(NEWS, kind="run", setup=session.run.setup_id, run=session.run.pk)

    def _end_run(self, state: RunState, why: str) -> None:
        session, self._session = self._session, None
        self._starting = None
        if session is None:
            return
        if rest := session.last_envelope_rows():
            self._writer.put(rest)
        self._writer.put(lambda: close_run(session.run.pk, state, why))

    def _send_again(self, first: int, last: int) -> None:
        if self._driver:
            self._driver.send_again(first, last)

    def _state(self) -> dict[str, Any]:
        session = self._session
        return {
            "phase": "recording" if session else "idle",
            "run": session.run.pk if session else None,
            "run_name": session.run.name if session else "",
            "elapsed_s": session.elapsed_s if session else 0,
            "missing_blocks": session.missing_blocks if session else 0,
            "backlog_s": round(self._writer.backlog_s, 1),
            "trouble": self._writer.trouble,
            "free_bytes": self._free_bytes,
            "linked": self._driver is not None,
            "motion": self._actuator.motion,
            "position_m": self._actuator.position_m,
        }


def _conditioning(channel: FrozenChannel) -> InputSettings:
    return InputSettings(
        channel.input_number,
        channel.arrangement.partition("_")[0],
        120.0 if channel.resistance_ohm < 200 else 350.0,
        channel.excitation_v,
        channel.range_mv_v,
    )
