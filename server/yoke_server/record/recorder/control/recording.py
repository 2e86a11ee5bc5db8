"""One run being recorded: a track for each device, watches over what arrives."""

from collections.abc import Callable
from dataclasses import dataclass, field

from yoke_core.block import BlockSummary, Place
from yoke_core.fatigue.cycle_meter import CycleMeter

from yoke_server.bench.drivers.base import FrameState, SampleBlock
from yoke_server.record.envelopes import EnvelopeValues
from yoke_server.record.recorder.stream.block_order import BlockOrder, Ordered
from yoke_server.record.recorder.stream.stop_conditions import TAIL, watches_of
from yoke_server.record.recorder.stream.writer import StreamWriter
from yoke_server.wire.document import FrozenSetup

BEGINS_WITHIN = 1.0  # s from its order on, in which an actuator moves
STOOD = {
    "arrived": "The actuator has done its part",
    "tripped": "The actuator stopped at a limit of its own",
}


@dataclass(frozen=True, slots=True)
class Closed:
    """What closing a stream adds: its length, the end of its chain, its last envelope rows.

    Those rows are not full, so no later one could follow them: they are written with the
    run's end, never before.
    """

    stream_id: int
    samples: int
    chain: bytes
    envelope: list[EnvelopeValues] = field(default_factory=list)


@dataclass(slots=True)
class Track:
    """One device's part of a run: blocks put in order, then kept."""

    order: BlockOrder
    keeper: StreamWriter
    broke_off: bool = False  # the device began a new acquisition

    def place_of(self, block: SampleBlock) -> Place | None:
        """Where its signals may be put at once: none unless it comes next and is kept next."""
        return self.keeper.place_of(block) if self.order.is_next(block) else None

    def push(self, block: SampleBlock, digest: BlockSummary | None, now: float) -> None:
        if self.order.acquisition < 0:  # resumed before its first sample
            self.order.acquisition, self.order.next = block.acquisition, block.sequence
        if block.acquisition != self.order.acquisition:
            # An old block of another acquisition is nothing; a new one means a new beginning.
            self.broke_off = self.broke_off or not block.again
            return
        for item in self.order.push(block, now):
            self._keep(item, digest if item is block else None)

    def _keep(self, item: Ordered, digest: BlockSummary | None) -> None:
        self.keeper.take(item, digest)

    def finish(self) -> Closed:
        for item in self.order.flush():
            self._keep(item, None)
        rows = self.keeper.finish()
        return Closed(self.keeper.stream_id, self.keeper.samples, self.keeper.chain, rows)


class Recording:
    """Everything of a run that lives while it records."""

    def __init__(
        self,
        run_id: int,
        name: str,
        setup: FrozenSetup,
        start_ns: int,
        tracks: dict[str, Track],
        bench_ns: Callable[[], int],
    ) -> None:
        self.run_id = run_id
        self.name = name
        self.setup = setup
        self.start_ns = start_ns
        self.tracks = tracks
        self.met = ""  # what ends the run, once it has happened
        self.tail_until_ns: int | None = None
        self._bench_ns = bench_ns
        self._watches = watches_of(setup)
        self.motion_token = ""  # of the order to the actuator, if this run gave one
        self._begun_ns: int | None = None  # when the actuator took it
        self._seen_moving = False  # since then

    @property
    def elapsed_s(self) -> float:
        """Bench seconds since the first sample."""
        return max(0.0, (self._bench_ns() - self.start_ns) * 1e-9)

    @property
    def tail_is_over(self) -> bool:
        return self.tail_until_ns is not None and self._bench_ns() >= self.tail_until_ns

    @property
    def missing_blocks(self) -> int:
        return sum(t.order.missing for t in self.tracks.values())

    @property
    def watched_devices(self) -> set[str]:
        """Devices without whose samples nothing may move."""
        return {w.device for w in self._watches.samples} or set(self.tracks)

    @property
    def cycles(self) -> CycleMeter | None:
        """What counts the cycles of a run that has some."""
        return self._watches.cycles

    def look(self, device: str, digest: BlockSummary) -> str:
        """What a block, the newest that arrived, meets for the first time; else nothing."""
        watches = self._watches
        for watch in watches.samples + (watches.moving if self.motion_token else []):
            if watch.device == device and watch.met(digest) and not self.met:
                return self._meet(watch.words)
        return ""

    def time_is_up(self) -> str:
        """Said once."""
        seconds = self._watches.seconds
        if self.met or seconds is None or self.elapsed_s < seconds:
            return ""
        return self._meet(f"The {seconds:g} s are over")

    def began_to_move(self) -> None:
        self._begun_ns = self._bench_ns()

    def came_to_stand(self, state: FrameState) -> str:
        """The actuator was seen to stand at its end or a limit: said once, if that is to end
        the run. One that holds since nobody watched it has not done its part."""
        words = STOOD.get("tripped" if state.motion == "TRIPPED" else state.cause)
        ends = self._watches.motion_end and self._has_moved(state) and not state.moving
        return self._meet(words) if ends and words and not self.met else ""

    def _has_moved(self, state: FrameState) -> bool:
        """One that begins a moment late still says why it stood before."""
        if self._begun_ns is None:
            return False
        self._seen_moving = self._seen_moving or state.moving
        return self._seen_moving or self._bench_ns() - self._begun_ns > BEGINS_WITHIN * 1e9

    def _meet(self, words: str) -> str:
        self.met = words
        self.tail_until_ns = self._bench_ns() + round(TAIL * 1e9)
        return words

    def place_of(self, device: str, block: SampleBlock) -> Place | None:
        """Where the signals of a block may be put at once, if it is recorded."""
        track = self.tracks.get(device)
        return track.place_of(block) if track else None

    def push(
        self, device: str, block: SampleBlock, digest: BlockSummary | None, now: float
    ) -> None:
        if track := self.tracks.get(device):
            track.push(block, digest, now)

    def tick(self) -> None:
        for track in self.tracks.values():
            track.keeper.tick()

    def leave(self) -> None:
        """Give out what is in order; the run goes on with the next recorder."""
        for track in self.tracks.values():
            track.keeper.flush()

    def finish(self) -> list[Closed]:
        """Give everything that was received to the store."""
        return [track.finish() for track in self.tracks.values()]
