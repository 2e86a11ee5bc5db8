"""From the block that shows a force drop to the stop command at the actuator."""

import itertools
import queue
import threading
import time
from contextlib import suppress
from datetime import UTC, datetime
from typing import Any

import numpy as np
from yoke_core.timebase.clock import ClockReading
from yoke_core.warm import compile_all
from yoke_server.kinds.orders.runs import StartRun

from tests.benchmarks.measure import Row, percentile

ROUNDS = 60
BLOCK_S = 0.1
RATE = 1000.0
RAIL = 2**23 - 1
READINGS = 20  # of a clock, one a second, until it is well known
HELD = [8000.0] * 4  # N, a block each


class Driver:
    """An actuator that notes when it is told to stop."""

    def __init__(self) -> None:
        self.stopped_at: float | None = None
        self.moving_as = ""

    def connect(self) -> Any:
        from yoke_server.bench.drivers.base import Identity

        return Identity("actuator", "1", "1", "passed")

    def close(self) -> None: ...
    def take_control(self, host: str) -> None: ...

    def ramp(self, motion_id: str, speed_m_s: float, target_m: float) -> None:
        self.moving_as = motion_id

    def stop(self) -> None:
        if self.moving_as:
            self.stopped_at = time.perf_counter()
        self.moving_as = ""

    def state(self) -> Any:
        from yoke_server.bench.drivers.base import FrameState

        motion = "RAMP" if self.moving_as else "HOLD"
        return FrameState(motion, 0.0, motion_id=self.moving_as)


class Anything:
    """A part that is asked nothing of weight."""

    trouble, full, backlog_s, room_bytes = "", False, 0.0, 1 << 30
    is_listening, has_unkept_stops = True, False

    def __init__(self) -> None:
        self.heard_at = self.written_at = time.monotonic() + 3600

    def __getattr__(self, name: str) -> Any:
        return lambda *args, **facts: None


class Bench:
    """The runner with two devices, one actuator and a run that is recorded."""

    def __init__(self) -> None:
        from yoke_server.record.recorder.control.parts import Parts
        from yoke_server.record.recorder.model import events
        from yoke_server.record.recorder.model.clock import SystemClock
        from yoke_server.record.recorder.model.progress import Place
        from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
        from yoke_server.record.recorder.runner import BenchRecorder

        from tests.simulation.stage import Silent, two_devices

        self.clock, self.inbox, self.driver = SystemClock(), queue.SimpleQueue(), Driver()
        self.sent_at = 0.0
        self.arrived, self._sequence = events.Arrived, itertools.count()
        port = ActuatorPort("frame", "bench", lambda: self.driver, self.clock, self.inbox.put)
        any_part = Anything()
        self.recorder = BenchRecorder(
            Parts(
                self.clock,
                any_part,
                any_part,
                any_part,
                any_part,
                Silent(),
                lambda label, address: any_part if label != "frame" else None,
                lambda label, address: port,
                lambda: None,
            )
        )
        address = events.Address("servo actuator", "x", 1)
        setup = two_devices()
        for event in (
            events.DevicesKnown({"A1": address, "A2": address, "frame": address}),
            events.SetupLoaded(setup),
        ):
            self.recorder.handle(event)
        self._began_ns = now = self.clock.bench_ns()
        for at in range(now - READINGS * 10**9, now, 10**9):
            for label in ("A1", "A2"):
                self.recorder.handle(events.ClockRead(label, ClockReading(at, at, 1000)))
        self.recorder.run.record(1, "run", setup, self.clock.bench_ns())
        for label in ("A1", "A2"):
            self.recorder.run.add_track(label, 1, Place(1, 0))
        self.thread = threading.Thread(target=self._serve, daemon=True)
        self.ending = threading.Event()
        self.order = events.OrderIn(
            "pull", StartRun(revision=1), datetime.now(UTC), self.clock.monotonic() + 60, setup
        )

    def _serve(self) -> None:
        while not self.ending.is_set():
            with suppress(queue.Empty):
                self.recorder.handle(self.inbox.get(timeout=0.05))
            self.recorder.tick()

    def block(self, newtons: float) -> None:
        """The next block of both devices, as soon as its last sample is taken."""
        from yoke_server.bench.drivers.base import SampleBlock

        sequence = next(self._sequence)
        counts = np.zeros((100, 8), np.int32)
        counts[:, 0] = round(newtons / 25e3 * 2e-3 / 8e-3 * RAIL)
        counts[::2, 0] += 1  # no converter is without noise
        at = self._began_ns + round(sequence * BLOCK_S * 1e9)
        time.sleep(max(0.0, (at - self.clock.bench_ns()) * 1e-9 + BLOCK_S))
        scale = np.full(8, 8e-3, np.float32)
        self.sent_at = time.perf_counter()
        for label in ("A1", "A2"):
            block = SampleBlock(1, sequence, at, RATE, scale, counts, False)
            self.inbox.put(self.arrived(label, block))

    def begin_motion(self) -> None:
        """The pull of a run; returns when the actuator moves."""
        while self.recorder.context.actuators.main.state is None:  # type: ignore[union-attr]
            self.recorder.handle(self.inbox.get(timeout=1))
        self.recorder.run.begin_motion(self.order)
        self.thread.start()
        while not self.driver.moving_as:
            time.sleep(0.001)

    def finish(self) -> None:
        self.ending.set()
        self.thread.join()
        self.recorder.context.actuators.finish()


def one_round() -> float:
    """Seconds from the block's arrival to the command."""
    bench = Bench()
    bench.block(HELD[0])
    bench.begin_motion()
    for newtons in HELD[1:]:
        bench.block(newtons)
    bench.block(100.0)
    start = bench.sent_at
    while bench.driver.stopped_at is None and time.perf_counter() < start + 3:
        time.sleep(0.0005)
    stopped_at = bench.driver.stopped_at
    bench.finish()
    assert bench.recorder.run.recording is not None
    assert "force" in bench.recorder.run.recording.triggered.lower()
    assert stopped_at is not None and stopped_at > start
    return stopped_at - start


def measure() -> list[Row]:
    compile_all()  # as a recorder does before it serves
    late = percentile([one_round() for _ in range(ROUNDS)], 0.95)
    return [
        Row(
            "force drop to the actuator's stop command, 95th percentile",
            (BLOCK_S + late) * 1e3,
            BLOCK_S * 1e3,
            "ms",
            "under a block + 10 ms",
            late < 0.01,
        )
    ]
