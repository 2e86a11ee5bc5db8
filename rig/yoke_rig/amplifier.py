"""The amplifier: settings of its inputs, acquisition, and the memory of the last 60 s."""

from collections import deque
from dataclasses import dataclass, field

import numpy as np

from yoke_rig.blocks import SampleBlock
from yoke_rig.converter import Converter, quantise
from yoke_rig.world import STEP, World

RANGES = (2.0, 8.0, 40.0)  # mV/V
EXCITATIONS = (1.0, 2.5, 5.0)  # V
COMPLETIONS = (120.0, 350.0)  # ohm
BRIDGES = ("QUARTER", "HALF", "FULL")
HIGHEST_RATE = 50_000.0
SHUNT = 100_000.0  # ohm
BLOCK_SECONDS = 0.1
MEMORY_SECONDS = 60.0


@dataclass(slots=True)
class InputSettings:
    bridge: str = "FULL"
    completion: float = 350.0
    excitation: float = 5.0
    range_mv_v: float = 8.0
    shunt_on: bool = False


@dataclass(slots=True)
class Amplifier:
    """Samples a world. Device time runs ``drift_ppm`` off true time."""

    world: World
    serial: str = "20417"
    drift_ppm: float = 12.0
    rate: float = 1000.0
    running: bool = True
    acquisition: int = 1
    sequence: int = 0
    drop_next: int = 0  # blocks to withhold from the live stream, for tests of the refill
    inputs: list[InputSettings] = field(default_factory=lambda: [InputSettings() for _ in range(8)])
    memory: deque[SampleBlock] = field(default_factory=deque)
    _time: float = 0.0
    _owed: float = 0.0
    _converter: Converter = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.world.seed + 1)
        self._restart()

    _random: np.random.Generator = field(init=False)

    def set_rate(self, rate: float) -> None:
        """A new rate begins a new acquisition; the memory starts empty."""
        if not 10 <= rate <= HIGHEST_RATE:
            raise ValueError("rate outside 10 to 50000 Hz")
        if rate != self.rate:
            self.rate = rate
            self.acquisition += 1
            self._restart()

    def _restart(self) -> None:
        self.sequence = 0
        self.memory.clear()
        self._converter = Converter(len(self.inputs), self._random)

    def reset(self) -> None:
        self.inputs = [InputSettings() for _ in self.inputs]
        self.running = True

    def next_block(self) -> SampleBlock:
        """Let one block's time pass and give its samples."""
        steps = round(BLOCK_SECONDS / STEP)
        state = self.world.advance(steps)
        drift = 5e-8 * np.sin(2 * np.pi * self._time / 300.0)
        ratios = np.stack(
            [
                plug.ratio(state, s.completion, SHUNT if s.shunt_on else None) + drift
                for plug, s in zip(self.world.plugs, self.inputs, strict=True)
            ]
        )
        self._owed += self.rate * BLOCK_SECONDS * (1 + self.drift_ppm * 1e-6)
        samples = int(self._owed)
        self._owed -= samples
        full_scale = np.array([s.range_mv_v * 1e-3 for s in self.inputs])
        counts = quantise(self._converter.sample(ratios, self.rate, samples), full_scale)
        block = SampleBlock(
            self.acquisition,
            self.sequence,
            round(self._samples_before() * 1e9 / self.rate),
            self.rate,
            full_scale.astype(np.float32),
            np.ascontiguousarray(counts.T),
        )
        self._time += BLOCK_SECONDS
        self.sequence += 1
        self._remember(block)
        return block

    def _samples_before(self) -> int:
        if not self.memory:
            return 0
        last = self.memory[-1]
        return round(last.time_ns * last.rate / 1e9) + len(last.counts)

    def _remember(self, block: SampleBlock) -> None:
        self.memory.append(block)
        while len(self.memory) > MEMORY_SECONDS / BLOCK_SECONDS:
            self.memory.popleft()

    def again(self, first: int, last: int) -> list[SampleBlock]:
        """The remembered blocks from ``first`` to ``last``."""
        return [b for b in self.memory if first <= b.sequence <= last]
