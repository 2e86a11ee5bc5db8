"""The protocol of keep rules: each fills streams of its own, one of each device."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, ClassVar, Self

from pydantic import Field

from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.keep_rules.deciding import InstantDecider, WindowDecider

LegNumber = Annotated[int, Field(ge=1, le=200)]


@dataclass(frozen=True, slots=True)
class Expected:
    """What a run is to come to, as far as it is known: its seconds and its cycles."""

    seconds: float
    cycles: int = 0


class KeepRule(Spec):
    """What of the samples is stored.

    ``legs`` : counted from 1, in which it keeps; none for all the time.
    ``is_timed`` : whether each row has its time, or all follow each other at one rate
    """

    is_timed: ClassVar[bool] = False
    is_open_ended: ClassVar[bool] = False  # whether it may keep more than is foretold

    legs: list[LegNumber] = Field(default=[], max_length=200)

    @property
    def channels(self) -> Sequence[str]:
        """Keys of the channels that decide what is kept."""
        return ()

    @property
    def keeps_all(self) -> bool:
        """Whether it keeps each sample as it is, all the time or in its legs."""
        return False

    def factor(self, rate_hz: float) -> int:
        """By which the rate of a device is divided."""
        return 1

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        """Why it could not keep what it is to."""
        return [
            *(x for key in self.channels if (x := setup.unwatchable(key))),
            *self._lacking_legs(setup),
        ]

    def _lacking_legs(self, setup: MeasuringSetup) -> list[Lack]:
        many = len(setup.motion.parts)
        if not self.legs or max(self.legs) <= many:
            return []
        there = f"{many} legs" if many > 1 else "no legs to choose from"
        return [
            Lack(
                f"{self.words.capitalize()} are to be kept in leg {max(self.legs)}, and the "
                f"motion has {there}.",
                "Choose other legs, or none to keep all the time.",
            )
        ]

    @property
    def cycles_of_rows(self) -> int:
        """For how many cycles two of its rows stand; 0 where rows are no cycles."""
        return 0

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self

    def decider(self, setup: MeasuringSetup) -> "WindowDecider | InstantDecider":
        """It at work; raises SignalError where it `lacks` something."""
        raise NotImplementedError

    def rows(self, rate_hz: float, expected: Expected) -> float:
        """Samples of each channel of a device that it keeps, in the legs in which it does."""
        raise NotImplementedError


def main_of(rules: Sequence[KeepRule]) -> tuple[str, KeepRule] | None:
    """The name and the rule of the main stream of each device, which keeps each sample."""
    named = zip(names_of(rules), rules, strict=True)
    return next(((name, rule) for name, rule in named if rule.keeps_all), None)


def names_of(rules: Sequence[KeepRule]) -> list[str]:
    """By which the streams of each rule of a setup are told apart."""
    found: list[str] = []
    for rule in rules:
        before = sum(name.partition(" ")[0] == rule.kind for name in found)
        found.append(f"{rule.kind} {before + 1}" if before else rule.kind)
    return found
