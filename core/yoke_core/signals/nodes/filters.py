"""Filters: causal while samples come, both ways over what is stored."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yoke_core.signals.filter_design import Design, settling_samples
from yoke_core.signals.node import Array, Node, Process


@dataclass(frozen=True, slots=True)
class Filter:
    """A signal through a filter, as it can be had while samples come.

    It starts at rest with its first sample. Until it has settled its output is not known, and so
    again after a gap, an unknown or a clipped sample.
    """

    design: Design
    inputs: tuple[Node, ...]

    def memory_samples(self, rate_hz: float) -> float:
        """Until what came before makes no difference in float32: it has settled three times."""
        return 3 * settling_samples(self.design.sections(rate_hz))

    def start(self, rate_hz: float) -> Process:
        return FilterProcess(self.design, rate_hz)


class FilterProcess:
    """A filter at work."""

    def __init__(self, design: Design, rate_hz: float) -> None:
        from scipy.signal import sosfilt_zi

        from yoke_core.signals.kernels.cascade import run_filter

        self._run = run_filter
        self._sections = np.ascontiguousarray(design.sections(rate_hz))
        self._steady = np.ascontiguousarray(sosfilt_zi(self._sections))
        self._settling = settling_samples(self._sections)
        self._state = np.zeros_like(self._steady)
        self._seen = 0

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (x,) = values
        out = np.empty(len(x))
        self._seen = self._run(
            x,
            self._sections,
            self._steady,
            self._state,
            self._seen if follows else 0,
            self._settling,
            out,
        )
        return out


def filter_both_ways(design: Design, signal: Array, rate_hz: float) -> Array:
    """A stored signal without delay: filtered forwards, then backwards.

    Parameters
    ----------
    design : FilterDesign or MainsDesign
        Its effect counts twice: at a corner the amplitude is halved (-6 dB).
    signal : array (n,)
        A segment. What is not known, or clipped, divides it: each part is filtered by itself.
    rate_hz : float

    Returns
    -------
    array (n,)
        NaN where the signal is not known, and in parts shorter than the filter settles.

    Examples
    --------
    >>> from yoke_core.signals.filter_design import Band, FilterDesign
    >>> t = np.arange(2000) / 1000
    >>> found = filter_both_ways(FilterDesign(Band.LOW, (20.0,)), np.sin(2 * np.pi * 2 * t), 1000.0)
    >>> bool(np.allclose(found[500:1500], np.sin(2 * np.pi * 2 * t)[500:1500], atol=1e-3))
    True
    """
    from scipy.signal import sosfiltfilt

    sections = design.sections(rate_hz)
    settling = settling_samples(sections)
    out = np.full(len(signal), np.nan)
    for first, last in _known_parts(signal):
        if last - first > settling:
            part = signal[first:last]
            out[first:last] = sosfiltfilt(sections, part, padlen=min(settling, len(part) - 1))
    return out


def _known_parts(signal: Array) -> list[tuple[int, int]]:
    known = np.concatenate([[False], np.isfinite(signal), [False]])
    edges = np.flatnonzero(known[1:] != known[:-1])
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
