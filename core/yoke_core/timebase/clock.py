"""From a device's clock to the bench's: offset, drift, steps.

A device counts time by a quartz of its own, some tens of ppm off, and is sometimes put. The
host asks what it shows; the answer lies between question and answer in host time.
"""

from dataclasses import dataclass, field

import numpy as np

STEP_LIMIT_NS = 5_000_000  # a reading farther off than this, and than its own doubt, is a step
BUCKET_NS = 5_000_000_000  # of readings within 5 s only the surest is kept
BUCKETS = 120  # ten minutes
FLOOR_NS = 20_000.0  # doubt that even the quickest answer leaves
LIKELY_DRIFT = 50e-6  # of a quartz; what readings too near each other are held against


@dataclass(frozen=True, slots=True)
class ClockReading:
    """What a device's clock showed at a host time, ns, give or take ``doubt_ns``."""

    device_ns: int
    host_ns: int
    doubt_ns: int


@dataclass(slots=True)
class ClockModel:
    """Maps device time to host time by the surest of the readings so far.

    Notes
    -----
    Weighted least squares of host minus device time over device time, weights 1/doubt^2, with
    the drift of an ordinary quartz, zero give or take `LIKELY_DRIFT`, as one more observation:
    readings too near each other, or too doubtful, tell no drift. A reading that contradicts
    the line by more than `STEP_LIMIT_NS` and its own doubt, twice in a row, is a step: the
    drift stays, the offset begins anew.
    """

    steps: int = 0
    readings: int = 0  # taken so far
    _readings: list[ClockReading] = field(default_factory=list)
    _suspect: ClockReading | None = None
    _origin: int = 0  # device_ns of the line's origin
    _offset: float = 0.0  # host - device at the origin, less _shift, ns
    _shift: int = 0
    _slope: float = 0.0  # host seconds gained per device second
    _likely: float = 0.0  # what it was before the clock was put
    _surest: float = 0.0  # doubt of the surest reading, ns

    @property
    def known(self) -> bool:
        return bool(self._readings)

    @property
    def is_doubted(self) -> bool:
        """Whether the newest reading contradicts those before it: the clock may have been put."""
        return self._suspect is not None

    @property
    def doubt_ns(self) -> float:
        """How far off a single time may be: the doubt of the surest reading."""
        return self._surest + FLOOR_NS

    @property
    def drift_ppm(self) -> float:
        """How fast the device's clock runs against the host's; 12 means it gains 12 us a second."""
        return -self._slope * 1e6 / (1 + self._slope)

    @property
    def host_per_device(self) -> float:
        """Host seconds per device second."""
        return 1 + self._slope

    def push(self, reading: ClockReading) -> bool:
        """Take a reading; True if it shows that the device's clock was put."""
        self.readings += 1
        if not self._readings:
            self._readings = [reading]
            self._fit()
            return False
        miss = self.host_ns(reading.device_ns) - reading.host_ns
        if abs(miss) > STEP_LIMIT_NS + 2 * reading.doubt_ns:
            return self._doubt(reading)
        self._suspect = None
        if self._keep(reading):
            self._fit()
        return False

    def _doubt(self, reading: ClockReading) -> bool:
        """A single wild reading may be a hiccup; two that agree are a step."""
        earlier, self._suspect = self._suspect, reading
        if earlier is None:
            return False
        passed = (reading.device_ns - earlier.device_ns) * self.host_per_device
        apart = abs(reading.host_ns - earlier.host_ns - passed)
        if apart > STEP_LIMIT_NS + reading.doubt_ns + earlier.doubt_ns:
            return False
        surest = min(earlier, reading, key=lambda r: r.doubt_ns)
        self._likely = self._slope
        self._readings, self._suspect = [surest], None
        self.steps += 1
        self._fit()
        return True

    def _keep(self, reading: ClockReading) -> bool:
        """Whether it counts: a surer one of its bucket makes it needless."""
        last = self._readings[-1]
        if reading.device_ns // BUCKET_NS != last.device_ns // BUCKET_NS:
            self._readings.append(reading)
            del self._readings[:-BUCKETS]
        elif reading.doubt_ns <= last.doubt_ns:
            self._readings[-1] = reading
        else:
            return False
        return True

    def _fit(self) -> None:
        self._surest = min(r.doubt_ns for r in self._readings)
        origin = self._readings[-1]
        self._origin, self._shift = origin.device_ns, origin.host_ns - origin.device_ns
        x = np.array([r.device_ns - self._origin for r in self._readings], dtype=float)
        y = np.array([r.host_ns - r.device_ns - self._shift for r in self._readings], dtype=float)
        w = 1 / (np.array([r.doubt_ns for r in self._readings], dtype=float) + FLOOR_NS) ** 2
        mean_x, mean_y = w @ x / w.sum(), w @ y / w.sum()
        spread = float(w @ (x - mean_x) ** 2) + LIKELY_DRIFT**-2
        unlikely = float(w @ ((x - mean_x) * (y - mean_y - self._likely * (x - mean_x))))
        self._slope = self._likely + unlikely / spread
        self._offset = float(mean_y - self._slope * mean_x)

    def host_ns(self, device_ns: int) -> int:
        """Host time at which the device's clock shows ``device_ns``; exact to the nanosecond."""
        passed = device_ns - self._origin
        return device_ns + self._shift + round(self._offset + self._slope * passed)
