"""One device's part of a run: its stop conditions, its stream writer, what is computed of it."""

from collections.abc import Callable

from yoke_core.streaming.block import Place as RowPosition

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.recorder.storage.work import Closed
from yoke_server.record.recorder.stream.computed_writer import ComputedEnd, ComputedWriter
from yoke_server.record.recorder.stream.device_line import DeviceLine
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.recorder.stream.writer import StreamWriter


class Track:
    """Subscribed to the device's line as long as the run is recorded.

    look(device, block) : gives what the run has reached with it, as JSON
    fault(device, why) : keeping is over; the run must end
    is_left_out(block) : whether it is of a pause, so that it is not kept
    """

    keeps_samples = True

    def __init__(
        self,
        device: str,
        line: DeviceLine,
        writer: StreamWriter,
        look: Callable[[str, PositionedBlock], str],
        fault: Callable[[str, str], None],
        is_left_out: Callable[[PositionedBlock], bool],
        computed: ComputedWriter | None = None,
    ) -> None:
        self.device = device
        self.line = line
        self.writer = writer
        self._look = look
        self._fault = fault
        self._is_left_out = is_left_out
        self._computed = computed

    def row_position(self, block: SampleBlock) -> RowPosition | None:
        return self.writer.row_position(block)

    def push_block(self, placed: PositionedBlock) -> None:
        """Look first, so that what was reached is stored with the block; what cannot be looked
        at is kept all the same."""
        try:
            progress = self._look(self.device, placed)
        except Exception:
            self._keep(placed, "")
            raise
        self._keep(placed, progress)

    def _keep(self, placed: PositionedBlock, progress: str) -> None:
        if self._is_left_out(placed):
            self.writer.skip_block(placed)
            return
        self.writer.push_block(placed, progress)
        if self._computed:
            self._computed.push_block(placed)

    def restart(self, acquisition: int) -> None:
        """What comes now is of no place in the run."""
        self.line.unsubscribe(self)
        self._fault(self.device, "began anew, so its samples no longer fit on")

    def fail(self, error: Exception) -> None:
        self._fault(self.device, "has samples that the recorder cannot take; its log says why")

    def finish(self) -> Closed:
        """Give everything that was received to the store."""
        self.line.flush()
        self.line.unsubscribe(self)
        rows = self.writer.finish()
        return Closed(self.writer.stream_id, self.writer.samples, self.writer.chain, rows)

    def finish_computed(self) -> list[ComputedEnd]:
        """How the computed streams end, once `finish` has given out all samples."""
        return self._computed.finish() if self._computed else []
