from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class LoopSpanScaling(Scaling):
    """What a transmitter means by 4 and by 20 mA."""

    kind: Literal["loop_span"] = "loop_span"
    at_4_ma: fields.Quantity
    at_20_ma: fields.Quantity

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.loop import loop_span

        return [loop_span(self.at_4_ma, self.at_20_ma)]
