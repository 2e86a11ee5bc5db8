from collections.abc import Sequence
from datetime import date
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, Self

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.steps.base import ReadingStep

if TYPE_CHECKING:
    from yoke_core.scaling.line import Line


STANDARD_PA = 101_325.0


class AbsolutePressure(ReadingStep):
    """A gauge pressure made absolute with the air pressure that a barometer read."""

    title: ClassVar = "Absolute pressure"
    stateful: ClassVar = False

    kind: Literal["absolute_pressure"] = "absolute_pressure"
    air_pa: Annotated[float, fields.between(30e3, 120e3)]
    read_on: fields.Day | None = None

    def put_in_place_of(self, before: "AbsolutePressure | None", today: date) -> Self:
        """It was read today, if the air pressure is another one than before."""
        was = before or AbsolutePressure(air_pa=STANDARD_PA)
        read_on = was.read_on if self.air_pa == was.air_pa else today
        return self.model_copy(update={"read_on": read_on})

    def asks_for(self, channel: MeasuredChannel, today: date) -> Lack | None:
        if self.read_on == today:
            return None
        when = f"was read on {self.read_on}" if self.read_on else "is the standard one, not read"
        said = f"The air pressure that makes {channel.name} absolute {when}."
        return Lack(said, "Read the barometer, and type it under Calibrate, Steps.")

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
