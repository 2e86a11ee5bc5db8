"""Measuring channels at rest: the mean of some blocks that were sampled one after the other."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from yoke_server.record.recorder.control.sample_window import SampleWindow
from yoke_server.record.recorder.stream.placed import PlacedBlock
from yoke_server.setups.document import FrozenChannel

BLOCKS = 5
MOVED = 0.005  # of the shunt's step, by which a signal may have moved meanwhile

Readings = dict[str, dict[str, Any]]  # by channel key


class Measurement:
    """Averages `BLOCKS` blocks of chosen channels of one device; torn ones are taken anew."""

    def __init__(self, channels: list[FrozenChannel], window: SampleWindow) -> None:
        self._channels = channels
        self._rows = [c.input_number - 1 for c in channels]
        self._window = window
        self._seen: list[NDArray[np.float64]] = []

    @property
    def done(self) -> bool:
        return len(self._seen) >= BLOCKS

    def push(self, placed: PlacedBlock) -> None:
        if self.done or not self._window.admits(placed.block):
            return
        if self._window.is_torn_by(placed.block):
            self._seen.clear()
        summary = placed.summary
        table = np.column_stack([summary.mean, summary.deviation, summary.clipped])
        self._seen.append(table[self._rows])

    def result(self) -> Readings:
        """Mean and deviation in SI (none where all is clipped), and whether any sample is."""
        table = np.array(self._seen)
        mean = table[:, :, 0].mean(axis=0)
        deviation = np.hypot(table[:, :, 1].mean(axis=0), table[:, :, 0].std(axis=0))
        return {
            c.key: {
                "mean": _number(mean[i]),
                "deviation": _number(deviation[i]),
                "clipped": bool(table[:, i, 2].any()),
            }
            for i, c in enumerate(self._channels)
        }


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def shunt_steps(off: Readings, on: Readings, off_again: Readings) -> Readings:
    """What the shunt changed (mV/V) against the mean of before and after; whether the signal
    moved meanwhile by itself, so that this says nothing."""
    steps = {}
    for key, shunted in on.items():
        before, after = off[key], off_again[key]
        means = [r["mean"] for r in (before, shunted, after)]
        known = None not in means
        rest = (means[0] + means[2]) / 2 if known else 0.0
        step = means[1] - rest if known else 0.0
        steps[key] = {
            "step_mv_v": step * 1e3 if known else None,
            "clipped": any(r["clipped"] for r in (before, shunted, after)),
            "moved": known and abs(means[2] - means[0]) > MOVED * abs(step),
        }
    return steps
