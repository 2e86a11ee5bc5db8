from collections.abc import Sequence
from datetime import date
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, Self

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.steps.base import ReadingStep

if TYPE_CHECKING:
    from yoke_core.scaling.line import Line

MIN_FACTOR, MAX_FACTOR = 0.8, 1.25


class ShuntSpan(ReadingStep):
    """A bridge's span put right by its shunt check: for leads that are not as stated.

    factor : the step that was due over the one that was read
    """

    title: ClassVar = "Span by shunt"
    stateful: ClassVar = False

    kind: Literal["shunt_span"] = "shunt_span"
    factor: Annotated[float, fields.between(MIN_FACTOR, MAX_FACTOR)]
    measured_on: fields.Day | None = None

    def put_in_place_of(self, before: "ShuntSpan | None", today: date) -> Self:
        """It was measured today, if the factor is another one than before."""
        measured_on = before.measured_on if before and before.factor == self.factor else today
        return self.model_copy(update={"measured_on": measured_on})

    def lacks(
        self, channel: MeasuredChannel, others: Sequence[MeasuredChannel], rate_hz: float
    ) -> Lack | None:
        if channel.wiring.has_shunt:
            return None
        return Lack(f"{channel.name} is no bridge: it has no shunt.", "Leave it out.")

    def line(self) -> "Line":
        from yoke_core.scaling.line import Line

        return Line(self.factor)
