"""Values of one stream of a keep rule on their way into rows."""

import numpy as np
from numpy.typing import NDArray

from yoke_server.record.envelopes import EnvelopeValues
from yoke_server.record.recorder.model.progress import KeptStream
from yoke_server.record.recorder.stream.writer import not_before
from yoke_server.record.seal import seal
from yoke_server.record.store import Samples, SegmentValues

Array = NDArray[np.float64]


class KeptRows:
    """Collects what a rule gives; what it gave before a restart, and gives again, is left out.

    samples : given so far, with those that a row holds already
    """

    def __init__(self, stream: KeptStream, samples: int = 0) -> None:
        self.stream = stream
        self.samples = samples
        self.chain = stream.chain
        self.stored = stream.stored  # in rows, of this recorder or an earlier one
        self._waiting: list[Array] = []
        self._segments: dict[int, SegmentValues] = {}
        self._newest: tuple[int, int, float] | None = None

    @property
    def waiting_bytes(self) -> int:
        return sum(part.shape[1] for part in self._waiting) * self._row_bytes

    @property
    def nbytes(self) -> int:
        """Of all its samples so far."""
        return self.samples * self._row_bytes

    @property
    def _row_bytes(self) -> int:
        return self.stream.planes * self.stream.sample_bytes

    def begin_segment(
        self, cause: str, device_ns: int, bench_ns: int, rate_hz: float, acquisition: int,
        missing: int,
    ) -> None:  # fmt: skip
        """What is pushed from now on follows from there; a later one of the same sample counts."""
        first = self.samples
        if first < self.stored:
            return
        bench_ns = not_before(bench_ns, self._until_ns(), rate_hz)
        if before := self._segments.get(first):
            cause, missing = before[2], before[7] + missing
        self._newest = (first, bench_ns, rate_hz)
        self._segments[first] = (
            self.stream.stream_id, first, cause, device_ns, bench_ns, rate_hz, acquisition, missing,
        )  # fmt: skip

    def _until_ns(self) -> int:
        """Up to when the samples before this go, by the newest segment that is known."""
        if self._newest is None:
            return 0
        first, begins_ns, rate_hz = self._newest
        return begins_ns + round((self.samples - first) * 1e9 / rate_hz)

    def push(self, values: Array) -> None:
        """(planes, n) values more."""
        again = max(0, min(self.stored - self.samples, values.shape[1]))
        self.samples += values.shape[1]
        if again < values.shape[1]:
            self._waiting.append(values[:, again:])

    def take(self, run_id: int, arrived: float) -> list[Samples]:
        """What waits, as one row; none where nothing does."""
        if not self._waiting:
            return []
        kind = np.dtype(f"<f{self.stream.sample_bytes}")
        joined = np.concatenate(self._waiting, axis=1)
        with np.errstate(over="ignore"):  # beyond float32 a value is infinite, as one that clipped
            values = np.ascontiguousarray(joined, kind)
        self._waiting = []
        first, data = self.stored, values.data.cast("B")
        checksum, self.chain = seal(self.chain, first, data)
        self.stored += values.shape[1]
        segments = [row for at, row in self._segments.items() if at < self.stored]
        self._segments = {at: row for at, row in self._segments.items() if at >= self.stored}
        block = (
            self.stream.stream_id, first, values.shape[1], 0, _device_ns(segments), checksum,
            self.chain, data,
        )  # fmt: skip
        rows = self.stream.envelope.push(values)
        return [Samples(self.stream.stream_id, run_id, block, rows, segments, arrived)]

    def finish(self) -> list[EnvelopeValues]:
        """Its envelope rows that are not full."""
        return self.stream.envelope.finish()


def _device_ns(segments: list[SegmentValues]) -> int:
    return segments[0][3] if segments else 0
