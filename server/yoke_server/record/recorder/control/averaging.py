"""Averaging channels at rest over consecutive blocks."""

import numpy as np
from numpy.typing import NDArray

from yoke_server.kinds.orders.measuring import RestReading, ShuntReading
from yoke_server.kinds.steady import most_going
from yoke_server.record.recorder.control.sample_window import SampleWindow
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.setups.document import FrozenChannel

BLOCKS = 5
MAX_BLOCKS = 40  # that are waited for until a signal has settled: 4 s
MOVED = 0.005  # of the shunt's step, by which a signal may have moved meanwhile

Readings = dict[str, RestReading]  # by channel key


class Measurement:
    """Averages `BLOCKS` blocks of channels of one device; restarts after a gap.

    settles : those are averaged in which all channels stand still; the last ones, if after
        `MAX_BLOCKS` some still go
    """

    def __init__(
        self, channels: list[FrozenChannel], window: SampleWindow, *, settles: bool = False
    ) -> None:
        self._channels = channels
        self._limits = np.array([most_going(c) for c in channels]) if settles else None
        self._waited = 0
        self._rows = [c.input_number - 1 for c in channels]
        self._window = window
        self._seen: list[NDArray[np.float64]] = []

    @property
    def done(self) -> bool:
        return len(self._seen) >= BLOCKS and (self._is_settled or self._waited >= MAX_BLOCKS)

    @property
    def _is_settled(self) -> bool:
        """Also of what has no number: waiting gives it none."""
        if self._limits is None:
            return True
        going = np.ptp(np.array(self._seen)[:, :, 0], axis=0)
        return not (going > self._limits).any()

    def push(self, placed: PositionedBlock) -> None:
        if self.done or not self._window.admits(placed.block):
            return
        if self._window.is_torn_by(placed.block):
            self._seen.clear()
        summary = placed.summary
        table = np.column_stack([summary.mean, summary.deviation, summary.clipped])
        self._seen = [*self._seen, table[self._rows]][-BLOCKS:]
        self._waited += 1

    def result(self) -> Readings:
        """Mean and deviation in SI (none where all is clipped), and whether any sample is."""
        table = np.array(self._seen)
        mean = table[:, :, 0].mean(axis=0)
        deviation = np.hypot(table[:, :, 1].mean(axis=0), table[:, :, 0].std(axis=0))
        return {
            c.key: RestReading(
                mean=_number(mean[i]),
                deviation=_number(deviation[i]),
                clipped=bool(table[:, i, 2].any()),
                moved=_number(np.ptp(table[:, i, 0])),
            )
            for i, c in enumerate(self._channels)
        }


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def shunt_step(
    before: RestReading, shunted: RestReading, after: RestReading, shunt_ohm: float
) -> ShuntReading:
    """What the shunt changed (mV/V) against the mean of before and after; whether the signal
    moved meanwhile by itself, so that this says nothing."""
    clipped = before.clipped or shunted.clipped or after.clipped
    if before.mean is None or shunted.mean is None or after.mean is None:
        return ShuntReading(step_mv_v=None, clipped=clipped, moved=False, shunt_ohm=shunt_ohm)
    step = shunted.mean - (before.mean + after.mean) / 2
    moved = abs(after.mean - before.mean) > MOVED * abs(step)
    return ShuntReading(step_mv_v=step * 1e3, clipped=clipped, moved=moved, shunt_ohm=shunt_ohm)
