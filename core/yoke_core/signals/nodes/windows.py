"""Statistics over a moving window: mean, RMS, deviation, lowest, highest."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yoke_core.errors import SignalError
from yoke_core.signals.node import Array, Node, Process

MAX_SAMPLES = 1 << 20  # of a window: some 40 MB each
STATISTICS = ("mean", "rms", "deviation", "lowest", "highest")


@dataclass(frozen=True, slots=True)
class Window:
    """A statistic over the last ``seconds``; not known until so many samples follow each other.

    Parameters
    ----------
    statistic : one of STATISTICS
        The deviation is that of a sample (divided by n - 1).
    seconds : float
    """

    statistic: str
    seconds: float
    inputs: tuple[Node, ...]

    def held_samples(self, rate_hz: float) -> int:
        return window_samples(self.seconds, rate_hz)

    memory_samples = held_samples

    def start(self, rate_hz: float) -> Process:
        return _Window(self.statistic, window_samples(self.seconds, rate_hz))


def window_samples(seconds: float, rate_hz: float) -> int:
    """How many samples a window holds.

    Parameters
    ----------
    seconds, rate_hz : float

    Returns
    -------
    int

    Raises
    ------
    SignalError
        If it holds none, or more than 2^20.

    Examples
    --------
    >>> window_samples(2.0, 100.0)
    200
    """
    samples = round(seconds * rate_hz)
    if not 1 <= samples <= MAX_SAMPLES:
        raise SignalError(
            "seconds",
            f"A window of {seconds:g} s holds {samples} samples at {rate_hz:g} Hz.",
            f"Give it between {1 / rate_hz:g} s and {MAX_SAMPLES / rate_hz:g} s.",
        )
    return samples


class _Window:
    def __init__(self, statistic: str, width: int) -> None:
        from yoke_core.signals.kernels.moving import FIGURES, run_window

        self._run, self._statistic = run_window, STATISTICS.index(statistic)
        self._width, self._seen = width, 0
        self._recent = np.empty(width)
        self._ends = np.empty((width, FIGURES))
        self._growing = np.empty(FIGURES)
        self._nothing = np.array([0.0, 0.0, 0.0, np.inf, -np.inf])

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (x,) = values
        out = np.empty(len(x))
        self._seen = self._run(
            x,
            self._statistic,
            self._width,
            self._seen if follows else 0,
            self._recent,
            self._ends,
            self._growing,
            self._nothing,
            out,
        )
        return out
