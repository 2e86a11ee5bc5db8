"""Filters of a channel: causal, in the reading; the raw samples stay unfiltered."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from yoke_core.errors import SignalError

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.pass_filter import Corner, FamilyName, Order, pass_filter
from yoke_server.kinds.steps.base import ReadingStep

if TYPE_CHECKING:
    from yoke_core.signals.filter_design import Design
    from yoke_core.signals.node import Node


class FilterStep(ReadingStep):
    """What all filters share."""

    def design(self) -> "Design":
        raise NotImplementedError

    def lacks(
        self, channel: MeasuredChannel, others: Sequence[MeasuredChannel], rate_hz: float
    ) -> Lack | None:
        try:
            self.design().sections(rate_hz)
        except SignalError as error:
            return Lack(f"{self.title} of {channel.name}: {error}", error.hint)
        return None

    def node(self, channel: MeasuredChannel, reading: "Node") -> "Node":
        from yoke_core.signals.nodes.filters import Filter

        return Filter(self.design(), (reading,))


class MainsRejection(FilterStep):
    """Mains hum and its multiples taken out."""

    title: ClassVar = "Mains rejection"

    kind: Literal["mains_rejection"] = "mains_rejection"
    mains_hz: Annotated[float, fields.between(10, 500)] = 50.0

    def design(self) -> "Design":
        from yoke_core.signals.filter_design import MainsDesign

        return MainsDesign(self.mains_hz)


class PassStep(FilterStep):
    """A low-pass or a high-pass: its corner is where the amplitude is 1/√2 (-3 dB)."""

    band: ClassVar[str]

    corner_hz: Corner
    order: Order = 4
    family: FamilyName = "Butterworth"

    def design(self) -> "Design":
        return pass_filter(self.band, self.corner_hz, self.order, self.family)


class HighPass(PassStep):
    """What is slower than the corner is taken out."""

    title: ClassVar = "High-pass"
    keeps_level: ClassVar = False
    band: ClassVar = "high-pass"

    kind: Literal["high_pass"] = "high_pass"


class LowPass(PassStep):
    """What is faster than the corner is taken out."""

    title: ClassVar = "Low-pass"
    band: ClassVar = "low-pass"

    kind: Literal["low_pass"] = "low_pass"
