"""What ends a run by itself: looked for in samples, in order and once, before they are kept."""

from collections.abc import Callable
from dataclasses import dataclass, field
from math import inf, isnan
from typing import Any, Protocol

import numpy as np
from yoke_core.bank import ChainBank
from yoke_core.block import BlockSummary
from yoke_core.chain import SignalChain
from yoke_core.fatigue.cycle_meter import CycleMeter
from yoke_core.tension.stop import ForceDropWatch

from yoke_server.calibrate.scaling import chain_of
from yoke_server.common.units import from_si
from yoke_server.wire.document import FrozenChannel, FrozenSetup
from yoke_server.wire.specs.motion import ForceSine
from yoke_server.wire.specs.stop import CyclesDone

TAIL = 0.5  # s kept after the condition was met
BLIND = 1.0  # s without a reading of the force, after which nothing that it watches moves
FLAT = 2.0  # s in which the force is the very same in all samples, which no signal is


class StopCondition(Protocol):
    """One condition, seen in the blocks of one device."""

    @property
    def device(self) -> str: ...
    @property
    def words(self) -> str: ...
    def is_met(self, block: BlockSummary) -> bool:
        """Whether this block, the next in order, meets it."""
        ...

    @property
    def state(self) -> Any:
        """All that it goes on from, as JSON takes it."""
        ...

    def resume(self, state: Any) -> None: ...


@dataclass(slots=True)
class ForceDrop:
    """The force has fallen by a share of its largest, pulling or pressing."""

    device: str
    words: str
    _row: int
    _chain: SignalChain
    _scaling: ChainBank
    _watch: ForceDropWatch

    def is_met(self, block: BlockSummary) -> bool:
        known = [f for f in self._scaling.apply(block.shown)[0].tolist() if not isnan(f)]
        if not known or self._watch.quiet(min(known), max(known)):
            return False
        force = self._chain.apply(block.ratios[self._row].astype(float))
        return self._watch.push(force) is not None

    @property
    def state(self) -> float:
        return self._watch.largest

    def resume(self, state: float) -> None:
        self._watch.largest = float(state)


@dataclass(slots=True)
class Cycles:
    """Counts the cycles of the force; met after ``max_cycles``, if so many are wanted."""

    device: str
    meter: CycleMeter
    max_cycles: int | None
    _row: int
    _chain: SignalChain

    @property
    def words(self) -> str:
        return f"{self.meter.cycles} cycles are done"

    def is_met(self, block: BlockSummary) -> bool:
        done = self.meter.push(self._chain.apply(block.ratios[self._row].astype(float)))
        return self.max_cycles is not None and done >= self.max_cycles

    @property
    def state(self) -> list[str]:
        """As text: JSON knows no infinity."""
        return [repr(v) for v in self.meter.state]

    def resume(self, state: list[str]) -> None:
        self.meter.state = [float(v) for v in state]


@dataclass(slots=True)
class SignalLost:
    """The force that watches a motion tells nothing, so that neither its drop nor its cycles
    would be seen: it stands at the rail, or is the very same in all samples."""

    device: str
    name: str
    _row: int
    _rate_hz: float
    _clipped: int = 0  # samples since the last one with a value
    _same: int = 0  # samples of the very same value up to now
    _value: float = inf
    words: str = ""

    def is_met(self, block: BlockSummary) -> bool:
        all_clipped = block.clipped[self._row] == block.samples
        self._clipped = self._clipped + block.samples if all_clipped else 0
        self._count_same(block)
        if self._clipped >= BLIND * self._rate_hz:
            self.words = f"{self.name} clipped for {BLIND:g} s, so that it could not be watched"
        elif self._same >= FLAT * self._rate_hz:
            self.words = f"{self.name} did not change at all for {FLAT:g} s: it gives no reading"
        return bool(self.words)

    def _count_same(self, block: BlockSummary) -> None:
        low, high = float(block.low[self._row].min()), float(block.high[self._row].max())
        if low != high or isnan(low):
            self._same, self._value = 0, inf
        elif low == self._value:
            self._same += block.samples
        else:
            self._same, self._value = block.samples, low

    @property
    def state(self) -> None:
        """Nothing: what moved stands after a restart."""

    def resume(self, state: None) -> None: ...


