"""The protocol of legs: what a programme is made of, one after the other. Pulling is positive."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Self

from yoke_server.bench.drivers.base import Capability
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.legs.watching import LegWatch


@dataclass(frozen=True, slots=True)
class LegOnPaper:
    """What a leg is to do, as far as that can be known beforehand.

    seconds : how long it takes; None where a person decides
    lowest, highest : forces between which it goes, N; None where it controls none
    end : force at its end, N; None likewise
    cycles : that it makes
    outline : forces along it, N, for a picture; nothing where it goes straight to its end
    """

    seconds: float | None
    lowest: float | None = None
    highest: float | None = None
    end: float | None = None
    cycles: int = 0
    outline: tuple[float, ...] = ()


class Leg(Spec):
    """One part of a programme.

    ``needs`` is what the actuator must be able to; nothing where it moves nothing. One that
    ``ends_moving`` is over while the actuator still moves, which stands then.
    """

    needs: ClassVar[frozenset[Capability]] = frozenset()
    ends_moving: ClassVar[bool] = False

    @property
    def sentence(self) -> str:
        """As screens and reports say it."""
        raise NotImplementedError

    def said(self, setup: MeasuringSetup) -> str:
        """The same, with what it looks at as the setup names it."""
        return self.sentence

    def on_paper(self, force: float | None) -> LegOnPaper:
        """``force``: where it begins, N, if that is known."""
        raise NotImplementedError

    def begin(self, name: str, before: LegProgress) -> Action | None:
        """Start its motion through a driver, under a name; None where nothing moves.

        before : how far it was when it was held, if it was
        """
        return None

    def is_over(self, progress: LegProgress) -> bool:
        raise NotImplementedError

    def stuck(self, progress: LegProgress) -> str:
        """Why it will not be over by itself, so that a person must decide; empty while it may."""
        return ""

    @property
    def channels(self) -> tuple[str, ...]:
        """Keys of the channels that it looks at."""
        return ()

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self

    def watch(self, setup: MeasuringSetup) -> "LegWatch | None":
        """What it looks for in its channel; raises SignalError where it cannot."""
        return None

    @property
    def averaged_s(self) -> float:
        """How long the end of each of its steps is averaged; 0 of one without steps."""
        return 0.0

    def ends_step(self, progress: LegProgress) -> str:
        """What the step was, in words, once it is over; empty while it goes on, and of a leg
        without steps."""
        return ""

    @property
    def levels(self) -> tuple[float, float] | None:
        """Forces (N) between which its cycles are counted; None where it has none."""
        return None

    def trimmed(
        self, commanded: tuple[float, float], seen: tuple[float, float]
    ) -> tuple[float, float] | None:
        """Between which forces (N) it is to be commanded, that it is seen to swing as it should;
        None of one whose size is left to the device."""
        return None

    @property
    def takes_time(self) -> bool:
        """Whether it does something, so that a repeat of it is one of something."""
        return True

    def back_to(self, rounds: int) -> int | None:
        """The leg (from 0) to go on with instead of the next one, after so many rounds."""
        return None
