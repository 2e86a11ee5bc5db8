from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class TwoPointScaling(Scaling):
    """The line through two points."""

    kind: Literal["two_points"] = "two_points"
    signal_1: fields.Signal
    value_1: fields.Quantity
    signal_2: fields.Signal
    value_2: fields.Quantity

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.line import two_points

        return [two_points(self.signal_1, self.value_1, self.signal_2, self.value_2)]
