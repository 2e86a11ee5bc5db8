"""Blocks of one device that are measured together: from where it said it was, without a gap.

Which blocks count the device itself says: no clock has a part in it, and no number depends on
how late a block arrives.
"""

from yoke_server.bench.drivers.base import AcquisitionStatus, SampleBlock

JUMP_NS = 3_000_000  # of a device's clock between two blocks: it was put


class SampleWindow:
    """since : what the device said when it was asked: blocks from its ``next`` on were sampled
        later, but for the one that had begun
    settling : further blocks that are left out, until what was switched has rung out
    """

    def __init__(self, since: AcquisitionStatus, settling: int = 1) -> None:
        self._acquisition = since.acquisition
        self._first = since.next + settling
        self._last: SampleBlock | None = None

    def admits(self, block: SampleBlock) -> bool:
        return block.acquisition == self._acquisition and block.sequence >= self._first

    def is_torn_by(self, block: SampleBlock) -> bool:
        """Whether a block is missing before this one, or the device's clock was put: then all
        before it counts no more. To be asked of each admitted block, once."""
        last, self._last = self._last, block
        if last is None:
            return False
        end_ns = last.time_ns + round(last.samples * 1e9 / last.rate_hz)
        follows = block.sequence == last.sequence + 1
        return not follows or abs(block.time_ns - end_ns) >= JUMP_NS
