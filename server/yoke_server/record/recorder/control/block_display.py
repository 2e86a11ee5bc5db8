"""What every block is used for besides a run: live readings and measurements at rest."""

import logging
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from yoke_core.streaming.block import Place as RowPosition

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.live.protocol import NO_RUN
from yoke_server.record.recorder.control.bench_device import BenchDevice
from yoke_server.record.recorder.display.late_frames import LiveBlock
from yoke_server.record.recorder.stream.positioned import PositionedBlock

log = logging.getLogger(__name__)

Measure = Callable[[str, PositionedBlock], None]


@dataclass(slots=True)
class BlockDisplay:
    """Given to the lines of all devices of a bench.

    run_start_ns : bench time at which the run of a device began; None without one
    measure : what is measured at rest, or of the wiring, takes blocks by settled settings
    on_restart : a device began a new acquisition
    devices : all devices of the bench
    """

    publish: Callable[[bytes], None]
    run_start_ns: Callable[[str], int | None]
    measure: Measure
    on_restart: Callable[[str, int], None]
    devices: Callable[[], Iterable[BenchDevice]]

    def of(self, device: BenchDevice) -> "DeviceDisplay":
        return DeviceDisplay(self, device)


@dataclass(slots=True, eq=False)
class DeviceDisplay:
    """Subscribed to one device's line for good."""

    _display: BlockDisplay
    _device: BenchDevice
    keeps_samples: bool = False
    _last: PositionedBlock | None = None

    def row_position(self, block: SampleBlock) -> RowPosition | None:
        return None

    def push_block(self, placed: PositionedBlock) -> None:
        """A fault here costs a picture; the line keeps its subscriber."""
        device = self._device
        device.settle(placed.block)
        if not device.frames.layout.channels:
            return
        try:
            if device.settled:
                self._display.measure(device.label, placed)
            self._publish(placed)
        except Exception:
            log.exception("A block of %s was not shown.", device.label)

    def _publish(self, placed: PositionedBlock) -> None:
        device, end_ns = self._device, placed.end_ns
        start_ns = self._display.run_start_ns(device.label)
        run_s = NO_RUN if start_ns is None else (end_ns - start_ns) * 1e-9
        follows, self._last = placed.continues(self._last), placed.bare()
        summary, end_s = placed.summary, end_ns * 1e-9
        self._display.publish(device.frames.encode(summary, end_s, run_s, follows))
        block = LiveBlock(summary, placed.begin_ns * 1e-9, end_s, run_s, follows)
        device.late.push_own(block)
        for other in self._display.devices():
            other.late.push_other(device.label, block)
            for frame in other.late.take():
                self._display.publish(frame)

    def restart(self, acquisition: int) -> None:
        self._display.on_restart(self._device.label, acquisition)

    def fail(self, error: Exception) -> None:
        """`push_block` raises nothing."""
