"""The newest blocks of a device, kept in memory so that a run can begin before its order came."""

from collections import deque
from dataclasses import dataclass, field

from yoke_server.bench.drivers.base import SampleBlock

SECONDS = 10.0  # longer than beginning a run may take
BYTES = 64 << 20


@dataclass(slots=True)
class Ring:
    """Bounded by time and by bytes, whichever is reached first."""

    seconds: float = SECONDS
    most_bytes: int = BYTES
    _blocks: deque[SampleBlock] = field(default_factory=deque)
    _bytes: int = 0

    def push(self, block: SampleBlock) -> None:
        self._blocks.append(block)
        self._bytes += block.counts.nbytes
        while len(self._blocks) > 1 and (
            self._bytes > self.most_bytes
            or (block.time_ns - self._blocks[0].time_ns) * 1e-9 > self.seconds
        ):
            self._bytes -= self._blocks.popleft().counts.nbytes

    def since(self, acquisition: int, sequence: int) -> list[SampleBlock]:
        """Blocks of an acquisition from a sequence on, as they came."""
        return [b for b in self._blocks if b.acquisition == acquisition and b.sequence >= sequence]
