from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, Self

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.keep_rules.base import Expected, KeepRule
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Part

if TYPE_CHECKING:
    from yoke_server.kinds.keep_rules.deciding import InstantDecider


class ChangeStep(Part):
    """By how much (SI) a channel moves until it is kept."""

    channel: fields.Key
    step: Annotated[float, fields.between(1e-12, 1e9)]


class WhenChanged(KeepRule):
    """All channels, whenever one of some has moved by its step.

    longest_s : after which they are kept at any rate
    """

    is_timed: ClassVar = True
    is_open_ended: ClassVar = True

    kind: Literal["changes"] = "changes"
    steps: Annotated[list[ChangeStep], Field(min_length=1, max_length=64)]
    longest_s: Annotated[float, fields.between(0.01, 1e6)] = 60.0

    @property
    def channels(self) -> Sequence[str]:
        return [one.channel for one in self.steps]

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        steps = [
            one.model_copy(update={"channel": keys.get(one.channel, one.channel)})
            for one in self.steps
        ]
        return self.model_copy(update={"steps": steps})

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        found = super().lacks(setup)
        if found:
            return found
        devices = {setup.watched(key).device for key in self.channels}
        if len(devices) == 1:
            return []
        return [
            Lack(
                f"Changes of channels of {' and '.join(sorted(devices))} cannot be one rule.",
                "Make a rule for those of each device.",
            )
        ]

    def decider(self, setup: MeasuringSetup) -> "InstantDecider":
        from yoke_core.keeping.changes import Changes

        from yoke_server.kinds.keep_rules.deciding import ChangesOfChannels

        readings = [setup.watched(key) for key in self.channels]
        longest = round(self.longest_s * setup.rates_hz[readings[0].device])
        return ChangesOfChannels(Changes([one.step for one in self.steps], longest), readings)

    def rows(self, rate_hz: float, expected: Expected) -> float:
        """At the least: how often something changes is not known beforehand."""
        return 1 + expected.seconds / self.longest_s
