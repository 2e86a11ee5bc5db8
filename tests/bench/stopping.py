"""From the block that shows a force drop to the stop command at the frame."""

import queue
import threading
import time
from contextlib import suppress
from typing import Any

import numpy as np
from yoke_core.clock import ClockReading

from tests.bench.measure import Row, percentile

ROUNDS = 60
BLOCK_S = 0.1
RATE = 1000.0
RAIL = 2**23 - 1


class Frame:
    """A frame that notes when it is told to stop."""

    def __init__(self) -> None:
        self.stopped_at: float | None = None
        self.moving = False

    def connect(self) -> Any:
        from yoke_server.bench.drivers.base import Identity

        return Identity("frame", "1", "1", "passed")

    def close(self) -> None: ...
    def take_control(self, host: str) -> None: ...
    def go_home(self) -> None: ...

    def ramp(self, speed_m_s: float, target_m: float) -> None:
        self.moving = True

    def stop(self) -> None:
        if self.moving:
            self.stopped_at = time.perf_counter()
        self.moving = False

    def state(self) -> Any:
        from yoke_server.bench.drivers.base import FrameState

        return FrameState("RAMP" if self.moving else "HOLD", 0.0)


def one_round() -> float:
    """Seconds from the block's arrival to the command."""
    from yoke_server.bench.drivers.base import SampleBlock
    from yoke_server.record.recorder.control.parts import Parts
    from yoke_server.record.recorder.control.recording import Track
    from yoke_server.record.recorder.model import events
    from yoke_server.record.recorder.model.clock import SystemClock
    from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
    from yoke_server.record.recorder.runner import BenchRecorder
    from yoke_server.record.recorder.stream.block_order import BlockOrder
    from yoke_server.record.recorder.stream.writer import StreamWriter

    from tests.simulation.stage import Silent, two_devices

    clock, inbox, frame = SystemClock(), queue.SimpleQueue(), Frame()
    setup = two_devices()

    class Port:
        def __getattr__(self, name: str) -> Any:
            return lambda *args, **facts: None

    class OrderListener(Port):
        heard_at = clock.monotonic() + 3600

    class Nothing:
        trouble, full, backlog_s, room_bytes = "", False, 0.0, 1 << 30

        def put(self, work: Any) -> None: ...

    parts = Parts(
        clock, Nothing(), OrderListener(), Silent(),
        lambda label, address: Port() if label != "frame" else None,
        lambda label, address: ActuatorPort("bench", lambda: frame, clock, inbox.put),
        lambda: None,
    )  # fmt: skip
    recorder = BenchRecorder(parts)
    address = events.Address("x", "x", 1)
    recorder.handle(events.DevicesKnown({"A1": address, "A2": address, "frame": address}))
    recorder.handle(events.SetupLoaded(setup))
    recorder.handle(events.ClockRead("A1", ClockReading(0, clock.bench_ns(), 1000)))
    keeper = StreamWriter(
        1, 1, [0, 1], recorder.context.devices["A1"].clock, lambda w: None, clock.monotonic
    )
    tracks = {"A1": Track(BlockOrder(1, 0, lambda a, b: None), keeper)}
    recorder.run.record(1, "run", setup, clock.bench_ns(), tracks)

    def block(sequence: int, newtons: float) -> Any:
        counts = np.zeros((100, 8), np.int32)
        counts[:, 0] = round(newtons / 25e3 * 2e-3 / 8e-3 * RAIL)
        at = round(sequence * BLOCK_S * 1e9)
        return SampleBlock(1, sequence, at, RATE, np.full(8, 8e-3, np.float32), counts, False)

    ending = threading.Event()

    def serve() -> None:
        while not ending.is_set():
            with suppress(queue.Empty):
                recorder.handle(inbox.get(timeout=0.05))
            recorder.tick()

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    recorder.context.motion._actuator.move("token", lambda driver: driver.ramp(1e-4, 1e-2))
    while not frame.moving:
        time.sleep(0.005)
    for sequence in range(3):
        inbox.put(events.Arrived("A1", block(sequence, 8000)))
        time.sleep(0.02 + 0.013 * np.random.default_rng(sequence).random())
    start = time.perf_counter()
    inbox.put(events.Arrived("A1", block(3, 100)))
    while frame.stopped_at is None:
        time.sleep(0.0005)
    ending.set()
    thread.join()
    recorder.context.motion.finish()
    return frame.stopped_at - start


def measure() -> list[Row]:
    times = [one_round() for _ in range(ROUNDS)]
    late = percentile(times, 0.95)
    return [
        Row(
            "force drop to the frame's stop command, 95th percentile", (BLOCK_S + late) * 1e3,
            BLOCK_S * 1e3, "ms", "under a block + 10 ms", late < 0.01,
        )
    ]  # fmt: skip
