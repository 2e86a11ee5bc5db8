"""The protocol of scalings. Signals are in SI: V/V of bridges, V, ohm, Hz."""

from typing import TYPE_CHECKING, Annotated, ClassVar, NamedTuple, Self

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from collections.abc import Sequence

    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring

Number = Annotated[float, fields.between(-1e12, 1e12)]


class SignalCurve(NamedTuple):
    """What a calibration found: coefficients from the constant up (SI), from one signal to
    another."""

    coefficients: "Sequence[float]"
    start: float
    end: float


class Scaling(Spec):
    """How a signal becomes a quantity."""

    takes_zero: ClassVar[bool] = True  # whether what it reads at rest is to be taken off

    @classmethod
    def gives(cls, quantity: str) -> bool:
        """Whether people would choose it for a channel of that quantity."""
        return True

    def steps(self, wiring: "Wiring") -> "list[Step]":
        """The steps from the signal to the quantity, both in SI; raises `ScalingError`."""
        raise NotImplementedError

    def without_leads(self) -> Self | None:
        """The same without what it does about leads; None where it does nothing about them."""
        return None

    def through(self, curve: SignalCurve) -> "Scaling | None":
        """The same kind of scaling by a calibrated curve; None where it cannot follow that."""
        return None

    def doubt(self) -> str:
        """Why one of its figures is out of character, with the likely one; empty where none is."""
        return ""

    @property
    def factor_of_gauge(self) -> float | None:
        """The gauge factor, of a strain gauge's scaling."""
        return None

    def with_unit(self, unit: str) -> Self:
        """The same where the values that it takes are said to be in a unit; only of scalings
        that take values as they come is it another one."""
        return self

    @property
    def rest_signal(self) -> float | None:
        """About where the signal lies at rest, SI, where the scaling knows it."""
        return None

    def reach(self, of_input: float) -> float:
        """How far from zero the signal counts, of what the input takes, SI."""
        return of_input
