from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.loads.base import MAX_LOADS, Loads, Relative
from yoke_server.kinds.measured import MeasuredChannel

Mass = Annotated[float, fields.between(1e-4, 1e6)]  # kg
STANDARD_GRAVITY = 9.80665


class Weights(Loads):
    """Weights that hang on a force sensor, or on the arm of a torque sensor.

    masses : that hang at each load, kg, conventional
    gravity : where they hang, m/s²
    density : of the weights, kg/m³; 8000 for the mass that certificates state
    arm_m : of a torque sensor, from its axis to where they hang; 0 of a force sensor
    """

    kind: Literal["weights"] = "weights"
    masses: Annotated[list[Mass], Field(min_length=1, max_length=MAX_LOADS)]
    gravity: Annotated[float, fields.between(9.7, 9.9)] = STANDARD_GRAVITY
    density: Annotated[float, fields.between(500, 23_000)] = 8000.0
    arm_m: Annotated[float, fields.between(0, 10)] = 0.0
    relative: Relative = 1e-4

    @property
    def nominal(self) -> list[float]:
        from yoke_core.calibration.weights import force_of_weight

        forces = [force_of_weight(m, self.gravity, self.density) for m in self.masses]
        return [f * (self.arm_m or 1.0) for f in forces]

    @property
    def uncertainty(self) -> float:
        return self.relative

    @property
    def sentence(self) -> str:
        arm = f" on an arm of {self.arm_m:g} m" if self.arm_m else ""
        return f"Against weights{arm}, local gravity {self.gravity:.5f} m/s², in air of 1.2 kg/m³."

    def lacks(self, channel: MeasuredChannel, others: Sequence[MeasuredChannel]) -> Lack | None:
        if channel.quantity == "torque" and not self.arm_m:
            return Lack("Weights need an arm to make a torque.", "Give its length.")
        if channel.quantity == "force" and self.arm_m:
            said = f"{channel.name} measures force: weights hang on it without an arm."
            return Lack(said, "Leave the arm's length at 0.")
        if channel.quantity not in ("force", "torque"):
            said = f"{channel.name} measures {channel.quantity}, which no weights make."
            return Lack(said, "Calibrate it against known values or a reference.")
        return None
