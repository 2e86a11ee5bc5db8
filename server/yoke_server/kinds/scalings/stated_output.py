from typing import TYPE_CHECKING, Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class StatedOutputScaling(Scaling):
    """An output in volts at an excitation, as a data sheet states it: 10 mV at 5 V for its
    capacity, or so many microvolts a pound."""

    kind: Literal["stated_output"] = "stated_output"
    output_v: Annotated[float, fields.between(-10, 10)]
    excitation_v: Annotated[float, fields.between(0.1, 100)]
    value: fields.Capacity

    @classmethod
    def gives(cls, quantity: str) -> bool:
        return quantity != "strain"

    @property
    def output(self) -> float:
        """V/V for the value."""
        return self.output_v / self.excitation_v

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.line import rated_output

        return [rated_output(self.output, self.value)]

    def doubt(self) -> str:
        """No bridge of metal gives more than some millivolts a volt."""
        if abs(self.output) <= MAX_OUTPUT:
            return ""
        return (
            f"{self.output_v * 1e3:g} mV at {self.excitation_v:g} V is "
            f"{self.output * 1e3:g} mV/V, more than a bridge gives: mV for V?"
        )


MAX_OUTPUT = 20e-3  # V/V
