"""Stop conditions, checked in every sample in order before it is stored."""

from dataclasses import dataclass, field
from typing import Any

from yoke_core.fatigue.cycle_meter import CycleMeter

from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.stops.conditions import CyclesCounted, SignalLost, StopCondition
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.watched import WatchedSetup

TAIL = 0.5  # s kept after the condition was met


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
        return next((w.meter for w in self.samples if isinstance(w, CyclesCounted)), None)

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
    """The conditions that a setup's motion and stops ask for; raises CoreError where one of them
    could not be watched."""
    watched = WatchedSetup(setup)
    asked = [
        *setup.motion.conditions(watched),
        *(c for s in setup.stops for c in s.conditions(watched)),
    ]
    seconds = [s.max_seconds for s in setup.stops if s.max_seconds is not None]
    watching = {c.lost_without.key: c.lost_without for c in asked if c.lost_without}
    return StopConditions(
        samples=asked,
        moving=[_signal_lost(setup, channel) for channel in watching.values()],
        seconds=min(seconds, default=None),
        motion_end=any(s.ends_with_motion for s in setup.stops),
    )


def _signal_lost(setup: FrozenSetup, channel: MeasuredChannel) -> SignalLost:
    label = channel.device_label
    return SignalLost(label, channel.name, channel.input_number - 1, setup.rates_hz[label])
