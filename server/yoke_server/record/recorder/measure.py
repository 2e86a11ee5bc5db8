"""Measuring channels at rest: for zeroing, and with the shunt off and on."""

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray
from yoke_core.block import BlockDigest

from yoke_server.wire.frozen import FrozenChannel

BLOCKS = 5
SETTLING_BLOCKS = 3


class Measurement:
    """Averages some blocks of chosen channels."""

    def __init__(self, channels: list[FrozenChannel], skip: int = 0) -> None:
        self._channels = channels
        self._rows = [c.input_number - 1 for c in channels]
        self._skip = skip
        self._seen: list[NDArray[np.float64]] = []

    def push(self, digest: BlockDigest) -> bool:
        """True when enough was seen."""
        if self._skip:
            self._skip -= 1
            return False
        table = np.column_stack([digest.mean, digest.deviation, digest.clipped])
        self._seen.append(table[self._rows])
        return len(self._seen) >= BLOCKS

    def result(self) -> dict[str, Any]:
        """Per channel id: mean and deviation in mV/V, clipped."""
        table = np.array(self._seen)
        mean = table[:, :, 0].mean(axis=0)
        deviation = np.hypot(table[:, :, 1].mean(axis=0), table[:, :, 0].std(axis=0))
        return {
            str(c.id): {
                "mean_mv_v": float(mean[i] * 1e3),
                "deviation_mv_v": float(deviation[i] * 1e3),
                "clipped": bool(table[:, i, 2].any()),
            }
            for i, c in enumerate(self._channels)
        }


class ShuntMeasurement:
    """Measures, switches the shunts on, measures again, switches them off."""

    def __init__(
        self,
        channels: list[FrozenChannel],
        switch: Callable[[bool], None],
        shunt_ohm: float,
    ) -> None:
        self._make = partial(Measurement, channels)
        self._switch = switch
        self._shunt_ohm = shunt_ohm
        self._off = self._make(0)
        self._on: Measurement | None = None

    def push(self, digest: BlockDigest) -> bool:
        if self._on is None:
            if self._off.push(digest):
                self._switch(True)
                self._on = self._make(SETTLING_BLOCKS)
            return False
        if not self._on.push(digest):
            return False
        self._switch(False)
        return True

    def result(self) -> dict[str, Any]:
        assert self._on is not None
        off, on = self._off.result(), self._on.result()
        answer: dict[str, Any] = {"shunt_ohm": self._shunt_ohm}
        for key, before in off.items():
            after = on[key]
            answer[key] = {
                "step_mv_v": after["mean_mv_v"] - before["mean_mv_v"],
                "clipped": before["clipped"] or after["clipped"],
            }
        return answer
