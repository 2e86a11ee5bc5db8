from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Number, Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class PolynomialScaling(Scaling):
    """Coefficients from the constant upwards, valid from one signal to another."""

    kind: Literal["polynomial"] = "polynomial"
    coefficients: Annotated[list[Number], Field(min_length=2, max_length=10)]
    lowest: fields.Signal
    highest: fields.Signal

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.curve import Polynomial

        return [Polynomial(tuple(self.coefficients), self.lowest, self.highest)]
