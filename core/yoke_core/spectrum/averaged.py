"""Spectra averaged over overlapping parts of a signal, which comes in pieces."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import islice, pairwise

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import SummaryError

Array = NDArray[np.float64]
OVERLAP = 0.5
STANDS_OUT = 4.0  # times what is usual around a line
AROUND = 20  # lines on either side of it


def _hann(n: int) -> Array:
    return _cosines(n, (0.5, 0.5))


def _flat_top(n: int) -> Array:
    return _cosines(n, (0.21557895, 0.41663158, 0.277263158, 0.083578947, 0.006947368))


def _cosines(n: int, terms: tuple[float, ...]) -> Array:
    """Periodic, as it suits a transform."""
    phase = 2 * np.pi * np.arange(n) / n
    return sum((((-1) ** k * a * np.cos(k * phase)) for k, a in enumerate(terms)), np.zeros(n))


# The flat top reads amplitudes to 0.01 dB between lines, Hann tells lines apart better, and none
# is exact where a whole number of periods fits. Source: Heinzel, Ruediger, Schilling (2002).
WINDOWS: dict[str, Callable[[int], Array]] = {
    "hann": _hann,
    "flat_top": _flat_top,
    "none": np.ones,
}


@dataclass(frozen=True, slots=True)
class Spectrum:
    """By frequency (m,): power density (unit²/Hz), and the amplitude (unit) of a sine there.

    Both are one-sided. ``parts`` were averaged; ``bandwidth`` (Hz) is that of the window.
    """

    hz: Array
    density: Array
    parts: int
    bandwidth: float

    @property
    def amplitude(self) -> Array:
        """Of a sine at each line: its peak, not its RMS value."""
        found: Array = np.sqrt(2 * self.density * self.bandwidth)
        found[0] /= np.sqrt(2)  # what does not swing has no peak beside its value
        return found

    def rms(self, low: float, high: float) -> float:
        """The RMS value of what lies between two frequencies, Hz."""
        inside = (self.hz >= low) & (self.hz <= high)
        return float(np.sqrt(self.density[inside].sum() * (self.hz[1] - self.hz[0])))

    def peaks(self, most: int) -> list[tuple[float, float]]:
        """(frequency, amplitude) of the lines that stand out, highest first: above both
        neighbours, and well above what is usual around them, which noise is not."""
        a = self.amplitude
        places = np.flatnonzero((a[1:-1] > a[:-2]) & (a[1:-1] >= a[2:])) + 1
        order = places[np.argsort(a[places])[::-1]]
        found = (int(i) for i in order if a[i] > STANDS_OUT * _usual(a, int(i)))
        return [(float(self.hz[i]), float(a[i])) for i in islice(found, most)]


def _usual(amplitude: Array, place: int) -> float:
    return float(np.median(amplitude[max(1, place - AROUND) : place + AROUND + 1]))


class AveragedSpectrum:
    """Welch's method over samples that come in pieces, parts overlapping by a half.

    The mean of each part is taken off: what does not swing would leak into the lowest lines. Parts
    with a sample that has no value are left out, and so is what is left at the end.

    Parameters
    ----------
    rate_hz : float
    length : int
        Samples of a part; the lines lie ``rate_hz / length`` apart.
    window : str
        One of `WINDOWS`.

    Notes
    -----
    Source: Welch, IEEE Transactions on Audio and Electroacoustics 15 (1967) 70.

    Examples
    --------
    >>> t = np.arange(8000) / 1000
    >>> found = AveragedSpectrum(1000.0, 1000, "flat_top")
    >>> found.push(3.0 * np.sin(2 * np.pi * 50.3 * t))
    >>> hz, amplitude = found.finish().peaks(1)[0]
    >>> hz, round(amplitude, 2)
    (50.0, 3.0)
    """

    def __init__(self, rate_hz: float, length: int, window: str = "hann") -> None:
        if length < 8:
            raise SummaryError("length", "A spectrum needs at least eight samples.")
        self._rate, self._length = rate_hz, length
        self._window = WINDOWS[window](length)
        self._hop = max(1, round(length * (1 - OVERLAP)))
        self._waiting = np.empty(0)
        self._sum = np.zeros(length // 2 + 1)
        self._parts = 0

    def push(self, values: Array) -> None:
        """The next samples (n,); they follow the ones before."""
        values = np.concatenate([self._waiting, values])
        first = 0
        while first + self._length <= len(values):
            self._take(values[first : first + self._length])
            first += self._hop
        self._waiting = values[first:]

    def restart(self) -> None:
        """A gap: the next samples do not follow."""
        self._waiting = np.empty(0)

    def _take(self, part: Array) -> None:
        if not np.isfinite(part).all():
            return
        lines = np.fft.rfft((part - part.mean()) * self._window)
        self._sum += np.abs(lines) ** 2
        self._parts += 1

    def finish(self) -> Spectrum:
        """Raises SummaryError where no part was whole."""
        if not self._parts:
            text = "No part of the stretch is long enough and whole."
            raise SummaryError("length", text, "Take shorter parts, or a longer stretch.")
        squares = float((self._window**2).sum())
        density: Array = self._sum / (self._parts * self._rate * squares)
        density[1 : None if self._length % 2 else -1] *= 2
        hz = np.fft.rfftfreq(self._length, 1 / self._rate).astype(np.float64)
        gain = float(self._window.sum()) ** 2
        bandwidth = self._rate * squares / gain
        return Spectrum(hz, density, self._parts, bandwidth)


def octave_bands(spectrum: Spectrum, per_octave: int = 3) -> list[tuple[float, float]]:
    """(exact mid frequency in Hz, RMS value) of each fractional octave that the lines fill.

    Parameters
    ----------
    spectrum : Spectrum
    per_octave : int
        Bands of an octave: 1 or 3.

    Returns
    -------
    list of (float, float)

    Notes
    -----
    Base ten, around 1000 Hz. Source: IEC 61260-1:2014, 5.2 to 5.5. A band with fewer than three
    lines is left out: its edges would decide what it holds.

    Examples
    --------
    >>> found = AveragedSpectrum(1000.0, 1000)
    >>> found.push(np.sin(2 * np.pi * 100 * np.arange(4000) / 1000))
    >>> max(octave_bands(found.finish()), key=lambda band: band[1])[0]
    100.0
    """
    ratio = 10 ** (3 / (10 * per_octave))
    step, top = spectrum.hz[1], spectrum.hz[-1]
    lowest = int(np.ceil(np.log(max(step, 1e-9) / 1000) / np.log(ratio)))
    highest = int(np.floor(np.log(top / 1000) / np.log(ratio)))
    edges = [1000 * ratio ** (k - 0.5) for k in range(lowest, highest + 2)]
    found = []
    for k, (low, high) in zip(range(lowest, highest + 1), pairwise(edges), strict=True):
        lines = (spectrum.hz >= low) & (spectrum.hz < high)
        if lines.sum() >= 3 and high <= top:
            middle = float(f"{1000 * ratio**k:.12g}")
            found.append((middle, float(np.sqrt(spectrum.density[lines].sum() * step))))
    return found
