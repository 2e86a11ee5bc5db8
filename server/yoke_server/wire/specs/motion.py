"""What the actuator does while a run is recorded. Pulling is positive."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field, ValidationInfo, field_validator
from pydantic_core import PydanticCustomError

from yoke_server.bench.drivers.base import Capability
from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec

Force = Annotated[float, fields.between(-1e6, 1e6)]  # N


class Motion(Spec):
    """``needs`` is what the actuator must be able to; nothing where none is needed."""

    needs: ClassVar[frozenset[Capability]] = frozenset({Capability.MOVES})

    @property
    def moves(self) -> bool:
        return bool(self.needs)


FORCE = frozenset({Capability.MOVES, Capability.CONTROLS_FORCE})


class NoMotion(Motion):
    """Nothing moves: the run only measures."""

    kind: Literal["none"] = "none"
    needs: ClassVar = frozenset()

    @property
    def sentence(self) -> str:
        return "Nothing was moved."


class PositionRamp(Motion):
    """At an even speed to the end of a travel."""

    kind: Literal["ramp"] = "ramp"
    speed_m_s: fields.PullSpeed
    travel_limit_m: fields.Travel

    @property
    def sentence(self) -> str:
        most = f"{self.travel_limit_m * 1e3:g} mm at most"
        return f"Pulled at {self.speed_m_s * 1e3:.3g} mm/s, {most}."


class ForceRamp(Motion):
    """At an even rate to a force, and back to none."""

    kind: Literal["force_ramp"] = "force_ramp"
    needs: ClassVar = FORCE
    peak_n: Force
    rate_n_s: Annotated[float, fields.between(1e-2, 1e6)]

    @property
    def sentence(self) -> str:
        return f"Loaded to {self.peak_n:g} N and back at {self.rate_n_s:g} N/s."


class ForceSine(Motion):
    """Between two forces, until something ends the run."""

    kind: Literal["force_sine"] = "force_sine"
    needs: ClassVar = FORCE
    lowest_n: Force
    highest_n: Force
    frequency_hz: Annotated[float, fields.between(1e-3, 50)]

    @field_validator("highest_n")
    @classmethod
    def _above_lowest(cls, highest: float, info: ValidationInfo) -> float:
        if highest <= info.data.get("lowest_n", highest - 1):
            raise PydanticCustomError("sine_order", "lies above the lowest force")
        return highest

    @property
    def sentence(self) -> str:
        forces = f"{self.lowest_n:g} and {self.highest_n:g} N"
        return f"Loaded between {forces} in a sine of {self.frequency_hz:g} Hz."


MotionSpec = Annotated[NoMotion | PositionRamp | ForceRamp | ForceSine, Field(discriminator="kind")]
