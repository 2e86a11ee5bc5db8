"""One device's part of a run: its stop conditions, its main stream, what else is kept of it."""

from collections.abc import Callable, Sequence

from yoke_core.streaming.block import Place as RowPosition

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.recorder.model.progress import Closed
from yoke_server.record.recorder.stream.computed_writer import ComputedEnd, ComputedWriter
from yoke_server.record.recorder.stream.device_line import DeviceLine
from yoke_server.record.recorder.stream.keep.keeping import Keeping
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.recorder.stream.ring import Ring
from yoke_server.record.recorder.stream.writer import StreamWriter


class Track:
    """Subscribed to the device's line as long as the run is recorded.

    writer : of its main stream; None where no rule keeps each sample
    look(device, block) : sees each as it comes
    reach(device, block) : of one that is kept; gives what the run has reached with it, as JSON
    waits() : whether the run still waits for its trigger
    held : the newest blocks while it does
    fault(device, why) : keeping is over; the run must end
    is_left_out(block, legs) : whether it is not kept: of a pause, or not of these legs
    keeping : the other keep rules
    legs : in which the main stream is kept; none for all the time
    looked : the sequence of the first block that was not looked at before a restart
    """

    keeps_samples = True

    def __init__(
        self,
        device: str,
        line: DeviceLine,
        writer: StreamWriter | None,
        look: Callable[[str, PositionedBlock], None],
        reach: Callable[[str, PositionedBlock], str],
        waits: Callable[[], bool],
        held: Ring,
        fault: Callable[[str, str], None],
        is_left_out: Callable[[PositionedBlock, Sequence[int]], bool],
        keeping: Keeping,
        computed: ComputedWriter | None = None,
        legs: Sequence[int] = (),
        looked: int = 0,
    ) -> None:
        self.device = device
        self.line = line
        self.writer = writer
        self._look, self._reach = look, reach
        self._waits, self.held = waits, held
        self._fault = fault
        self._is_left_out = is_left_out
        self._keeping, self._legs = keeping, legs
        self._computed = computed
        self._looked = writer.next if writer else looked

    def row_position(self, block: SampleBlock) -> RowPosition | None:
        if self.writer is None or self._waits() or self.held.holds_some:
            return None  # others are stored before it
        return self.writer.row_position(block)

    def push_block(self, placed: PositionedBlock) -> None:
        """Look first, so that what was reached is stored with the block; what cannot be looked
        at is kept all the same."""
        if placed.block.sequence < self._looked:
            self._keeping.push_block(self.device, placed)
            return
        try:
            self._look(self.device, placed)
        finally:
            self._pass_on(placed)

    def _pass_on(self, placed: PositionedBlock) -> None:
        if self._waits():
            self.held.push_block(placed.bare())
            return
        self.release()
        self._keep(placed)

    def release(self) -> None:
        """The trigger has come: what was held goes on, as if it came now."""
        if not (blocks := self.held.take()):
            return
        if self.writer:
            self.writer.begin_at(blocks[0].block.sequence)
        for placed in blocks:
            self._keep(placed)

    def _keep(self, placed: PositionedBlock) -> None:
        try:
            progress = self._reach(self.device, placed)
        except Exception:
            self._store(placed, "")
            raise
        self._store(placed, progress)

    def _store(self, placed: PositionedBlock, progress: str) -> None:
        if self.writer and self._is_left_out(placed, self._legs):
            self.writer.skip_block(placed)
        elif self.writer:
            self.writer.push_block(placed, progress)
            if self._computed:
                self._computed.push_block(placed)
        if self.device in self._keeping.devices:
            self._keeping.push_block(self.device, placed)

    def restart(self, acquisition: int) -> None:
        """What comes now is of no place in the run."""
        self.line.unsubscribe(self)
        self._fault(self.device, "began anew, so its samples no longer fit on")

    def fail(self, error: Exception) -> None:
        self._fault(self.device, "has samples that the recorder cannot take; its log says why")

    def tick(self) -> None:
        """What is due by time."""
        if not self._waits():
            self.release()
        if self.writer:
            self.writer.tick()

    def flush(self) -> None:
        """Write what waits."""
        if self.writer:
            self.writer.flush()

    def finish(self) -> list[Closed]:
        """Give everything that was received to the store; how its main stream ends."""
        self.line.flush()
        self.line.unsubscribe(self)
        self.held.clear()
        if self.writer is None:
            return []
        rows = self.writer.finish()
        return [Closed(self.writer.stream_id, self.writer.samples, self.writer.chain, rows)]

    def finish_computed(self) -> list[ComputedEnd]:
        """How the computed streams end, once `finish` has given out all samples."""
        return self._computed.finish() if self._computed else []
