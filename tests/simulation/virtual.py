"""The virtual clocks of a bench, and the measures of the devices on it."""

from datetime import UTC, datetime, timedelta

from yoke_server.bench.drivers.base import Identity

EPOCH = datetime(2026, 1, 1, tzinfo=UTC)
START_NS = 1_800_000_000_000_000_000
BLOCK_S = 0.2
PER_BLOCK = 4
RATE_HZ = PER_BLOCK / BLOCK_S
RAIL = 2**23 - 1
IDENTITY = Identity("stand-in", "1", "1", "passed")


class VirtualClock:
    """The bench computer's clock; ``now`` is set by the scheduler."""

    speed = 1.0

    def __init__(self) -> None:
        self.now = 100.0

    def monotonic(self) -> float:
        return self.now

    def bench_ns(self) -> int:
        return START_NS + round(self.now * 1e9)

    def utc(self) -> datetime:
        return EPOCH + timedelta(seconds=self.now)
