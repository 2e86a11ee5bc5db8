"""The analogue part of an amplifier: interpolation, noise, anti-alias filter, 24 bits."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

OVERSAMPLING = 4
TAPS = 25
CORNER = 0.2  # of the rate, -3 dB
FULL_COUNTS = 2**23 - 1

Array = NDArray[np.float64]


def low_pass() -> Array:
    """Gaussian low pass: a step passes without overshoot, so a break shows as it was."""
    sigma = np.sqrt(np.log(2)) / (2 * np.pi * CORNER / OVERSAMPLING)
    n = np.arange(TAPS) - (TAPS - 1) / 2
    kernel = np.exp(-0.5 * (n / sigma) ** 2)
    return np.asarray(kernel / kernel.sum())


def quantise(ratio: Array, full_scale: Array) -> NDArray[np.int32]:
    """24-bit counts for ratios; beyond the range they stay at the rail."""
    counts = np.rint(ratio / full_scale[:, None] * FULL_COUNTS)
    return np.minimum(np.maximum(counts, -FULL_COUNTS - 1), FULL_COUNTS).astype(np.int32)


KERNEL = low_pass()


def _between(known: Array, where: Array) -> Array:
    """Straight lines between the evenly spaced columns of ``known``; 0 to 1 is first to last."""
    last = known.shape[1] - 1
    at = where * last
    left = np.minimum(at.astype(np.intp), last - 1)
    share = np.minimum(np.maximum(at - left, 0.0), 1.0)
    low = known[:, left]
    return np.asarray(low + share * (known[:, left + 1] - low))


@dataclass(slots=True)
class Converter:
    """Turns solved instants into filtered samples; keeps the filter's past between blocks."""

    inputs: int
    random: np.random.Generator
    noise_density: float = 4e-9  # V/V per root hertz
    _last: Array = field(init=False)
    _past: Array = field(init=False)
    _fresh: bool = field(init=False, default=True)

    def __post_init__(self) -> None:
        self._last = np.zeros(self.inputs)
        self._past = np.zeros((self.inputs, TAPS - 1))

    @property
    def delay_samples(self) -> float:
        """Group delay of the filter, in samples; the device's time stamps have it taken off."""
        return (TAPS - 1) / 2 / OVERSAMPLING

    def sample(
        self, instants: Array, rate: float, samples: int, before: float, per_tick: float
    ) -> Array:
        """Filtered ratios, shape (inputs, samples), from instants of shape (inputs, m).

        The converter runs by its own clock: of the ``per_tick`` samples that fit into the
        time of the instants, ``before`` (a share of a sample) passed since the last one.
        """
        fine = samples * OVERSAMPLING
        if self._fresh:
            self._last = instants[:, 0].copy()
            self._past = np.repeat(instants[:, :1], TAPS - 1, axis=1)
            self._fresh = False
        where = (np.arange(1, fine + 1) / OVERSAMPLING - before) / per_tick
        known = np.concatenate([self._last[:, None], instants], axis=1)
        sigma = self.noise_density * np.sqrt(rate * OVERSAMPLING / 2)
        signal = _between(known, where) + self.random.normal(0, sigma, (self.inputs, fine))
        run = np.concatenate([self._past, signal], axis=1)
        self._past = run[:, -(TAPS - 1) :]
        self._last = instants[:, -1].copy()
        return np.asarray(_windows(run, samples) @ KERNEL)


def _windows(run: Array, samples: int) -> Array:
    """What the filter sees of ``run`` for each sample, as a view: (inputs, samples, taps)."""
    across, along = run.strides
    begin, strides = (OVERSAMPLING - 1) * along, (across, OVERSAMPLING * along, along)
    return np.ndarray((len(run), samples, TAPS), run.dtype, run.data, begin, strides)
