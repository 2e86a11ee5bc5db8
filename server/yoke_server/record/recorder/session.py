"""One run being recorded: puts blocks in order, fills gaps, hands samples to the writer."""

import logging
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from yoke_core.block import BlockDigest, digest_block
from yoke_core.tension.stop import ForceDropWatch

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.calibrate.scaling import LiveScaling
from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.models import Run, Stream
from yoke_server.record.store import Samples, Writer
from yoke_server.wire.frozen import FrozenSetup

log = logging.getLogger(__name__)

ASK_AGAIN_AFTER = 0.5  # s
GIVE_UP_AFTER = 5.0  # s; then the gap stays, and is shown as one
LONGEST_GAP = 36_000  # blocks, an hour: beyond that a run ends instead of being mostly gap
TAIL = 0.5  # s kept after the force has dropped

Ratios = NDArray[np.float32]


@dataclass(slots=True)
class _Gap:
    """Blocks that came too early, while the missing ones are asked for."""

    held: dict[int, SampleBlock] = field(default_factory=dict)
    since: float = 0.0
    asked: float = 0.0


class Session:
    """The recording of one run.

    ``send_again(first, last)`` asks the device for old blocks; ``full_counts`` is the count
    at full scale. Blocks go in by `push`, in any order, once or twice.
    """

    def __init__(
        self,
        run: Run,
        writer: Writer,
        full_counts: int,
        send_again: Callable[[int, int], None],
    ) -> None:
        self.run = run
        self.setup = FrozenSetup.model_validate(run.frozen)
        self.columns = np.array([c.input_number - 1 for c in self.setup.channels])
        self._in_order = bool(np.array_equal(self.columns, np.arange(len(self.columns))))
        self.stream: Stream | None = None
        self.samples = 0
        self.why_ended = ""
        self.interrupted = False
        self.missing_blocks = 0
        self._writer = writer
        self._full_counts = full_counts
        self._send_again = send_again
        self._next_sequence = 0
        self._gap = _Gap()
        self._envelope: EnvelopeWriter | None = None
        self._drop_at: float | None = None
        force = next((i for i, c in enumerate(self.setup.channels) if c.quantity == "force"), None)
        self._force = force
        self._force_scaling = (
            LiveScaling([self.setup.channels[force]]) if force is not None else None
        )
        self._watch = ForceDropWatch(self.setup.arm_force_n, self.setup.force_drop)

    @property
    def elapsed_s(self) -> float:
        return self.samples / self.stream.rate_hz if self.stream else 0.0

    def run_time(self, device_s: float) -> float:
        """Seconds since the run's first sample, at a moment of device time."""
        return device_s - self.stream.start_ns * 1e-9 if self.stream else 0.0

    def open(self, block: SampleBlock) -> None:
        """Begin the stream with this block."""
        self.stream = Stream.objects.create(
            run=self.run,
            acquisition=block.acquisition,
            rate_hz=block.rate_hz,
            channel_count=len(self.columns),
            first_sequence=block.sequence,
            start_ns=block.time_ns,
        )
        self._next_sequence = block.sequence
        self._envelope = EnvelopeWriter(self.stream.pk, len(self.columns))

    def resume(self, stream: Stream, last_sequence: int, envelope: EnvelopeWriter) -> None:
        """Go on with a stream that an earlier recorder process began."""
        self.stream = stream
        self.samples = stream.samples
        self._next_sequence = last_sequence + 1
        self._envelope = envelope

    def push(self, block: SampleBlock, digest: BlockDigest | None = None) -> None:
        """Take a block; those out of order wait until the gap before them is filled.

        ``digest`` saves computing it again where the caller has it.
        """
        assert self.stream is not None
        if block.acquisition != self.stream.acquisition:
            self._interrupt("The amplifier began anew, so its samples no longer fit on.")
            return
        if block.sequence < self._next_sequence:
            return
        if block.sequence > self._next_sequence + LONGEST_GAP:
            self._interrupt("No samples came for over an hour.")
            return
        if block.sequence > self._next_sequence:
            self._hold(block)
            return
        self._accept(block, digest)
        while early := self._gap.held.pop(self._next_sequence, None):
            self._accept(early)
        if not self._gap.held:
            self._gap = _Gap()

    def _interrupt(self, why: str) -> None:
        self.why_ended, self.interrupted = why, True

    def _hold(self, block: SampleBlock) -> None:
        self._gap.held[block.sequence] = block
        now = time.monotonic()
        self._gap.since = self._gap.since or now
        first_held = min(self._gap.held)
        if now - self._gap.since > GIVE_UP_AFTER:
            self.missing_blocks += first_held - self._next_sequence
            log.warning("Blocks %d to %d are lost", self._next_sequence, first_held - 1)
            self._next_sequence = first_held
            held, self._gap = self._gap.held, _Gap()
            for sequence in sorted(held):
                self.push(held[sequence])
        elif now - self._gap.asked > ASK_AGAIN_AFTER:
            self._gap.asked = now
            self._send_again(self._next_sequence, first_held - 1)

    def _all_inputs(self, block: SampleBlock) -> bool:
        """Whether every input is recorded, in order: then nothing needs copying."""
        return self._in_order and len(self.columns) == block.counts.shape[1]

    def _accept(self, block: SampleBlock, digest: BlockDigest | None = None) -> None:
        assert self.stream is not None and self._envelope is not None
        digest = digest or digest_block(block.counts, block.full_scale, self._full_counts, 1)
        ratios = digest.ratios if self._all_inputs(block) else digest.ratios[self.columns]
        first = round((block.time_ns - self.stream.start_ns) * self.stream.rate_hz / 1e9)
        rows = []
        if first > self.samples:  # a gap stays: its place in the envelope is empty
            rows = self._envelope.push(
                np.full((len(self.columns), first - self.samples), np.nan, np.float32)
            )
        rows += self._envelope.push(ratios)
        data = ratios.tobytes()
        values = (
            self.stream.pk, block.sequence, block.time_ns, first, block.samples,
            zlib.crc32(data), data,
        )  # fmt: skip
        self._writer.put(Samples(values, rows, time.monotonic()))
        self.samples = first + block.samples
        self._next_sequence = block.sequence + 1
        self._look_for_drop(digest, block)

    def _look_for_drop(self, digest: BlockDigest, block: SampleBlock) -> None:
        if self._drop_at is not None:
            if self.elapsed_s > self._drop_at + TAIL:
                self.why_ended = f"The force fell by {self.setup.force_drop * 100:g} %"
        elif self._force is not None and self._force_scaling is not None:
            row = [self.columns[self._force]]
            ends = self._force_scaling.apply(digest.shown[row])
            if self._watch.quiet(float(ends.min()), float(ends.max())):
                return
            force = self._force_scaling.apply(digest.ratios[row].astype(float))[0]
            if (index := self._watch.push(force)) is not None:
                self._drop_at = (self.samples - block.samples + index) / block.rate_hz

    @property
    def dropped(self) -> bool:
        """The force has fallen: the actuator may stop at once."""
        return self._drop_at is not None

    def last_envelope_rows(self) -> Samples | None:
        """The rows still unfinished when the run ends, as work without a block."""
        return None if self._envelope is None else Samples(None, self._envelope.finish(), 0.0)
