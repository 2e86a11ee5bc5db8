"""What a few seconds of one channel say: noise, drift, hum, clipping, the converter's bits."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

HARMONICS = 9  # of the mains that are looked for
COLUMNS = 96  # of the picture over time
LINES = 160  # of the picture over frequency
POINTS = 300  # that are kept of the samples, for one channel over another
OPENING_PERIODS = 10  # of the mains, drawn sample by sample
MAX_OPENING = 400
LEAST = 64  # samples, below which nothing can be said


@dataclass(frozen=True, slots=True)
class Snapshot:
    """Of one channel, in its signal's unit.

    noise : deviation about a straight line, hum included
    drift : slope of that line, a second
    hum : (frequency, amplitude) of each multiple of the mains, below half the sample rate
    hum_share : of the noise's power that is hum, 0 to 1
    averaged : the noise that is left in means over one period of the mains; None if a period has
        fewer than two samples
    clipped : samples at the converter's rail; flat : all samples are the same
    level_bits, noise_bits : bits of the converter that the largest sample and the noise from
        peak to peak take; None where samples are no counts
    low, high : of each of `COLUMNS` parts; opening : the first samples, one by one
    amplitude : largest in each of `LINES` parts from 0 to half the sample rate; empty without
        a spectrum
    points : `POINTS` samples evenly spaced
    """

    rate_hz: float
    samples: int
    mean: float
    noise: float
    drift: float
    peak_to_peak: float
    hum: list[tuple[float, float]]
    hum_share: float
    averaged: float | None
    clipped: int
    flat: bool
    level_bits: float | None
    noise_bits: float | None
    low: Array
    high: Array
    opening: Array
    amplitude: Array
    points: Array

    @property
    def has_spectrum(self) -> bool:
        return len(self.amplitude) > 0


def snapshot_of(samples: Array, rate_hz: float, mains_hz: float, count: float | None) -> Snapshot:
    """What the samples of one channel say.

    Parameters
    ----------
    samples : (n,), infinite where clipped
    rate_hz : float
    mains_hz : float
        Of the laboratory, 50 or 60.
    count : float or None
        The signal of one count of the converter.

    Returns
    -------
    Snapshot

    Raises
    ------
    ValueError
        For fewer than `LEAST` samples.

    Notes
    -----
    A straight line (least squares) is taken off. Hum is fitted by sines of known frequency,
    least squares, so that its amplitude is exact whether or not the samples hold whole periods.
    The amplitude spectrum is of a Hann window: a sine's amplitude, at most 1.42 dB low between
    two lines. Clipped samples are left out of all figures, and there is no spectrum with them.

    Examples
    --------
    >>> t = np.arange(2000) / 1000
    >>> found = snapshot_of(3e-6 * np.sin(2 * np.pi * 50 * t) + 1e-3, 1000.0, 50.0, 1e-9)
    >>> round(found.hum[0][1] * 1e6, 3), round(found.hum_share, 3), found.clipped
    (3.0, 1.0, 0)
    """
    if len(samples) < LEAST:
        raise ValueError(f"{len(samples)} samples are too few: {LEAST} are needed.")
    good = np.isfinite(samples)
    clipped = int(len(samples) - good.sum())
    seconds = np.arange(len(samples)) / rate_hz
    slope, rest = _line(seconds, samples, good)
    hum, hum_power = _hum(seconds, rest, mains_hz, rate_hz) if clipped == 0 else ([], 0.0)
    power = float(np.mean(rest[good] ** 2)) if good.any() else 0.0
    known = samples[good]
    return Snapshot(
        rate_hz=rate_hz,
        samples=len(samples),
        mean=float(known.mean()) if len(known) else float("nan"),
        noise=float(np.sqrt(power)) if len(known) else float("nan"),
        drift=slope,
        peak_to_peak=float(np.ptp(known)) if len(known) else float("nan"),
        hum=hum,
        hum_share=min(1.0, hum_power / power) if power > 0 else 0.0,
        averaged=_averaged(rest, rate_hz, mains_hz) if clipped == 0 else None,
        clipped=clipped,
        flat=len(known) > 0 and clipped == 0 and bool(np.ptp(known) == 0),
        level_bits=_bits(np.abs(known).max(), count) if len(known) else None,
        noise_bits=_bits(np.ptp(known), count) if len(known) else None,
        low=_parts(samples, COLUMNS, np.fmin),
        high=_parts(samples, COLUMNS, np.fmax),
        opening=samples[: min(MAX_OPENING, int(OPENING_PERIODS * rate_hz / mains_hz))].copy(),
        amplitude=_amplitude(rest) if clipped == 0 else np.empty(0),
        points=samples[np.arange(POINTS) * len(samples) // POINTS],
    )


def alike(samples: Array, least: float) -> list[tuple[int, int, float]]:
    """Channels sampled together that go with each other: crosstalk, or one load.

    Parameters
    ----------
    samples : (channels, n), infinite where clipped
    least : float
        Size of the correlation from which two are alike.

    Returns
    -------
    list of (int, int, float)
        Two places and their correlation, the closest first; none of what clips or stands still.

    Examples
    --------
    >>> a = np.sin(np.arange(500.0))
    >>> alike(np.array([a, -2 * a, np.cos(np.arange(500.0))]), 0.9)
    [(0, 1, -1.0)]
    """
    well = [i for i, row in enumerate(samples) if np.isfinite(row).all() and np.ptp(row) > 0]
    if len(well) < 2:
        return []
    moved = np.array([_detrended(samples[i]) for i in well])
    size = np.linalg.norm(moved, axis=1, keepdims=True)
    matrix = (moved / np.where(size > 0, size, np.inf)) @ (moved / np.where(size > 0, size, 1)).T
    pairs = [
        (well[i], well[j], round(float(matrix[i, j]), 3))
        for i in range(len(well))
        for j in range(i + 1, len(well))
        if abs(matrix[i, j]) >= least
    ]
    return sorted(pairs, key=lambda pair: -abs(pair[2]))


def _detrended(row: Array) -> Array:
    return _line(np.arange(len(row)) / len(row), row, np.ones(len(row), dtype=bool))[1]


def _line(seconds: Array, samples: Array, good: NDArray[np.bool_]) -> tuple[float, Array]:
    """Slope of a straight line, and what is left of the samples without it."""
    if good.sum() < 2:
        return 0.0, np.where(good, 0.0, np.nan)
    t, y = seconds[good], samples[good]
    middle, level = t.mean(), y.mean()
    slope = float(np.dot(t - middle, y - level) / np.dot(t - middle, t - middle))
    with np.errstate(invalid="ignore"):
        return slope, np.where(good, samples - level - slope * (seconds - middle), np.nan)


def _hum(
    seconds: Array, rest: Array, mains_hz: float, rate_hz: float
) -> tuple[list[tuple[float, float]], float]:
    """Amplitude of each multiple of the mains, and the power of all of them."""
    wanted = [k * mains_hz for k in range(1, HARMONICS + 1) if k * mains_hz < 0.49 * rate_hz]
    if not wanted or len(seconds) < 4 * len(wanted):
        return [], 0.0
    turns = 2 * np.pi * np.outer(seconds, wanted)
    basis = np.concatenate([np.cos(turns), np.sin(turns)], axis=1)
    found, *_ = np.linalg.lstsq(basis, rest, rcond=None)
    sizes = np.hypot(found[: len(wanted)], found[len(wanted) :])
    power = float(np.mean((basis @ found) ** 2))
    return [(f, float(a)) for f, a in zip(wanted, sizes, strict=True)], power


def _averaged(rest: Array, rate_hz: float, mains_hz: float) -> float | None:
    """Deviation of means over one period of the mains."""
    width = round(rate_hz / mains_hz)
    if width < 2:
        return None
    sums = np.concatenate([[0.0], np.cumsum(rest)])
    return float(((sums[width:] - sums[:-width]) / width).std())


def averaging_loss(frequency_hz: float, mains_hz: float) -> float:
    """How much lower a sine reads behind means over one period of the mains.

    Parameters
    ----------
    frequency_hz, mains_hz : float

    Returns
    -------
    float
        Of its amplitude, 0 to 1.

    Examples
    --------
    >>> round(averaging_loss(6.0, 50.0), 3)
    0.024
    """
    return float(1 - abs(np.sinc(frequency_hz / mains_hz)))


def _bits(size: float, count: float | None) -> float | None:
    """Bits that hold numbers from 0 to ``size``, or spread over it."""
    return None if not count else float(np.ceil(np.log2(round(size / count) + 1)))


def _parts(samples: Array, parts: int, end: np.ufunc) -> Array:
    parts = min(parts, len(samples))
    starts = np.arange(parts) * len(samples) // parts
    found: Array = end.reduceat(samples, starts)
    return found


def _amplitude(rest: Array) -> Array:
    window = np.hanning(len(rest) + 1)[:-1]
    lines = np.abs(np.fft.rfft(rest * window)) * 2 / window.sum()
    return _parts(lines, LINES, np.fmax)
