from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


PointNumber = Literal[1, 2]


class TwoPointScaling(Scaling):
    """The line through two points."""

    kind: Literal["two_points"] = "two_points"
    signal_1: fields.Signal
    value_1: fields.Quantity
    signal_2: fields.Signal
    value_2: fields.Quantity

    def with_point(self, point: "PointNumber", signal: float, value: float) -> "TwoPointScaling":
        """With one of its points, 1 or 2, measured anew."""
        return self.model_copy(update={f"signal_{point}": signal, f"value_{point}": value})

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.line import two_points

        return [two_points(self.signal_1, self.value_1, self.signal_2, self.value_2)]
