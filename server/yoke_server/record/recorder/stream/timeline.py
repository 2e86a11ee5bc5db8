"""The timeline of a device: its samples in bench time, with gaps, drift and clock steps.

It follows what the device sends from its first block on, run or no run, so that a run that
begins, or is gone on with, finds its samples in their place.
"""

from yoke_core.timebase.clock import ClockModel

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.recorder.model.segments import PlacedSegment

STEP_NS = 3_000_000  # farther off than this the clock was put: a new beginning
DEAD_BAND_NS = 100_000  # nearer than this, and than the clock's own doubt, nothing is corrected
QUICKEST_NS = 10_000_000_000  # over which an error is taken up soon after the beginning
SLOWEST_NS = 1_200_000_000_000  # and later: a month is some hundred segments, not 100 000
FRESH_NS = 500_000_000  # so old a block is at most that has just been sent
HURRY = 1e-3  # samples are not put nearer to each other than by this share, to catch up
TRUSTED_AFTER = 5  # readings at the latest, once the device's clock was put


class Timeline:
    """Gives each block its place, and a new segment whenever the last one no longer fits."""

    def __init__(self, clock: ClockModel) -> None:
        self._clock = clock
        self.segment: PlacedSegment | None = None
        self._began_ns = 0  # bench time of the first sample
        self._reached_ns: int | None = None  # device time at which the last block ended
        self._blocks = 0  # that followed each other since the clock was last put
        self._block_ns = 0.0  # device time that one of them took, on average
        self._puts = 0  # of the device's clock, that its blocks have shown
        self._began_with = 0  # readings, when its first block came
        self._trust_after = 0  # readings, after which what both show is taken to be the same

    def go_on_from(self, segment: PlacedSegment, reached_ns: int) -> None:
        """Join what an earlier recorder placed, whose last block ended at a device time."""
        self.segment, self._reached_ns = segment, reached_ns
        self._began_ns = segment.bench_ns

    def restart(self) -> None:
        """The device began anew: what it sends from now on joins nothing of before."""
        self.segment = self._reached_ns = None
        self._blocks = 0

    @property
    def is_sure(self) -> bool:
        """Whether the device's clock was read since the line began, and agrees with it.

        A clock that was put just then would be taken for blocks that come late.
        """
        agrees = self._puts == self._clock.steps and not self._clock.is_doubted
        return agrees and self._clock.readings > self._began_with

    def correct(self, block: SampleBlock, first_sample: int) -> int:
        """Move the whole line by what the device's clock says now, as long as nobody keeps it.

        Gives by how much, ns; 0 while it fits.
        """
        if self.segment is None or self._reached_ns is None:
            return 0
        if self._was_put(block, self._reached_ns, 0):
            return 0
        off = self._off(block, self.segment.bench_of(first_sample))
        if abs(off) <= DEAD_BAND_NS + self._clock.doubt_ns:
            return 0
        self.segment = self.segment.moved(off)
        return off

    def place(
        self, block: SampleBlock, first_sample: int, missing: int, now_ns: int
    ) -> PlacedSegment:
        """The segment in which a block lies, which may begin with it.

        first_sample : the block's, counted from the device's first
        missing : blocks before it that are lost
        now_ns : bench time at which it arrived
        """
        found = self._place(block, first_sample, missing, now_ns)
        self._reached_ns = block.time_ns + _length_ns(block)
        self.segment = found
        return found

    def _place(
        self, block: SampleBlock, first_sample: int, missing: int, now_ns: int
    ) -> PlacedSegment:
        rate = block.rate_hz / self._clock.host_per_device
        segment, reached = self.segment, self._reached_ns
        if segment is None or reached is None:
            self._began_ns = self._first_ns(block, now_ns)
            self._began_with = self._clock.readings
            return _segment(block, first_sample, "start", self._began_ns, rate)
        reckoned = segment.bench_of(first_sample)
        length = self._length_of_gap(block, missing)
        was_put = self._was_put(block, reached + length, missing)
        if was_put:
            self._distrust()
        if missing or was_put:
            passed = length if was_put else block.time_ns - reached
            at = reckoned + max(0, round(passed * self._clock.host_per_device))
            if missing and self._is_recent(block, now_ns):
                at = max(reckoned, self._clock.host_ns(block.time_ns))
            return _segment(block, first_sample, "gap" if missing else "step", at, rate, missing)
        self._count(block)
        off = self._off(block, reckoned)
        if off > STEP_NS + 4 * self._clock.doubt_ns:
            return _segment(block, first_sample, "step", reckoned + off, rate)
        take_up = min(max((reckoned - self._began_ns) // 2, QUICKEST_NS), SLOWEST_NS)
        settled = reckoned - segment.bench_ns > take_up
        if settled and abs(off) > DEAD_BAND_NS + self._clock.doubt_ns:
            slowed = rate / (1 + max(off / take_up, -HURRY))
            return _segment(block, first_sample, "clock", reckoned, slowed)
        return segment

    def _is_recent(self, block: SampleBlock, now_ns: int) -> bool:
        """Whether its clock says so: then it is right, however long the gap before was."""
        age_ns = now_ns - self._clock.host_ns(block.time_ns) - _length_ns(block)
        return not block.again and -STEP_NS < age_ns < FRESH_NS

    def _first_ns(self, block: SampleBlock, now_ns: int) -> int:
        """Where the first block begins: by the device's clock, unless that was put just now, so
        that the block would end in the future."""
        by_clock, by_arrival = self._clock.host_ns(block.time_ns), now_ns - _length_ns(block)
        if not self._trusts_clock() and not block.again:
            self._puts = max(self._puts, self._clock.steps)  # it begins after those
            return by_arrival
        if by_clock <= by_arrival + STEP_NS + 4 * self._clock.doubt_ns:
            return by_clock
        self._distrust()
        return by_arrival

    def _off(self, block: SampleBlock, reckoned: int) -> int:
        """How much later than reckoned the device's clock says that a block was taken, ns.

        What is known of its clock is of now: it says nothing of an old block, nor while the
        clock was put and only its blocks, or only its readings, have shown that.
        """
        if block.again or not self._trusts_clock():
            return 0
        return self._clock.host_ns(block.time_ns) - reckoned

    def _length_of_gap(self, block: SampleBlock, missing: int) -> int:
        """Device time that the missing blocks took, ns."""
        return round(missing * (self._block_ns if self._blocks else _length_ns(block)))

    def _count(self, block: SampleBlock) -> None:
        """Learn how long a block takes: a single one may hold a sample more or less."""
        self._blocks += 1
        self._block_ns += (_length_ns(block) - self._block_ns) / self._blocks

    def _was_put(self, block: SampleBlock, expected_ns: int, missing: int) -> bool:
        """Whether the device's clock jumped since the last block: the samples went on evenly."""
        doubt = missing * 2e9 / block.rate_hz / max(self._blocks, 1)
        return abs(block.time_ns - expected_ns) > STEP_NS + doubt

    def _distrust(self) -> None:
        self._puts += 1
        self._trust_after = self._clock.readings + TRUSTED_AFTER

    def _trusts_clock(self) -> bool:
        if self._puts != self._clock.steps:
            if self._clock.readings < self._trust_after:
                return False
            if not self._trust_after:  # its readings have shown it first
                self._trust_after = self._clock.readings + TRUSTED_AFTER
                return False
        self._puts, self._trust_after = self._clock.steps, 0
        return True


def _length_ns(block: SampleBlock) -> int:
    """Device time that its samples take."""
    return round(block.samples * 1e9 / block.rate_hz)


def _segment(
    block: SampleBlock, first: int, cause: str, bench_ns: int, rate: float, missing: int = 0
) -> PlacedSegment:
    return PlacedSegment(first, cause, block.time_ns, bench_ns, rate, block.acquisition, missing)
