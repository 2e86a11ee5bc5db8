"""The newest blocks of a device, kept in memory so that a run can begin before its order came."""

import threading
from collections import deque

from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.stream.positioned import PositionedBlock

SECONDS = 10.0  # longer than beginning a run may take
PROCESS_BYTES = 256 << 20


class MemoryBudget:
    """Bytes that all rings of a process may hold together."""

    def __init__(self, max_bytes: int = PROCESS_BYTES) -> None:
        self._max_bytes = max_bytes
        self._lock = threading.Lock()
        self.used = 0

    def add(self, nbytes: int) -> None:
        """Count bytes more; or less, if negative. From any thread."""
        with self._lock:
            self.used += nbytes

    @property
    def is_exceeded(self) -> bool:
        return self.used > self._max_bytes


class Ring:
    """Bounded by time and by the process's bytes, whichever is reached first."""

    def __init__(self, budget: MemoryBudget, seconds: float = SECONDS) -> None:
        self._budget = budget
        self._seconds = seconds
        self._blocks: deque[PositionedBlock] = deque()

    def push_block(self, placed: PositionedBlock) -> None:
        """``placed`` is kept without its summary, which can be made again."""
        self._blocks.append(placed)
        self._budget.add(placed.block.counts.nbytes)
        while len(self._blocks) > 1 and (self._budget.is_exceeded or self._is_old(placed)):
            self._budget.add(-self._blocks.popleft().block.counts.nbytes)

    def _is_old(self, newest: PositionedBlock) -> bool:
        return (newest.end_ns - self._blocks[0].end_ns) * 1e-9 > self._seconds

    def move(self, by_ns: int) -> None:
        """All of them were taken so much later than was known so far."""
        if not by_ns:
            return
        moved: dict[PlacedSegment, PlacedSegment] = {}
        for placed in self._blocks:
            if placed.segment not in moved:
                moved[placed.segment] = placed.segment.moved(by_ns)
            placed.segment = moved[placed.segment]

    def clear(self) -> None:
        while self._blocks:
            self._budget.add(-self._blocks.popleft().block.counts.nbytes)

    @property
    def holds_some(self) -> bool:
        return bool(self._blocks)

    def take(self) -> list[PositionedBlock]:
        """All of them, in order; it is empty then."""
        found = list(self._blocks)
        self.clear()
        return found

    def first_after(self, at_ns: int) -> PositionedBlock | None:
        """The first that does not end before a bench time."""
        return next((placed for placed in self._blocks if placed.end_ns > at_ns), None)

    def drop_before(self, at_ns: int) -> None:
        """Forget all that ends before a bench time."""
        while self._blocks and self._blocks[0].end_ns <= at_ns:
            self._budget.add(-self._blocks.popleft().block.counts.nbytes)

    def since(self, acquisition: int, sequence: int) -> list[PositionedBlock]:
        """Blocks of an acquisition from a sequence on, in order."""
        return [
            p
            for p in self._blocks
            if p.block.acquisition == acquisition and p.block.sequence >= sequence
        ]
