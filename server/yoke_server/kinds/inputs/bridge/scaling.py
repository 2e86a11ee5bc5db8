from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class GaugeScaling(Scaling):
    """Strain gauges; Poisson's ratio of the part counts where grids lie across."""

    kind: Literal["gauge"] = "gauge"
    gauge_factor: fields.GaugeFactor
    poisson_ratio: fields.Poisson = 0.3

    @property
    def factor_of_gauge(self) -> float | None:
        return self.gauge_factor

    @classmethod
    def gives(cls, quantity: str) -> bool:
        return quantity == "strain"

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.bridge.circuit import BridgeStrain

        from yoke_server.kinds.inputs.bridge.wiring import BridgeWiring

        assert isinstance(wiring, BridgeWiring)  # no other wiring has it among its scalings
        factor, poisson = self.gauge_factor, self.poisson_ratio
        return [BridgeStrain(factor, wiring.circuit, poisson, wiring.resting)]

    def reach(self, of_input: float) -> float:
        return of_input / 4
