"""The protocol of run corrections: what is put right of a run's channels after it was recorded."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Protocol

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_core.corrections.operations import Operation
    from yoke_core.scaling.line import Line

PlaceOf = Callable[[float], int]  # the sample at a time of the run


class CorrectedChannel(Protocol):
    """A channel of a run; ``measured`` is None of one that is computed."""

    @property
    def name(self) -> str: ...
    @property
    def quantity(self) -> str: ...
    @property
    def unit(self) -> str: ...
    @property
    def measured(self) -> MeasuredChannel | None: ...


class RunCorrection(Spec):
    """One correction of some channels of a run. It changes what is read of the run's samples,
    never the samples; one that is off stays in the list and changes nothing.

    key : the same in each run that was corrected together; given when it is kept
    name : what people call it, where not by its title
    """

    title: ClassVar[str]

    key: Annotated[str, fields.Text(0, 20)] = ""
    on: bool = True
    name: Annotated[str, fields.Text(0, 60)] = ""
    channels: Annotated[list[fields.Key], Field(min_length=1, max_length=512)]

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        """Why it cannot correct a channel of that sample rate; None if it can."""
        return None

    def said(self, channel: CorrectedChannel) -> str:
        """What it does to a channel, for people."""
        return ""

    def settings(self, channel: MeasuredChannel) -> Mapping[str, Any]:
        """The settings of the channel that are others with it."""
        return {}

    @property
    def time_factor(self) -> float:
        """By which the times of the channels' streams are multiplied."""
        return 1.0

    def line(self) -> "Line | None":
        """What it does to each reading by itself (SI); None of one that needs others around it."""
        return None

    def operation(self, place_of: PlaceOf) -> "Operation | None":
        """What it does to the channel's stored readings (SI); None where that is nothing."""
        from yoke_core.corrections.operations import Linear

        return Linear(line.slope, line.offset) if (line := self.line()) else None


class SettingCorrection(RunCorrection):
    """Another setting of a measured channel."""

    def lacks(self, channel: CorrectedChannel, rate_hz: float) -> Lack | None:
        if channel.measured is not None:
            return None
        return Lack(
            f"{channel.name} is computed: it has no {self.title.lower()}.",
            "Correct the channels of its formula.",
        )
