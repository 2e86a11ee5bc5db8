"""Where the samples of a stream lie in bench time: one place for gaps, drift and clock steps."""

from dataclasses import dataclass

from yoke_core.clock import ClockModel

from yoke_server.bench.drivers.base import SampleBlock

STEP_NS = 3_000_000  # farther off than this the clock was put: a new beginning
DRIFT_NS = 30_000  # farther off than this the rate is set anew
SETTLE_NS = 10_000_000_000  # over which a small error is taken up, and between two corrections


@dataclass(frozen=True, slots=True)
class PlacedSegment:
    """A segment: samples from ``first_sample`` on, evenly in bench time."""

    first_sample: int
    cause: str
    device_ns: int
    bench_ns: int
    rate_hz: float  # by the bench's clock
    acquisition: int
    missing_blocks: int = 0

    def bench_of(self, sample: int) -> int:
        return self.bench_ns + round((sample - self.first_sample) * 1e9 / self.rate_hz)


class Timeline:
    """Gives each block its place, and a new span whenever the last one no longer fits."""

    def __init__(self, clock: ClockModel, last: PlacedSegment | None = None) -> None:
        self._clock = clock
        self.span = last
        self._reached_ns: int | None = None  # device time at which the last block ended
        self._trust_after = 0  # readings of the clock; until then its time is not believed

    def place(self, block: SampleBlock, first_sample: int, missing: int) -> PlacedSegment | None:
        """The span that begins with this block, if one does.

        ``missing`` blocks before it are lost.
        """
        found = self._place(block, first_sample, missing)
        self._reached_ns = block.time_ns + round(block.samples * 1e9 / block.rate_hz)
        if found:
            self.span = found
        return found

    def _place(self, block: SampleBlock, first_sample: int, missing: int) -> PlacedSegment | None:
        model_ns = self._clock.host_ns(block.time_ns)
        rate = block.rate_hz / self._clock.host_per_device
        span = self.span
        if span is None:
            return self._span(block, first_sample, "start", model_ns, rate)
        reckoned = span.bench_of(first_sample)
        if missing:
            at = max(model_ns, reckoned)
            return self._span(block, first_sample, "gap", at, rate, missing)
        if self._was_put(block):
            return self._span(block, first_sample, "step", reckoned, rate)
        off = model_ns - reckoned
        if self._clock.readings < self._trust_after:
            off = 0
        if abs(off) > STEP_NS + 4 * self._clock.doubt_ns:
            return self._span(block, first_sample, "step", model_ns, rate)
        if reckoned - span.bench_ns > SETTLE_NS and abs(off) > DRIFT_NS + self._clock.doubt_ns:
            slowed = rate / (1 + off / SETTLE_NS)
            return self._span(block, first_sample, "clock", reckoned, slowed)
        return None

    def _was_put(self, block: SampleBlock) -> bool:
        """Whether the device's clock jumped though no block is missing.

        The samples went on evenly then; what the clock shows now means nothing until it was
        compared again.
        """
        if self._reached_ns is None or abs(block.time_ns - self._reached_ns) <= STEP_NS:
            return False
        self._trust_after = self._clock.readings + 3
        return True

    @staticmethod
    def _span(
        block: SampleBlock, first: int, cause: str, bench_ns: int, rate: float, missing: int = 0
    ) -> PlacedSegment:
        return PlacedSegment(
            first, cause, block.time_ns, bench_ns, rate, block.acquisition, missing
        )
