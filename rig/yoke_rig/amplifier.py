"""The amplifier: settings of its inputs, acquisition, and the memory of the last 60 s."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yoke_rig.blocks import SampleBlock
from yoke_rig.converter import Converter, quantise
from yoke_rig.faults import Fault
from yoke_rig.plugs import PLUGS, Plug
from yoke_rig.state import STEP, State
from yoke_rig.wired import Pins, Setting

Array = NDArray[np.float64]
RANGES = (2.0, 8.0, 40.0, 500.0)  # mV/V
CARRIERS = (0.0, 4800.0)  # Hz
EXCITATIONS = (1.0, 2.5, 5.0)  # V
COMPLETIONS = (120.0, 350.0, 1000.0)  # ohm
BRIDGES = ("QUARTER", "HALF", "OPPOSITE", "FULL")
MAINS_HZ = 50.0
HIGHEST_RATE = 50_000.0
SHUNT = 100_000.0  # ohm
BLOCK_SECONDS = 0.1
MEMORY_SECONDS = 60.0
FLAT_AT = 4711  # counts, of a converter that stands still


@dataclass(slots=True)
class InputSettings:
    bridge: str = "FULL"
    completion: float = 350.0
    excitation: float = 5.0
    range_mv_v: float = 8.0
    carrier: float = 0.0  # Hz
    balance: float = 0.0  # V/V, taken off before it is converted
    shunt_on: bool = False

    def setting(self, shunted: bool) -> Setting:
        return Setting(
            self.bridge, self.completion, self.excitation, SHUNT if shunted else None, self.carrier
        )


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
    battery: float | None = None  # per cent left; none: it runs on mains
    drop_next: int = 0  # blocks to withhold from the live stream, for tests of the refill
    now: Callable[[], float] = lambda: 0.0
    inputs: list[InputSettings] = field(default_factory=lambda: [InputSettings() for _ in range(8)])
    memory: deque[SampleBlock] = field(default_factory=deque)
    faults: dict[int, tuple[Fault, ...]] = field(default_factory=dict)  # by input
    sheets: list[bytes] = field(init=False)  # in the plugs' memories, input by input
    _state: State | None = None  # what was sampled last
    _time: float = 0.0  # true seconds sampled so far
    _plugged: tuple[Plug, ...] = field(init=False)
    _faulty_since: float = 0.0
    _owed: float = 0.0
    _offset: float = 1e6  # s on the clock at true zero
    _sampled: int = 0
    _began: float = 0.0  # s on the clock when the acquisition began
    _random: np.random.Generator = field(init=False)
    _converter: Converter = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)
        self._plugged = self.plugs
        self.plug_as_at_first()
        self._restart()

    def plug_as_at_first(self) -> None:
        """Every sensor in its own input, its memory as it came."""
        self.plugs = self._plugged
        self.sheets = [plug.sheet for plug in self.plugs]

    def move(self, one: int, other: int) -> None:
        """Somebody exchanges the plugs of two inputs."""
        places = list(range(len(self.plugs)))
        places[one - 1], places[other - 1] = other - 1, one - 1
        self.plugs = tuple(self.plugs[i] for i in places)
        self.sheets = [self.sheets[i] for i in places]

    def write_sheet(self, number: int, memory: bytes) -> bool:
        """False where the plug has no memory, or one of another size."""
        fits = len(memory) == len(self.sheets[number - 1]) > 0
        if fits:
            self.sheets[number - 1] = memory
        return fits

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
        self.battery = None

    def signals(self, state: State) -> Array:
        """What the inputs see at the instants of ``state``, V/V."""
        drift = 5e-8 * np.sin(2 * np.pi * self._time / 300.0)
        size = state.force.size
        found = np.full((len(self.inputs), size), drift)
        for n, (plug, s) in enumerate(zip(self.plugs, self.inputs, strict=True), start=1):
            faults = self.faults.get(n, ())
            found[n - 1] += plug.ratio(state, s.setting(s.shunt_on), faults) - s.balance
            if faults:
                found[n - 1] += self._disturbance(faults, size)
        return found

    def _disturbance(self, faults: tuple[Fault, ...], instants: int) -> Array:
        """What comes on top of a bridge's output: hum, drift, an offset."""
        at = self._time + STEP * np.arange(1, instants + 1)
        more = np.zeros(instants)
        for fault in faults:
            if fault.kind == "hum":
                more += fault.numbers[0] * np.sin(2 * np.pi * MAINS_HZ * at)
            elif fault.kind == "drift":
                more += fault.numbers[0] * (at - self._faulty_since)
            elif fault.kind == "offset":
                more += fault.numbers[0]
        return more

    def pretend(self, number: int, faults: tuple[Fault, ...]) -> None:
        """Put an input into a state that it should not be in; () makes it well."""
        self.faults[number] = faults
        self._faulty_since = self._time

    def probe(self, number: int) -> list[Pins]:
        """What a check of an input reads: as excited, reversed, and with the shunt."""
        if self._state is None:
            return []
        plug, s = self.plugs[number - 1], self.inputs[number - 1]
        faults = self.faults.get(number, ())
        return [
            self._measured(plug.pins(self._state, s.setting(shunted), faults, polarity))
            for polarity, shunted in ((1.0, False), (-1.0, False), (1.0, True))
        ]

    def _measured(self, pins: Pins) -> Pins:
        """With what the amplifier's own checking circuit errs by."""
        errors = np.array([20e-6] * 4 + [2e-6, 2e-11]) * self._random.normal(size=6)
        return Pins(*(at + error for at, error in zip(pins, errors, strict=True)))

    def full_scale(self) -> Array:
        """What the counts' full scale stands for, V/V."""
        return np.array([s.range_mv_v * 1e-3 for s in self.inputs])

    def rails(self) -> Array:
        """Up to where `signals` are converted."""
        return self.full_scale()

    def next_block(self, state: State) -> SampleBlock | None:
        """The samples of the instants in ``state``; none while the acquisition is stopped."""
        self._state = state
        signals = self.signals(state) if self.running else None
        self._time += BLOCK_SECONDS
        if signals is None:
            return None
        per_tick = self._samples_a_block()
        before = self._owed
        samples = int(before + per_tick)
        self._owed = before + per_tick - samples
        analogue = self._converter.sample(signals, self.rate, samples, before, per_tick)
        counts = quantise(analogue, self.rails())
        for n, faults in self.faults.items():
            if any(f.kind == "flat" for f in faults):
                counts[n - 1] = FLAT_AT
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

    def _samples_a_block(self) -> float:
        return self.rate * BLOCK_SECONDS * (1 + self.drift_ppm * 1e-6)

    def miss(self, blocks: int) -> None:
        """So many blocks are taken and thrown away: nobody ever gets them."""
        self._time += blocks * BLOCK_SECONDS
        if not self.running:
            return
        taken = self._owed + blocks * self._samples_a_block()
        self._owed = taken % 1
        self._sampled += int(taken)
        self.sequence += blocks
        self.memory.clear()

    def _remember(self, block: SampleBlock) -> None:
        self.memory.append(block)
        while len(self.memory) > MEMORY_SECONDS / BLOCK_SECONDS:
            self.memory.popleft()

    def again(self, first: int, last: int) -> list[SampleBlock]:
        """The remembered blocks from ``first`` to ``last``."""
        return [b for b in self.memory if first <= b.sequence <= last]