@dataclass(slots=True)
class Limit:
    """A channel left what is allowed of it, or nobody can tell whether it did."""

    channel: FrozenChannel
    lowest: float
    highest: float
    _chain: SignalChain
    words: str = ""

    @property
    def device(self) -> str:
        return self.channel.device_label

    def is_met(self, block: BlockSummary) -> bool:
        row, name = self.channel.input_number - 1, self.channel.name
        low, high = self._chain.extremes(block.low[row], block.high[row])
        if block.clipped[row]:
            self.words = f"{name} clipped, so that its limit could not be watched"
        elif not (np.isfinite(low).all() and np.isfinite(high).all()):
            self.words = f"{name} gives no reading, so that its limit could not be watched"
        elif high.max() > self.highest:
            self.words = f"{name} went above {self._said(self.highest)}"
        elif low.min() < self.lowest:
            self.words = f"{name} went below {self._said(self.lowest)}"
        return bool(self.words)

    def _said(self, value: float) -> str:
        return f"{from_si(value, self.channel.unit):g} {self.channel.unit}"

    @property
    def state(self) -> None:
        """Nothing: each sample says it by itself."""

    def resume(self, state: None) -> None: ...


@dataclass(slots=True)
class StopConditions:
    """All that may end a run: seen in samples, after a time, when the actuator stands.

    ``moving`` is looked for only while the run has something move.
    """

    samples: list[StopCondition] = field(default_factory=list)
    moving: list[StopCondition] = field(default_factory=list)
    seconds: float | None = None
    motion_end: bool = False

    @property
    def cycles(self) -> CycleMeter | None:
        return next((w.meter for w in self.samples if isinstance(w, Cycles)), None)

    @property
    def devices(self) -> set[str]:
        return {c.device for c in (*self.samples, *self.moving)}

    def state_of(self, device: str) -> list[Any]:
        """What the conditions of a device go on from, as JSON takes it."""
        return [c.state for c in self.samples if c.device == device]

    def resume(self, states: dict[str, list[Any]]) -> None:
        """Go on from what `state_of` gave of each device; of others all begins anew."""
        for device, state in states.items():
            conditions = [c for c in self.samples if c.device == device]
            for condition, one in zip(conditions, state, strict=True):
                condition.resume(one)


def stop_conditions_of(setup: FrozenSetup) -> StopConditions:
    """The conditions that a setup asks for; cycles of a sine are counted in any case."""
    found = StopConditions()
    if isinstance(setup.motion, ForceSine) and (force := setup.channel("force")):
        found.samples.append(_cycles(setup, force))
    for stop in setup.stops:
        ADDED[stop.kind](found, stop, setup)
    by_force = any(isinstance(w, ForceDrop | Cycles) for w in found.samples)
    if by_force and (force := setup.channel("force")):
        found.moving.append(_signal_lost(setup, force))
    return found


def _signal_lost(setup: FrozenSetup, force: FrozenChannel) -> SignalLost:
    label = force.device_label
    return SignalLost(label, force.name, force.input_number - 1, setup.rates_hz[label])


def _cycles(setup: FrozenSetup, force: FrozenChannel) -> Cycles:
    cycles = min((s.cycles for s in setup.stops if isinstance(s, CyclesDone)), default=None)
    meter = CycleMeter(setup.motion.lowest_n, setup.motion.highest_n)  # type: ignore[union-attr]
    return Cycles(force.device_label, meter, cycles, force.input_number - 1, chain_of(force))


def _force_drop(found: StopConditions, stop: Any, setup: FrozenSetup) -> None:
    force = setup.channel("force")
    if force is None:
        return
    row, chain = force.input_number - 1, chain_of(force)
    found.samples.append(
        ForceDrop(
            force.device_label,
            f"The force fell by {stop.share * 100:g} %",
            row,
            chain,
            ChainBank([chain], [row]),
            ForceDropWatch(stop.arm_n, stop.share),
        )
    )


def _limit(found: StopConditions, stop: Any, setup: FrozenSetup) -> None:
    channel = next((c for c in setup.channels if c.key == stop.channel), None)
    if channel is None:
        return
    low = -np.inf if stop.lowest is None else stop.lowest
    high = np.inf if stop.highest is None else stop.highest
    found.samples.append(Limit(channel, low, high, chain_of(channel)))


def _time_up(found: StopConditions, stop: Any, setup: FrozenSetup) -> None:
    found.seconds = min(stop.seconds, found.seconds or stop.seconds)


def _motion_end(found: StopConditions, stop: Any, setup: FrozenSetup) -> None:
    found.motion_end = True


def _cycles_done(found: StopConditions, stop: Any, setup: FrozenSetup) -> None:
    """A sine's cycles are counted in any case: see `_cycles`."""


# By kind of stop, what it adds to the conditions of a run.
ADDED: dict[str, Callable[[StopConditions, Any, FrozenSetup], None]] = {
    "force_drop": _force_drop,
    "limit": _limit,
    "time": _time_up,
    "motion_end": _motion_end,
    "cycles": _cycles_done,
}
