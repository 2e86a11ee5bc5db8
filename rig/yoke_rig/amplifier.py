"""The amplifier: settings of its inputs, acquisition, and the memory of the last 60 s."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yoke_rig.blocks import SampleBlock
from yoke_rig.converter import Converter, quantise
from yoke_rig.plugs import PLUGS, Plug
from yoke_rig.state import State

Array = NDArray[np.float64]
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
    """Samples what happens at its plugs, by a clock that runs ``drift_ppm`` fast.

    That clock began to count long before; `clock_ns` is what it shows now, ``now`` being true
    seconds. It is never the host's clock: whoever wants to compare must ask for it.
    """

    serial: str = "20417"
    drift_ppm: float = 12.0
    plugs: tuple[Plug, ...] = PLUGS
    seed: int = 8
    rate: float = 1000.0
    running: bool = True
    acquisition: int = 1
    sequence: int = 0
    model: str = "BA8 bridge amplifier"
    sets_bridges: bool = True
    highest_rate: float = HIGHEST_RATE
    drop_next: int = 0  # blocks to withhold from the live stream, for tests of the refill
    now: Callable[[], float] = lambda: 0.0
    inputs: list[InputSettings] = field(default_factory=lambda: [InputSettings() for _ in range(8)])
    memory: deque[SampleBlock] = field(default_factory=deque)
    _time: float = 0.0  # true seconds sampled so far
    _owed: float = 0.0
    _offset: float = 1e6  # s on the clock at true zero
    _sampled: int = 0
    _began: float = 0.0  # s on the clock when the acquisition began
    _random: np.random.Generator = field(init=False)
    _converter: Converter = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)
        self._restart()

    def _clock(self, true_seconds: float) -> float:
        return self._offset + true_seconds * (1 + self.drift_ppm * 1e-6)

    def clock_ns(self) -> int:
        """What the device's clock shows now."""
        return round(self._clock(self.now()) * 1e9)

    def step_clock(self, seconds: float) -> None:
        """Put the clock forward (or back), as a device does that is told the time."""
        self._offset += seconds
        self._began += seconds

    def set_rate(self, rate: float) -> None:
        """A new rate begins a new acquisition; the memory starts empty."""
        if not 10 <= rate <= self.highest_rate:
            raise ValueError(f"rate outside 10 to {self.highest_rate:g} Hz")
        if rate != self.rate:
            self.rate = rate
            self.acquisition += 1
            self._restart()

    def restart(self) -> None:
        """Off and on again: default settings, a new acquisition, nothing remembered."""
        self.reset()
        self.rate = 1000.0
        self.acquisition += 1
        self._restart()

    def _restart(self) -> None:
        self.sequence = self._sampled = 0
        self._owed = 0.0
        self._began = self._clock(self._time)
        self.memory.clear()
        self._converter = Converter(len(self.inputs), self._random)

    def reset(self) -> None:
        self.inputs = [InputSettings() for _ in self.inputs]
        self.running = True
        self.drop_next = 0

    def signals(self, state: State) -> Array:
        """What the inputs see at the instants of ``state``, V/V."""
        drift = 5e-8 * np.sin(2 * np.pi * self._time / 300.0)
        return np.stack(
            [
                plug.ratio(state, s.completion, SHUNT if s.shunt_on else None) + drift
                for plug, s in zip(self.plugs, self.inputs, strict=True)
            ]
        )

    def full_scale(self) -> Array:
        """What the counts' full scale stands for, V/V."""
        return np.array([s.range_mv_v * 1e-3 for s in self.inputs])

    def rails(self) -> Array:
        """Up to where `signals` are converted."""
        return self.full_scale()

    def next_block(self, state: State) -> SampleBlock | None:
        """The samples of the instants in ``state``; none while the acquisition is stopped."""
        signals = self.signals(state) if self.running else None
        self._time += BLOCK_SECONDS
        if signals is None:
            return None
        per_tick = self.rate * BLOCK_SECONDS * (1 + self.drift_ppm * 1e-6)
        before = self._owed
        samples = int(before + per_tick)
        self._owed = before + per_tick - samples
        analogue = self._converter.sample(signals, self.rate, samples, before, per_tick)
        counts = quantise(analogue, self.rails())
        first = self._sampled + 1 - self._converter.delay_samples
        block = SampleBlock(
            self.acquisition,
            self.sequence,
            round((self._began + first / self.rate) * 1e9),
            self.rate,
            self.full_scale().astype(np.float32),
            np.ascontiguousarray(counts.T),
        )
        self._sampled += samples
        self.sequence += 1
        self._remember(block)
        return block

    def _remember(self, block: SampleBlock) -> None:
        self.memory.append(block)
        while len(self.memory) > MEMORY_SECONDS / BLOCK_SECONDS:
            self.memory.popleft()

    def again(self, first: int, last: int) -> list[SampleBlock]:
        """The remembered blocks from ``first`` to ``last``."""
        return [b for b in self.memory if first <= b.sequence <= last]
