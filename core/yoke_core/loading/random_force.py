"""A random force with a given spectrum: a sum of sines of random phase, which repeats itself."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import LoadingError

Array = NDArray[np.float64]


def random_force(
    mean_n: float,
    spectrum: Sequence[tuple[float, float]],
    points: int,
    rate_hz: float,
    seed: int,
) -> Array:
    """One period of a random force whose power density is the given one.

    Each frequency of the period has the amplitude that the density asks for, and a phase of its
    own; the sum is close to normally distributed. Source: Shinozuka and Jan, Journal of Sound and
    Vibration 25 (1972) 111.

    Parameters
    ----------
    mean_n : float
        N.
    spectrum : sequence of (frequency in Hz, density in N²/Hz)
        By rising frequency; straight between its points, nothing outside.
    points : int
        Of the period; played at ``rate_hz``.
    rate_hz : float
    seed : int
        The same seed gives the same force.

    Returns
    -------
    ndarray, (points,), N

    Raises
    ------
    LoadingError
        For frequencies that do not rise, a density below nothing, or a highest frequency
        above a quarter of the rate.

    Examples
    --------
    >>> force = random_force(500.0, [(1.0, 100.0), (5.0, 100.0)], 4000, 50.0, seed=1)
    >>> round(float(force.mean()), 6), round(float(force.std()), 1)  # the root of 400 N²
    (500.0, 20.0)
    """
    frequencies = [f for f, _ in spectrum]
    if len(spectrum) < 2 or frequencies[0] <= 0 or (np.diff(frequencies) <= 0).any():
        raise LoadingError("spectrum", "The frequencies of the spectrum do not rise.")
    if min(density for _, density in spectrum) < 0:
        raise LoadingError("spectrum", "A density lies below nothing.")
    if frequencies[-1] > rate_hz / 4:
        raise LoadingError("spectrum", "The highest frequency is too close to the rate.")
    at = np.fft.rfftfreq(points, 1 / rate_hz)
    density = np.interp(at, frequencies, [d for _, d in spectrum], left=0.0, right=0.0)
    amplitudes = np.sqrt(2 * density * rate_hz / points)
    phases = np.random.default_rng(seed).uniform(0, 2 * np.pi, len(at))
    return mean_n + np.fft.irfft(amplitudes * np.exp(1j * phases), points) * points / 2
