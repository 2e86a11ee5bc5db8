"""A block with its position in the stream and in bench time, as subscribers receive it."""

from dataclasses import dataclass

from yoke_core.streaming.block import BlockSummary, Place, summarise_block

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.models import Cause
from yoke_server.record.recorder.model.segments import PlacedSegment

BINS = 5  # of a block, that screens get


@dataclass(slots=True)
class PositionedBlock:
    """A block of a device, with its samples as signals and its place in bench time.

    first_sample : of the block, counted from the device's first
    segment : the one in which it lies
    row_position : where its signals are to be put, if somebody keeps them
    """

    block: SampleBlock
    first_sample: int
    segment: PlacedSegment
    row_position: Place | None = None
    _summary: BlockSummary | None = None

    @property
    def begin_ns(self) -> int:
        """Bench time of its first sample."""
        return self.segment.bench_of(self.first_sample)

    @property
    def end_ns(self) -> int:
        """Bench time at which its last sample's time is over."""
        return self.segment.bench_of(self.first_sample + self.block.samples)

    @property
    def summary(self) -> BlockSummary:
        """Signals and figures; made when they are first asked for."""
        if self._summary is None:
            block = self.block
            self._summary = summarise_block(
                block.counts, block.full_scale, block.rail, BINS, self.row_position
            )
        return self._summary

    def continues(self, last: "PositionedBlock | None") -> bool:
        """Whether no sample is missing between another block and this one.

        A clock that is known better only changes when samples were taken.
        """
        if last is None or self.first_sample != last.first_sample + last.block.samples:
            return False
        same = self.segment.first_sample == last.segment.first_sample
        return same or self.segment.cause == Cause.CLOCK

    def bare(self) -> "PositionedBlock":
        """The same without what can be made again."""
        return PositionedBlock(self.block, self.first_sample, self.segment)
