"""A start order on its way to a run: settings confirmed, first blocks in, plan, tracks."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from yoke_server.bench.drivers.base import AcquisitionStatus, SampleBlock
from yoke_server.record.recorder.control.bench_device import BenchDevice
from yoke_server.record.recorder.control.recording import Track
from yoke_server.record.recorder.storage.resume import ResumedStream
from yoke_server.record.recorder.storage.runs import Plan
from yoke_server.record.recorder.stream.block_order import BlockOrder
from yoke_server.record.recorder.stream.writer import StreamWriter
from yoke_server.record.store import Samples
from yoke_server.wire.document import FrozenSetup

Devices = Mapping[str, BenchDevice]


@dataclass(slots=True)
class PendingStart:
    """Devices that must still confirm their settings, and from where the others count."""

    order_key: str
    revision_id: int
    operator_id: int | None
    pull: bool
    until: float  # monotonic; later it is given up
    setup: FrozenSetup
    waiting: set[str]
    since: dict[str, AcquisitionStatus] = field(default_factory=dict)
    plan: Plan | None = None  # once it is being written
    stopped: str = ""  # why it must not begin any more

    def call_off(self, why: str) -> None:
        self.stopped = self.stopped or why
        if self.plan:
            self.plan.cancelled = self.plan.cancelled or why

    def blocks(self, devices: Devices, label: str) -> list[SampleBlock]:
        """A device's blocks that were taken with the confirmed settings."""
        status = self.since[label]
        return devices[label].ring.since(status.acquisition, status.next)

    def make_plan(self, devices: Devices) -> Plan | None:
        """The run to begin, once each device's first confirmed block is here."""
        firsts = {label: self.blocks(devices, label) for label in self.since}
        if self.waiting or not all(firsts.values()):
            return None
        starts = [
            devices[label].clock.host_ns(min(b.time_ns for b in blocks))
            for label, blocks in firsts.items()
        ]
        self.plan = Plan(
            self.order_key, self.revision_id, self.operator_id, min(starts),
            {label: blocks[0].rate_hz for label, blocks in firsts.items()},
            {label: self.setup.of_device(label) for label in firsts},
        )  # fmt: skip
        return self.plan

    def first_places(self, devices: Devices) -> dict[str, tuple[int, int]]:
        """(acquisition, sequence) of each device's first block of the run."""
        return {
            label: (
                status.acquisition,
                min((b.sequence for b in self.blocks(devices, label)), default=status.next),
            )
            for label, status in self.since.items()
        }


def make_track(
    device: BenchDevice,
    setup: FrozenSetup,
    ids: tuple[int, int],
    put: Callable[[Samples], None],
    monotonic: Callable[[], float],
    place: tuple[int, int] = (-1, 0),
    resumed: ResumedStream | None = None,
) -> Track:
    """A device's part of the run ``ids`` (run, stream), from a place or where it was left."""
    if resumed:
        acquisition = resumed.span.acquisition if resumed.span else -1
        place = (acquisition, resumed.last_sequence + 1)

    def ask(first: int, last: int) -> None:
        device.port.send_again(first, last)  # whichever port it has by then

    columns = [c.input_number - 1 for c in setup.of_device(device.label)]
    keeper = StreamWriter(*ids, columns, device.clock, put, monotonic, resumed)
    return Track(BlockOrder(*place, ask), keeper)
