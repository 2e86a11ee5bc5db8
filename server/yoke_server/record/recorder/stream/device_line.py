"""All that one device sends, in order and once: the same line whether a run is recorded or not.

Block order, then timeline, then the ring, then whoever looks at samples: live frames,
conditions, stream writers. What was lost and sent again goes the same way, once.
"""

import logging
from collections.abc import Callable, Sequence
from typing import Protocol

from yoke_core.streaming.block import Place as RowPosition
from yoke_core.timebase.clock import ClockModel

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.recorder.model.progress import LinePlace, Place
from yoke_server.record.recorder.stream.block_order import BlockOrder, Missing, Ordered
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.recorder.stream.ring import MemoryBudget, Ring
from yoke_server.record.recorder.stream.timeline import Timeline

log = logging.getLogger(__name__)


class Subscriber(Protocol):
    """Who is given each block of a device, in order and once."""

    keeps_samples: bool  # at the times that they are given: those stand from then on

    def row_position(self, block: SampleBlock) -> RowPosition | None:
        """Where the signals of the next block may be put at once."""
        ...

    def push_block(self, placed: PositionedBlock) -> None: ...
    def restart(self, acquisition: int) -> None:
        """The device began anew: what it sends from now on joins nothing of before."""
        ...

    def fail(self, error: Exception) -> None:
        """`push_block` raised this; the line has let go of the subscriber."""
        ...


class DeviceLine:
    """One device's samples; ``ask(first, last)`` asks the device for old blocks."""

    def __init__(
        self,
        clock: ClockModel,
        bench_ns: Callable[[], int],
        monotonic: Callable[[], float],
        ask: Callable[[int, int], None],
        budget: MemoryBudget,
    ) -> None:
        self._bench_ns = bench_ns
        self._monotonic = monotonic
        self._ask = ask
        self._timeline = Timeline(clock)
        self._order: BlockOrder | None = None  # before the first block
        self._subscribers: list[Subscriber] = []
        self._samples = 0  # so far
        self._missing = 0  # blocks lost since the last one
        self.ring = Ring(budget)
        self.reached_ns: int | None = None  # bench time up to which everybody has seen samples

    @property
    def age_s(self) -> float:
        """How old the newest sample is that everybody has seen; one of the future is no sample."""
        if self.reached_ns is None:
            return float("inf")
        return abs(self._bench_ns() - self.reached_ns) * 1e-9

    @property
    def is_sure(self) -> bool:
        """Whether it is known when its samples were taken."""
        return self._timeline.is_sure

    @property
    def missing_blocks(self) -> int:
        """Given up so far."""
        return self._order.missing if self._order else 0

    @property
    def held_bytes(self) -> int:
        """Of blocks that wait for earlier ones."""
        return self._order.held_bytes if self._order else 0

    def go_on_from(self, line: LinePlace, rate_hz: float) -> None:
        """Begin where an earlier recorder ended, so that what it lacks is asked for.

        rate_hz : of the device, by its own clock
        """
        place, segment = line.place, line.segment
        self._order = BlockOrder(place.acquisition, place.sequence, self._ask)
        self._samples = line.samples
        passed = (line.samples - segment.first_sample) * 1e9 / rate_hz
        self._timeline.go_on_from(segment, segment.device_ns + round(passed))

    def subscribe(self, subscriber: Subscriber, since: Place | None = None) -> None:
        """Give all blocks from now on; and before, from a place on, what is still in memory.

        Whoever comes last is given each block first: a run before the screens.
        """
        self._subscribers.insert(0, subscriber)
        if since:
            for placed in self.ring.since(since.acquisition, since.sequence):
                self._give(subscriber, placed)

    def unsubscribe(self, subscriber: Subscriber) -> None:
        if subscriber in self._subscribers:
            self._subscribers.remove(subscriber)

    def push_block(self, block: SampleBlock) -> None:
        """Whatever comes: early, late, twice, or of another acquisition."""
        order = self._order_of(block)
        if order is None:
            return
        now = self._monotonic()
        if order.is_next(block):
            placed = self._place(block, self._row_position(block))
            _, *held = order.push_block(block, now)
            self._pass_on(placed)
            self._pass_on_all(held)
        else:
            self._pass_on_all(order.push_block(block, now))

    def flush(self) -> None:
        """What waits behind a gap comes out, with the gap: nothing received is thrown away."""
        self._pass_on_all(self._order.flush() if self._order else [])

    def tick(self) -> None:
        """Give up what the device does not send again."""
        order = self._order
        self._pass_on_all(order.give_up_if_due(self._monotonic()) if order else [])

    def _order_of(self, block: SampleBlock) -> BlockOrder | None:
        """None for an old block of another acquisition; a new one means a new beginning."""
        order = self._order
        if order and order.acquisition == block.acquisition:
            return order
        if block.again:
            return None
        if order:
            self._restart(block.acquisition)
        self._order = BlockOrder(block.acquisition, block.sequence, self._ask)
        return self._order

    def _restart(self, acquisition: int) -> None:
        self.flush()
        self._timeline.restart()
        self.ring.clear()
        self._missing = 0
        for subscriber in list(self._subscribers):
            subscriber.restart(acquisition)

    def _row_position(self, block: SampleBlock) -> RowPosition | None:
        return next((p for s in self._subscribers if (p := s.row_position(block))), None)

    def _place(self, block: SampleBlock, row_position: RowPosition | None) -> PositionedBlock:
        now_ns = self._bench_ns()
        if not self._missing and not any(s.keeps_samples for s in self._subscribers):
            self.ring.move(self._timeline.correct(block, self._samples))
        segment = self._timeline.place(block, self._samples, self._missing, now_ns)
        placed = PositionedBlock(block, self._samples, segment, row_position)
        self._samples += block.samples
        self._missing = 0
        return placed

    def _pass_on_all(self, items: Sequence[Ordered]) -> None:
        for item in items:
            if isinstance(item, Missing):
                self._missing += item.count
            else:
                self._pass_on(self._place(item, self._row_position(item)))

    def _pass_on(self, placed: PositionedBlock) -> None:
        """Kept first: whoever fails at it, the others get it."""
        self.ring.push_block(placed.bare())
        for subscriber in list(self._subscribers):
            self._give(subscriber, placed)
        self.reached_ns = placed.end_ns

    def _give(self, subscriber: Subscriber, placed: PositionedBlock) -> None:
        try:
            subscriber.push_block(placed)
        except Exception as error:
            log.exception("A block was not taken.")
            self.unsubscribe(subscriber)
            subscriber.fail(error)
