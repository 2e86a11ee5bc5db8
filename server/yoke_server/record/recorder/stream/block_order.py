"""Puts the blocks of one device in order, asks for missing ones, and says which are lost."""

from collections.abc import Callable
from dataclasses import dataclass, field

from yoke_server.bench.drivers.base import SampleBlock

ASK_AGAIN_AFTER = 0.5  # s
GIVE_UP_AFTER = 5.0  # s without any missing block arriving, while others do
MAX_HELD = 128 << 20  # bytes of early blocks


@dataclass(frozen=True, slots=True)
class Missing:
    """Blocks that the device no longer sends."""

    first: int
    last: int

    @property
    def count(self) -> int:
        return self.last - self.first + 1


Ordered = SampleBlock | Missing


@dataclass(slots=True)
class BlockOrder:
    """Blocks go in by `push_block`, in any order, once or twice; they come out in order, once.

    ``ask(first, last)`` asks the device for old blocks. Whatever is held behind a gap comes
    out at last: when the gap is filled, given up, or at `flush`.
    """

    acquisition: int
    next: int
    ask: Callable[[int, int], None]
    max_held: int = MAX_HELD
    missing: int = 0
    _held: dict[int, SampleBlock] = field(default_factory=dict)
    held_bytes: int = 0
    _progress_at: float = 0.0
    _asked_at: float = 0.0

    def is_next(self, block: SampleBlock) -> bool:
        """Whether `push_block` would give this block out first, at once."""
        return block.acquisition == self.acquisition and block.sequence == self.next

    def push_block(self, block: SampleBlock, now: float) -> list[Ordered]:
        """What is next in order now that ``block`` is here; of another acquisition: nothing."""
        if block.acquisition != self.acquisition or block.sequence < self.next:
            return []
        if block.sequence > self.next:
            self._hold(block, now)
            return self.give_up_if_due(now)
        self._progress_at = now
        return self._through(block)

    def _hold(self, block: SampleBlock, now: float) -> None:
        if block.sequence in self._held:
            return
        if not self._held or block.again:
            self._progress_at = now
        self._held[block.sequence] = block
        self.held_bytes += block.counts.nbytes
        if now - self._asked_at >= ASK_AGAIN_AFTER:
            self._asked_at = now
            self.ask(self.next, min(self._held) - 1)

    def give_up_if_due(self, now: float) -> list[Ordered]:
        """What comes out once the device sends nothing more of what is missing."""
        full = self.held_bytes > self.max_held
        if not self._held or not (full or now - self._progress_at > GIVE_UP_AFTER):
            return []
        self._progress_at = now
        return self._jump()

    def _jump(self) -> list[Ordered]:
        """Give the first gap up and let out what waited behind it."""
        first = min(self._held)
        gap = Missing(self.next, first - 1)
        self.missing += gap.count
        self.next = first
        return [gap, *self._through(self._take(first))]

    def _through(self, block: SampleBlock) -> list[Ordered]:
        found: list[Ordered] = [block]
        self.next = block.sequence + 1
        while self.next in self._held:
            found.append(self._take(self.next))
            self.next += 1
        return found

    def _take(self, sequence: int) -> SampleBlock:
        block = self._held.pop(sequence)
        self.held_bytes -= block.counts.nbytes
        return block

    def flush(self) -> list[Ordered]:
        """Everything still held, with the gaps between: nothing received is thrown away."""
        found: list[Ordered] = []
        while self._held:
            found += self._jump()
        return found
