from typing import TYPE_CHECKING, Literal, Self

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


METAL = (1.6, 4.5)


class GaugeScaling(Scaling):
    """Strain gauges; Poisson's ratio of the part counts where grids lie across.

    with_leads : what the cores of the cable take from the signal is put back
    """

    kind: Literal["gauge"] = "gauge"
    gauge_factor: fields.GaugeFactor
    poisson_ratio: fields.Poisson = 0.3
    with_leads: bool = True

    @property
    def factor_of_gauge(self) -> float | None:
        return self.gauge_factor

    def doubt(self) -> str:
        """Metal grids have a factor of 1.6 to 4.5; 205 is more likely one without its point than
        a semiconductor's."""
        from yoke_core.scaling.likely import likely_figure

        meant = likely_figure(self.gauge_factor, *METAL)
        return f"A gauge factor of {self.gauge_factor:g} is unlikely; {meant:g}?" if meant else ""

    @classmethod
    def gives(cls, quantity: str) -> bool:
        return quantity == "strain"

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.bridge.circuit import BridgeStrain

        from yoke_server.kinds.inputs.bridge.wiring import BridgeWiring

        assert isinstance(wiring, BridgeWiring)  # no other wiring has it among its scalings
        factor, poisson = self.gauge_factor, self.poisson_ratio
        rest = wiring.resting(with_leads=self.with_leads)
        return [BridgeStrain(factor, wiring.circuit, poisson, rest)]

    def without_leads(self) -> Self:
        return self.model_copy(update={"with_leads": False})

    def reach(self, of_input: float) -> float:
        return of_input / 4
