"""Evenly sampled segments in bench time."""

from dataclasses import dataclass, replace


@dataclass(frozen=True, slots=True)
class PlacedSegment:
    """Samples from ``first_sample`` on, evenly in bench time.

    rate_hz : by the bench's clock
    missing_blocks : lost before it, as the device counts
    """

    first_sample: int
    cause: str
    device_ns: int
    bench_ns: int
    rate_hz: float
    acquisition: int
    missing_blocks: int = 0

    def moved(self, by_ns: int) -> "PlacedSegment":
        """The same so much later."""
        return replace(self, bench_ns=self.bench_ns + by_ns)

    def bench_of(self, sample: int) -> int:
        """Bench time of a sample, ns."""
        return self.bench_ns + round((sample - self.first_sample) * 1e9 / self.rate_hz)
