from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling, SignalCurve

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


USUAL = (0.2e-3, 6e-3)  # V/V


class RatedOutputScaling(Scaling):
    """A certificate's output at capacity; of either sign."""

    kind: Literal["rated_output"] = "rated_output"
    rated_output: fields.RatedOutput
    capacity: fields.Capacity

    @classmethod
    def gives(cls, quantity: str) -> bool:
        return quantity != "strain"

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.line import rated_output

        return [rated_output(self.rated_output, self.capacity)]

    def through(self, curve: SignalCurve) -> "RatedOutputScaling | None":
        """At the capacity that it has; of a line through no signal only."""
        if len(curve.coefficients) != 2 or curve.coefficients[0]:
            return None
        rated_output = self.capacity / curve.coefficients[1]
        return RatedOutputScaling(rated_output=rated_output, capacity=self.capacity)

    def doubt(self) -> str:
        """Load cells and torque sensors give 0.2 to 6 mV/V."""
        from yoke_core.scaling.likely import likely_figure

        meant = likely_figure(self.rated_output, *USUAL)
        if meant is None:
            return ""
        given = f"{self.rated_output * 1e3:g} mV/V"
        return f"A rated output of {given} is unlikely; {meant * 1e3:g} mV/V?"

    def reach(self, of_input: float) -> float:
        return min(of_input, abs(self.rated_output))
