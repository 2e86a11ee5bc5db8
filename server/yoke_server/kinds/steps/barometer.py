from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.steps.base import ReadingStep

if TYPE_CHECKING:
    from yoke_core.scaling.line import Line


class AbsolutePressure(ReadingStep):
    """A gauge pressure made absolute with the air pressure that a barometer read."""

    title: ClassVar = "Absolute pressure"
    stateful: ClassVar = False

    kind: Literal["absolute_pressure"] = "absolute_pressure"
    air_pa: Annotated[float, fields.between(30e3, 120e3)]

    def lacks(
        self, channel: MeasuredChannel, others: Sequence[MeasuredChannel], rate_hz: float
    ) -> Lack | None:
        if channel.quantity == "pressure":
            return None
        said = f"{channel.name} measures {channel.quantity}: no air pressure is added to it."
        return Lack(said, "Leave it out.")

    def line(self) -> "Line":
        from yoke_core.scaling.line import Line

        return Line(1.0, self.air_pa)
