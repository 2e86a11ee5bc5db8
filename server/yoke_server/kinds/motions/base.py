"""The protocol of motions. Pulling is positive."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Protocol, Self

from yoke_server.bench.drivers.base import Capability
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.motions.paper import Played
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.legs.watching import LegWatch
    from yoke_server.kinds.stops.conditions import StopCondition


class Part(Protocol):
    """One part of a motion, as the recorder carries it out; see `kinds.legs.base.Leg`."""

    @property
    def needs(self) -> frozenset[Capability]: ...
    @property
    def sentence(self) -> str: ...
    def said(self, setup: MeasuringSetup) -> str: ...
    @property
    def levels(self) -> tuple[float, float] | None: ...
    @property
    def averaged_s(self) -> float: ...
    @property
    def ends_moving(self) -> bool: ...
    def stuck(self, progress: LegProgress) -> str: ...
    def watch(self, setup: MeasuringSetup) -> "LegWatch | None": ...
    def ends_step(self, progress: LegProgress) -> str: ...
    def trimmed(
        self, commanded: tuple[float, float], seen: tuple[float, float]
    ) -> tuple[float, float] | None: ...
    def begin(self, name: str, before: LegProgress) -> Action | None: ...
    def is_over(self, progress: LegProgress) -> bool: ...
    def back_to(self, rounds: int) -> int | None: ...


class Motion(Spec):
    """What the actuator does while a run is recorded.

    ``needs`` is what the actuator must be able to; nothing where none is needed.
    """

    needs: ClassVar[frozenset[Capability]] = frozenset({Capability.MOVES})
    has_cycles: ClassVar[bool] = False  # whether its cycles can be counted

    @property
    def moves(self) -> bool:
        return bool(self.needs)

    @property
    def sentence(self) -> str:
        """As reports print it."""
        raise NotImplementedError

    def begin(self, name: str) -> Action:
        """Start the motion through a driver, under a name."""
        raise NotImplementedError

    @property
    def parts(self) -> "Sequence[Part]":
        """What it consists of, one after the other: itself, unless it is a programme."""
        return (WholeMotion(self),) if self.moves else ()

    @property
    def cycles_hz(self) -> float | None:
        """Of one that swings until something else ends it; None of others."""
        return None

    @property
    def gentle_rate_n_s(self) -> float | None:
        """At which it goes to no load where a person has it end gently; None where it cannot."""
        return None

    @property
    def on_paper(self) -> Played | None:
        """It played beforehand; None where there is nothing to play."""
        return None

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        """Why its `conditions` could not be looked at."""
        return []

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        """What is watched for in the samples of a run with it, beside the run's stop conditions."""
        return ()


@dataclass(frozen=True, slots=True)
class WholeMotion:
    """A motion that is no programme, as its only part."""

    motion: Motion
    levels: tuple[float, float] | None = None
    averaged_s: float = 0.0
    ends_moving: bool = False

    def said(self, setup: MeasuringSetup) -> str:
        return self.sentence

    def stuck(self, progress: LegProgress) -> str:
        return ""

    def trimmed(self, commanded: tuple[float, float], seen: tuple[float, float]) -> None:
        return None

    def watch(self, setup: MeasuringSetup) -> None:
        return None

    def ends_step(self, progress: LegProgress) -> str:
        return ""

    @property
    def needs(self) -> frozenset[Capability]:
        return self.motion.needs

    @property
    def sentence(self) -> str:
        return self.motion.sentence

    def begin(self, name: str, before: LegProgress) -> Action:
        return self.motion.begin(name)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.has_arrived

    def back_to(self, rounds: int) -> int | None:
        return None
