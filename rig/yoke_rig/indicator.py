"""A weighing indicator behind Modbus: it measures by itself and keeps its newest values.

Registers, 16 bits each, larger numbers with their highest word first (docs/device-protocols.md).
"""

from collections import deque
from dataclasses import dataclass, field

import numpy as np

from yoke_rig.state import State

MODEL = "WI1 weighing indicator"
MODEL_REGISTERS = 16
KEPT = 32  # newest measurements that can be read
RATES = (10, 20)  # Hz
RATE_REGISTER = 6
OVER, UNDER = 2**31 - 1, -(2**31)
FORCE_LIMIT = 30e3  # N, beyond which it only says that there is too much
UNIT_NEWTON = 1


def words(number: int, count: int) -> list[int]:
    """An integer, of either sign, as registers; the highest word first."""
    return [number >> 16 * i & 0xFFFF for i in reversed(range(count))]


@dataclass(slots=True)
class Indicator:
    """Shows what its own load cell in the frame's base bears, in tenths of a newton."""

    serial: int = 41022
    drift_ppm: float = 38.0
    acquisition: int = 1
    seed: int = 21
    rate: int = 20
    decimals: int = 1
    measured: int = 0  # since the acquisition began
    _kept: deque[int] = field(default_factory=lambda: deque(maxlen=KEPT))
    _clock: float = 0.0  # s, its own
    _began: float = 0.0
    _random: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)

    def sense(self, state: State) -> None:
        """Measure what became due during ``state``, by its own quartz."""
        runs = 1 + self.drift_ppm * 1e-6
        self._clock = float(state.seconds[-1]) * runs
        due = int((self._clock - self._began) * self.rate)
        for k in range(max(self.measured, due - KEPT), due):
            at = (self._began + (k + 1) / self.rate) / runs
            force = float(np.interp(at, state.seconds, state.force))
            self._kept.appendleft(self._shown(force + float(self._random.normal(0, 0.2))))
        self.measured = due

    def _shown(self, force: float) -> int:
        if abs(force) > FORCE_LIMIT:
            return OVER if force > 0 else UNDER
        return round(force * 10**self.decimals)

    def restart(self, clock: float | None = None) -> None:
        """Off and on again, or another rate: measurements are counted anew."""
        self.acquisition += 1
        self.measured = 0
        self._clock = self._clock if clock is None else clock
        self._began = self._clock
        self._kept.clear()

    def registers(self) -> list[int]:
        newest_us = round((self._began + self.measured / self.rate) * 1e6)
        head = [
            *words(self.serial, 2),
            0x0204,
            0,
            self.decimals,
            UNIT_NEWTON,
            self.rate,
            len(self._kept),
            *words(self.acquisition, 2),
            *words(self.measured, 2),
            *words(newest_us, 4),
            *words(round(self._clock * 1e6), 4),
        ]
        values = [w for value in self._kept for w in words(value, 2)]
        name = MODEL.encode().ljust(2 * MODEL_REGISTERS)
        model = [int.from_bytes(name[i : i + 2], "big") for i in range(0, len(name), 2)]
        return head + values + [0] * (2 * KEPT - len(values)) + model

    def write(self, register: int, value: int) -> bool:
        """Only the rate can be set; False for anything else."""
        if register != RATE_REGISTER or value not in RATES:
            return False
        if value != self.rate:
            self.rate = value
            self.restart()
        return True
