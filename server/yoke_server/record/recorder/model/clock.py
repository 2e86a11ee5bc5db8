"""The recorder's clocks, passed in so that tests can use virtual ones."""

import time
from datetime import UTC, datetime
from typing import Protocol

EPOCH_NS = 1_767_225_600_000_000_000  # 2026-01-01, UTC


class Clock(Protocol):
    """Patience is measured by `monotonic`, samples are stamped by `bench_ns`.

    speed : seconds of the bench that pass in a second
    """

    speed: float

    def monotonic(self) -> float: ...
    def bench_ns(self) -> int: ...
    def utc(self) -> datetime: ...


class SystemClock:
    """The computer's clock. ``speed`` lets bench time pass faster, for a rig that does so too."""

    def __init__(self, speed: float = 1.0) -> None:
        self.speed = speed
        # Bench time must not jump when the computer is told the time, so it follows the
        # monotonic clock; beginning at the wall's lets the next process go on with it.
        self._base = EPOCH_NS + round((time.time_ns() - EPOCH_NS) * speed)
        self._start = time.monotonic_ns()

    def monotonic(self) -> float:
        return time.monotonic()

    def bench_ns(self) -> int:
        return self._base + round((time.monotonic_ns() - self._start) * self.speed)

    def utc(self) -> datetime:
        return datetime.now(UTC)
