"""Digital filters as second-order sections, and what they do to a signal."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import SignalError
from yoke_core.signals.node import Array

Complex = NDArray[np.complex128]
MAX_ORDER = 8
HIGHEST_CORNER = 0.49  # of the sample rate
NOTABLE_CORNER = 0.4  # of the sample rate: a digital filter's shape differs from here on
SETTLED = 1e-3  # of a step, when a filter counts as settled
NOTCH_WIDTH_HZ = 2.0
MAX_HARMONICS = 10


class Band(StrEnum):
    """What a filter lets pass."""

    LOW = "low-pass"
    HIGH = "high-pass"
    BETWEEN = "band-pass"
    STOP = "band-stop"


class Family(StrEnum):
    """How a filter's poles lie: the flattest pass band, or the flattest delay."""

    BUTTERWORTH = "Butterworth"
    BESSEL = "Bessel"


TYPES = {Band.LOW: "low", Band.HIGH: "high", Band.BETWEEN: "bandpass", Band.STOP: "bandstop"}


@dataclass(frozen=True, slots=True)
class FilterDesign:
    """A filter by its corners, where the amplitude is 1/sqrt(2) (-3 dB).

    Parameters
    ----------
    band : Band
    corners_hz : tuple of float
        One for low- and high-pass, two in rising order for band-pass and band-stop.
    order : int
        1 to 8; of a band-pass or band-stop each side has this order.
    family : Family

    Raises
    ------
    SignalError
        For another order, or corners that are not positive and rising.

    Notes
    -----
    Bilinear transform with prewarped corners. Source: Oppenheim and Schafer, Discrete-Time
    Signal Processing, ch. 7; Bessel filters are scaled to -3 dB at the corner.
    """

    band: Band
    corners_hz: tuple[float, ...]
    order: int = 4
    family: Family = Family.BUTTERWORTH

    def __post_init__(self) -> None:
        if not 1 <= self.order <= MAX_ORDER:
            raise SignalError(
                "order",
                f"A filter of order {self.order} is not offered.",
                f"Choose an order from 1 to {MAX_ORDER}.",
            )
        wanted = 1 if self.band in (Band.LOW, Band.HIGH) else 2
        rising = all(a < b for a, b in zip((0.0, *self.corners_hz), self.corners_hz, strict=False))
        if len(self.corners_hz) != wanted or not rising or not math.isfinite(self.corners_hz[-1]):
            raise SignalError(
                "corners_hz",
                f"A {self.band} has {'one corner' if wanted == 1 else 'two corners'} above 0 Hz"
                + ("." if wanted == 1 else ", the lower one first."),
                "Give the corner in Hz.",
            )

    def sections(self, rate_hz: float) -> Array:
        """Second-order sections (n, 6) at a sample rate: b0 b1 b2 1 a1 a2.

        Raises
        ------
        SignalError
            If a corner lies above 0.49 of the rate: there is nothing to filter there.

        Examples
        --------
        >>> FilterDesign(Band.LOW, (20.0,), order=4).sections(1000.0).shape
        (2, 6)
        """
        from scipy.signal import bessel, butter

        _require_below(self.corners_hz[-1], rate_hz)
        corners = self.corners_hz if len(self.corners_hz) > 1 else self.corners_hz[0]
        common = {"btype": TYPES[self.band], "output": "sos", "fs": rate_hz}
        if self.family is Family.BESSEL:
            return np.asarray(bessel(self.order, corners, norm="mag", **common))
        return np.asarray(butter(self.order, corners, **common))


@dataclass(frozen=True, slots=True)
class MainsDesign:
    """Narrow band-stops at the mains frequency and its multiples.

    Parameters
    ----------
    mains_hz : float
        Each stop is 2 Hz wide between its -3 dB points, up to ten of them below 0.49 of the rate.
    """

    mains_hz: float

    @property
    def corners_hz(self) -> tuple[float, ...]:
        return (self.mains_hz,)

    def sections(self, rate_hz: float) -> Array:
        """Second-order sections (n, 6) at a sample rate; see FilterDesign."""
        from scipy.signal import iirnotch, tf2sos

        _require_below(self.mains_hz, rate_hz)
        count = min(MAX_HARMONICS, int(HIGHEST_CORNER * rate_hz / self.mains_hz))
        stops = (self.mains_hz * n for n in range(1, count + 1))
        return np.concatenate(
            [tf2sos(*iirnotch(stop, stop / NOTCH_WIDTH_HZ, rate_hz)) for stop in stops]
        )


Design = FilterDesign | MainsDesign


def _require_below(corner_hz: float, rate_hz: float) -> None:
    if not corner_hz <= HIGHEST_CORNER * rate_hz:
        raise SignalError(
            "corners_hz",
            f"A corner of {corner_hz:g} Hz is too high for {rate_hz:g} samples a second.",
            f"Give a corner up to {HIGHEST_CORNER * rate_hz:g} Hz, or a higher rate.",
        )


def response(sections: Array, frequencies_hz: Array, rate_hz: float) -> Complex:
    """What a sine of each frequency is multiplied by.

    Parameters
    ----------
    sections : array (n, 6)
    frequencies_hz : array (k,)
    rate_hz : float

    Returns
    -------
    array of complex (k,)
        Its size is the amplitude ratio, its angle (rad) the phase: negative where it lags.

    Examples
    --------
    >>> sos = FilterDesign(Band.LOW, (20.0,)).sections(1000.0)
    >>> np.round(abs(response(sos, np.array([0.0, 20.0]), 1000.0)), 4)
    array([1.    , 0.7071])
    """
    z = np.exp(-2j * np.pi * np.asarray(frequencies_hz) / rate_hz)
    powers = np.stack([np.ones_like(z), z, z * z])
    return np.asarray(np.prod((sections[:, :3] @ powers) / (sections[:, 3:] @ powers), axis=0))


def delay(sections: Array, frequency_hz: float, rate_hz: float) -> float:
    """By how much a slow change about a frequency is late.

    Parameters
    ----------
    sections : array (n, 6)
    frequency_hz : float
        0 for what a low-pass does to a slow signal.
    rate_hz : float

    Returns
    -------
    float, s
        The group delay.

    Examples
    --------
    >>> sos = FilterDesign(Band.LOW, (20.0,), order=1).sections(10_000.0)
    >>> round(delay(sos, 0.0, 10_000.0) * 1e3, 2)  # 1 / (2 pi 20 Hz)
    7.96
    """
    step = 1e-5 * rate_hz
    ends = np.array([frequency_hz - step / 2, frequency_hz + step / 2])
    first, last = response(sections, ends, rate_hz)
    return float(-np.angle(last / first) / (2 * np.pi * step))


def settling_samples(sections: Array) -> int:
    """How many samples a filter needs after a start until it counts as settled.

    Parameters
    ----------
    sections : array (n, 6)

    Returns
    -------
    int
        Until the slowest pole has decayed to a thousandth, shared among all poles.

    Examples
    --------
    >>> settling_samples(FilterDesign(Band.LOW, (20.0,), order=1).sections(1000.0))
    55
    """
    poles = np.abs(np.concatenate([np.roots(row[3:]) for row in sections]))
    slowest = float(max(poles, default=0.0))
    if slowest < 1e-12:
        return 1
    return math.ceil(math.log(SETTLED / max(1, int(np.count_nonzero(poles)))) / math.log(slowest))
