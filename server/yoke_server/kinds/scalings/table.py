from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling
from yoke_server.kinds.spec import Part

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class TablePoint(Part):
    signal: fields.Signal
    value: fields.Quantity


class TableScaling(Scaling):
    """Straight lines between points of rising signal."""

    kind: Literal["table"] = "table"
    points: Annotated[list[TablePoint], Field(min_length=2, max_length=200)]

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.curve import Table

        return [Table(tuple(p.signal for p in self.points), tuple(p.value for p in self.points))]
