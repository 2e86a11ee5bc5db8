"""The protocol of triggers: a run that waits for one moves and is guarded, and keeps nothing."""

from collections.abc import Mapping
from datetime import datetime
from typing import TYPE_CHECKING, Self

from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.triggers.watching import TriggerWatch


class Trigger(Spec):
    """From when on the samples of a run are kept."""

    @property
    def pre_s(self) -> float:
        """How much of before it is kept too."""
        return 0.0

    @property
    def at(self) -> datetime | None:
        """The moment that it waits for; None of one that waits for none."""
        return None

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        """Why it would never come."""
        return []

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self

    def watch(self, setup: MeasuringSetup) -> "TriggerWatch | None":
        """It at work in the samples; None where it looks at none."""
        return None

    def said(self, setup: MeasuringSetup) -> str:
        """What a run waits for, in words; empty where it does not wait."""
        return ""
