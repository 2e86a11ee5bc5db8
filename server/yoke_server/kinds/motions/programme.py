from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Literal, Self

from pydantic import field_validator
from pydantic_core import PydanticCustomError

from yoke_server.bench.drivers.base import Capability
from yoke_server.common.http import fields
from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.legs import LegList
from yoke_server.kinds.legs.base import Leg
from yoke_server.kinds.measured import MeasuredChannel, MeasuringSetup
from yoke_server.kinds.motions.base import Motion
from yoke_server.kinds.motions.paper import Played, played
from yoke_server.kinds.stops.base import NO_FORCE

if TYPE_CHECKING:
    from yoke_server.kinds.stops.conditions import StopCondition


class Programme(Motion):
    """Legs, one after the other.

    unload_n_s : the rate at which a person has it end gently, without load
    """

    kind: Literal["programme"] = "programme"
    legs: LegList
    unload_n_s: Annotated[float, fields.between(1e-2, 1e6)] = 200.0

    @field_validator("legs")
    @classmethod
    def _repeats_something(cls, legs: list[Leg]) -> list[Leg]:
        for place, leg in enumerate(legs):
            first = leg.back_to(0)
            if first is None:
                continue
            if first >= place or not any(one.takes_time for one in legs[first:place]):
                raise PydanticCustomError(
                    "rule", "leg {number} repeats nothing", {"number": place + 1}
                )
        return legs

    @property
    def needs(self) -> frozenset[Capability]:  # type: ignore[override]
        return frozenset().union(*(leg.needs for leg in self.legs))

    @property
    def has_cycles(self) -> bool:  # type: ignore[override]
        return any(leg.levels for leg in self.legs)

    @property
    def sentence(self) -> str:
        return " ".join(f"{i}. {leg.sentence}" for i, leg in enumerate(self.legs, start=1))

    @property
    def parts(self) -> Sequence[Leg]:
        return self.legs

    @property
    def gentle_rate_n_s(self) -> float:
        return self.unload_n_s

    @property
    def on_paper(self) -> Played:
        return played(self.legs)

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"legs": [leg.with_channels(keys) for leg in self.legs]})

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        looked_at = [setup.unwatchable(key) for leg in self.legs for key in leg.channels]
        return [*filter(None, looked_at), *self._lacks_of_force(setup)]

    def _lacks_of_force(self, setup: MeasuringSetup) -> list[Lack]:
        force = setup.channel("force")
        if force is None:
            return [NO_FORCE] if self.has_cycles else []
        unwatched = setup.unwatchable(force.key) if self.has_cycles else None
        beyond = [
            self._beyond(guard, force) for guard in setup.guards if guard.channel == force.key
        ]
        return [lack for lack in (unwatched, *beyond) if lack]

    def _beyond(self, guard: Guard, force: MeasuredChannel) -> Lack | None:
        """What a guard of the force would not let pass, played on paper."""
        low, high = guard.bounds
        paper = self.on_paper
        for planned, beyond in ((paper.highest, high), (paper.lowest, low)):
            if planned is None or not (planned > high or planned < low):
                continue
            return Lack(
                f"The programme goes to {planned:g} N; {force.name} is guarded at {beyond:g} N.",
                "Change the leg, or the guard.",
            )
        return None

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        """The cycles of all its waves are counted."""
        from yoke_core.fatigue.cycle_meter import CycleMeter

        from yoke_server.kinds.stops.conditions import CyclesCounted

        force = setup.channel("force")
        if force is None or not self.has_cycles:
            return ()
        wanted = [s.max_cycles for s in setup.stops if s.max_cycles is not None]
        levels, *_ = [leg.levels for leg in self.legs if leg.levels]
        reading = setup.watched(force.key)
        return [CyclesCounted(CycleMeter(*levels), min(wanted, default=None), force, reading)]
