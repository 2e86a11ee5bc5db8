"""Measuring channels at rest: for zeroing, and with the shunt off and on."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from yoke_core.block import BlockSummary

from yoke_server.record.recorder.control.bench_device import SETTLING_BLOCKS
from yoke_server.wire.document import FrozenChannel

BLOCKS = 5

Readings = dict[str, dict[str, Any]]  # by channel key


class Measurement:
    """Averages some blocks of chosen channels of one device."""

    def __init__(self, channels: list[FrozenChannel], skip: int = 0) -> None:
        self._channels = channels
        self._rows = [c.input_number - 1 for c in channels]
        self._skip = skip
        self._seen: list[NDArray[np.float64]] = []

    @property
    def done(self) -> bool:
        return len(self._seen) >= BLOCKS

    def push(self, digest: BlockSummary) -> None:
        if self._skip:
            self._skip -= 1
        elif not self.done:
            table = np.column_stack([digest.mean, digest.deviation, digest.clipped])
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


class Measuring:
    """Measures channels of several devices at once; ``settle`` lets a switch ring out first."""

    def __init__(self, by_device: dict[str, list[FrozenChannel]], settle: bool = False) -> None:
        skip = SETTLING_BLOCKS if settle else 0
        self._parts = {d: Measurement(channels, skip) for d, channels in by_device.items()}

    @property
    def done(self) -> bool:
        return all(p.done for p in self._parts.values())

    def push(self, device: str, digest: BlockSummary) -> None:
        if part := self._parts.get(device):
            part.push(digest)

    def result(self) -> Readings:
        return {key: r for part in self._parts.values() for key, r in part.result().items()}


def shunt_steps(off: Readings, on: Readings) -> Readings:
    """What the shunt changed, mV/V."""
    steps = {}
    for key, before in off.items():
        after = on[key]
        known = before["mean"] is not None and after["mean"] is not None
        steps[key] = {
            "step_mv_v": (after["mean"] - before["mean"]) * 1e3 if known else None,
            "clipped": before["clipped"] or after["clipped"],
        }
    return steps
