"""Numbers that come ready made, as out of a file."""

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.common.http.number_input import InvalidInput
from yoke_server.common.units import UNITS, factor, to_si
from yoke_server.common.units import unit as unit_of
from yoke_server.kinds.inputs.base import InputKind, Sensor, Wiring
from yoke_server.kinds.inputs.conditioning import FixedConditioning
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.base import Number, Scaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import Field

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step


def _read_unit(text: str, quantity: str) -> float:
    """A unit of the quantity, in which the instrument shows it."""
    plain = [u for u in UNITS[quantity] if not to_si(0.0, u)]
    if text.strip() not in plain:
        raise InvalidInput(f"it shows {quantity} in “{text[:20]}”: one of {', '.join(plain)}")
    return factor(text.strip())


def _show_unit(value: Any, quantity: str) -> str:
    return next((u for u in UNITS[quantity] if factor(u) == value), f"{value:.10g}")


class AsReadScaling(Scaling):
    """Numbers that are the quantity already, in some unit: SI = number * factor + offset."""

    kind: Literal["as_read"] = "as_read"
    factor: Annotated[float, fields.between(1e-12, 1e12)] = 1.0
    offset: Number = 0.0

    def steps(self, wiring: Wiring) -> "list[Step]":
        from yoke_core.scaling.line import Line

        return [Line(self.factor, self.offset)]

    def with_unit(self, unit: str) -> "AsReadScaling":
        found = unit_of(unit)
        return self.model_copy(update={"factor": found.factor, "offset": found.offset})


class DigitalWiring(Wiring):
    """Numbers that come ready made, as out of a file."""

    signal: ClassVar = "value"
    scalings: ClassVar = (AsReadScaling, *BY_POINTS)

    kind: Literal["digital"] = "digital"

    @property
    def connection(self) -> str:
        return "numbers, ready made"


class DigitalOutput(Sensor):
    """An instrument that gives numbers ready made; ``factor`` is SI for each one of them."""

    wiring: ClassVar = DigitalWiring
    connection: ClassVar = "Numbers"
    text_fields: ClassVar = (Field("shown_in", "Shows", "factor", _read_unit, _show_unit),)
    serves: ClassVar = ("load cell", "displacement")

    kind: Literal["digital"] = "digital"
    factor: Annotated[float, fields.between(1e-12, 1e12)] = 1.0

    def channel(self) -> dict[str, Spec]:
        scaling = AsReadScaling(factor=self.factor)
        return {"wiring": DigitalWiring(), "conditioning": FixedConditioning(), "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return {}


INPUT = InputKind(wiring=DigitalWiring, sensors=(DigitalOutput,), scalings=(AsReadScaling,))
