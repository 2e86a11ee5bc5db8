"""What ends a run by itself: looked for in samples as they arrive, before anything is stored."""

from collections.abc import Callable
from dataclasses import dataclass, field
from math import isnan
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

TAIL = 0.5  # s kept after the condition was met
BLIND = 1.0  # s without a reading of the force, after which nothing that it watches moves


class StopCondition(Protocol):
    """One condition, seen in the blocks of one device."""

    @property
    def device(self) -> str: ...
    @property
    def words(self) -> str: ...
    def met(self, digest: BlockSummary) -> bool:
        """Whether this block, the newest that arrived, meets it."""
        ...


@dataclass(slots=True)
class ForceDrop:
    """The force has fallen by a share of its highest."""

    device: str
    words: str
    _row: int
    _chain: SignalChain
    _scaling: ChainBank
    _watch: ForceDropWatch

    def met(self, digest: BlockSummary) -> bool:
        known = [f for f in self._scaling.apply(digest.shown)[0].tolist() if not isnan(f)]
        if not known or self._watch.quiet(min(known), max(known)):
            return False
        force = self._chain.apply(digest.ratios[self._row].astype(float))
        return self._watch.push(force) is not None


@dataclass(slots=True)
class Cycles:
    """Counts the cycles of the force; met after ``most`` of them, if so many are wanted."""

    device: str
    meter: CycleMeter
    most: int | None
    _row: int
    _chain: SignalChain

    @property
    def words(self) -> str:
        return f"{self.meter.cycles} cycles are done"

    def met(self, digest: BlockSummary) -> bool:
        done = self.meter.push(self._chain.apply(digest.ratios[self._row].astype(float)))
        return self.most is not None and done >= self.most


@dataclass(slots=True)
class SignalLost:
    """The force that watches a motion stands at the rail, so that neither its drop nor its
    cycles would be seen: a wire came off, or the range is too small."""

    device: str
    words: str
    _row: int
    _most: float  # samples
    _clipped: int = 0  # since the last one with a value

    def met(self, digest: BlockSummary) -> bool:
        all_clipped = digest.clipped[self._row] == digest.samples
        self._clipped = self._clipped + digest.samples if all_clipped else 0
        return self._clipped >= self._most


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

    def met(self, digest: BlockSummary) -> bool:
        row, name = self.channel.input_number - 1, self.channel.name
        low, high = self._chain.extremes(digest.low[row], digest.high[row])
        if digest.clipped[row]:
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


def watches_of(setup: FrozenSetup) -> StopConditions:
    """The conditions that a setup asks for; cycles of a sine are counted in any case."""
    found = StopConditions()
    if setup.motion.kind == "force_sine" and (force := setup.channel("force")):
        found.samples.append(_cycles(setup, force))
    for stop in setup.stops:
        add = ADDED.get(stop.kind)
        if add and (watch := add(stop, setup)):
            found.samples.append(watch)
        elif stop.kind == "time":
            found.seconds = min(stop.seconds, found.seconds or stop.seconds)
        elif stop.kind == "motion_end":
            found.motion_end = True
    by_force = any(isinstance(w, ForceDrop | Cycles) for w in found.samples)
    if by_force and (force := setup.channel("force")):
        found.moving.append(_unseen(setup, force))
    return found


def _unseen(setup: FrozenSetup, force: FrozenChannel) -> SignalLost:
    label = force.device_label
    words = f"{force.name} clipped for {BLIND:g} s, so that the force could not be watched"
    return SignalLost(label, words, force.input_number - 1, BLIND * setup.rates_hz[label])


def _cycles(setup: FrozenSetup, force: FrozenChannel) -> Cycles:
    most = min((s.cycles for s in setup.stops if s.kind == "cycles"), default=None)
    meter = CycleMeter(setup.motion.lowest_n, setup.motion.highest_n)  # type: ignore[union-attr]
    return Cycles(force.device_label, meter, most, force.input_number - 1, chain_of(force))


def _force_drop(stop: Any, setup: FrozenSetup) -> StopCondition | None:
    force = setup.channel("force")
    if force is None:
        return None
    row, chain = force.input_number - 1, chain_of(force)
    return ForceDrop(
        force.device_label,
        f"The force fell by {stop.share * 100:g} %",
        row,
        chain,
        ChainBank([chain], [row]),
        ForceDropWatch(stop.arm_n, stop.share),
    )


def _limit(stop: Any, setup: FrozenSetup) -> StopCondition | None:
    channel = next((c for c in setup.channels if c.key == stop.channel), None)
    if channel is None:
        return None
    low = -np.inf if stop.lowest is None else stop.lowest
    high = np.inf if stop.highest is None else stop.highest
    return Limit(channel, low, high, chain_of(channel))


ADDED: dict[str, Callable[[Any, FrozenSetup], StopCondition | None]] = {
    "force_drop": _force_drop,
    "limit": _limit,
}
