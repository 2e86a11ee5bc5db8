"""The protocol of legs: what a programme is made of, one after the other. Pulling is positive."""

from dataclasses import dataclass
from typing import ClassVar

from yoke_server.bench.drivers.base import Capability
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.spec import Spec


@dataclass(frozen=True, slots=True)
class LegOnPaper:
    """What a leg is to do, as far as that can be known beforehand.

    seconds : how long it takes; None where a person decides
    lowest, highest : forces between which it goes, N; None where it controls none
    end : force at its end, N; None likewise
    cycles : that it makes
    shape : how the force goes from one to the other
    """

    seconds: float | None
    lowest: float | None = None
    highest: float | None = None
    end: float | None = None
    cycles: int = 0
    shape: str = "line"


class Leg(Spec):
    """One part of a programme.

    ``needs`` is what the actuator must be able to; nothing where it moves nothing.
    """

    needs: ClassVar[frozenset[Capability]] = frozenset()

    @property
    def sentence(self) -> str:
        """As screens and reports say it."""
        raise NotImplementedError

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

    @property
    def takes_time(self) -> bool:
        """Whether it does something, so that a repeat of it is one of something."""
        return True

    def back_to(self, rounds: int) -> int | None:
        """The leg (from 0) to go on with instead of the next one, after so many rounds."""
        return None
