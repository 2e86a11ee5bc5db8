"""Figures of a few seconds of samples for the wiring check: noise, hum, drift, clipping."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

MAINS_HZ = (50.0, 60.0)
HARMONICS = 9
HUM_OVER_NOISE = 3.0  # rms; less is a part of the noise
DRIFT_OVER_NOISE = 6.0  # of what noise alone makes of a slope


@dataclass(frozen=True, slots=True)
class SampleFacts:
    """Of one input, in its signal's unit.

    ``noise`` and ``hum`` are rms; ``hum_hz`` is 0 where no mains was looked for (too slow a
    rate) or none stands out; ``drift`` a second. ``clipped`` is the share of samples at the
    rail; all others are NaN where it is 1. ``flat`` means that no sample differs.
    """

    mean: float
    noise: float
    hum: float
    hum_hz: float
    drift: float
    clipped: float
    flat: bool


def facts_of_samples(samples: Array, rate_hz: float) -> list[SampleFacts]:
    """Facts of inputs that were sampled together.

    Parameters
    ----------
    samples : (inputs, n), infinite where clipped
    rate_hz : float

    Returns
    -------
    list of SampleFacts
        One an input.

    Notes
    -----
    A straight line is taken off (least squares weighted by a Hann window, so that hum has no
    part in it), then the window put on; the power in the bins about a multiple of the mains
    frequency is hum, all other power noise. Clipped samples leave the rest of an input's facts
    as they are without them, but without a spectrum.

    Examples
    --------
    >>> seconds = np.arange(2000) / 1000
    >>> (found,) = facts_of_samples(1 + 0.1 * np.sin(2 * np.pi * 50 * seconds)[None], 1000.0)
    >>> found.hum_hz, round(found.hum, 3), round(found.mean, 3)
    (50.0, 0.071, 1.0)
    """
    x = np.atleast_2d(np.asarray(samples, dtype=float))
    clipped = ~np.isfinite(x)
    share = clipped.mean(axis=1)
    flat = (x == x[:, :1]).all(axis=1) & (share == 0)
    filled = np.where(clipped, 0.0, x)
    used = np.maximum((~clipped).sum(axis=1), 1)
    mean = np.where(share < 1, filled.sum(axis=1) / used, np.nan)
    seconds = (np.arange(x.shape[1]) - (x.shape[1] - 1) / 2) / rate_hz
    rest = np.where(clipped, 0.0, x - mean[:, None])
    weight = np.hanning(x.shape[1]) * seconds
    slope = rest @ weight / (weight @ seconds)
    rest = np.where(clipped, 0.0, rest - slope[:, None] * seconds)
    hum, hum_hz, noise = _spectrum(rest, rate_hz)
    none = share >= 1
    drift_error = noise * np.sqrt(weight @ weight) / (weight @ seconds)
    real = np.abs(slope) > DRIFT_OVER_NOISE * drift_error
    return [
        SampleFacts(
            float(mean[i]),
            float(np.nan if none[i] else noise[i]),
            float(hum[i] if share[i] == 0 else 0.0),
            float(hum_hz[i] if share[i] == 0 else 0.0),
            float(slope[i] if real[i] and share[i] == 0 else 0.0),
            float(share[i]),
            bool(flat[i]),
        )
        for i in range(len(x))
    ]


def _spectrum(rest: Array, rate_hz: float) -> tuple[Array, Array, Array]:
    """rms of the hum at the stronger mains, its frequency, rms of everything else."""
    n = rest.shape[1]
    window = np.hanning(n)
    power = np.abs(np.fft.rfft(rest * window)) ** 2 * 2 / (n * (window @ window))
    total = power.sum(axis=1)
    bins = np.arange(power.shape[1])
    best, at = np.zeros(len(rest)), np.zeros(len(rest))
    for mains in MAINS_HZ:
        if rate_hz < 2.5 * mains:
            continue
        centres = mains * np.arange(1, HARMONICS + 1) * n / rate_hz
        near = (np.abs(bins[:, None] - centres[centres < len(bins)]) <= 2).any(axis=1)
        inside = power[:, near].sum(axis=1)
        at = np.where(inside > best, mains, at)
        best = np.maximum(inside, best)
    noise = np.sqrt(np.maximum(total - best, 0.0))
    hum = np.sqrt(best)
    # White noise too has its share in those bins.
    stands_out = hum > HUM_OVER_NOISE * noise / np.sqrt(2.0)
    return np.where(stands_out, hum, 0.0), np.where(stands_out, at, 0.0), noise
