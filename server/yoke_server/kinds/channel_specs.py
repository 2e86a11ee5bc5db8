"""What a channel's columns hold: the unions of all kinds of input and scaling."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.inputs import INPUTS
from yoke_server.kinds.inputs.base import Sensor, SensorType, Wiring
from yoke_server.kinds.inputs.conditioning import (
    BridgeConditioning,
    Conditioning,
    FixedConditioning,
)
from yoke_server.kinds.scalings import SCALINGS
from yoke_server.kinds.scalings.base import Scaling
from yoke_server.kinds.union import by_kind, union_of

SENSORS: dict[str, type[Sensor]] = by_kind([s for i in INPUTS for s in i.sensors])

if TYPE_CHECKING:
    WiringSpec = Wiring
    ScalingSpec = Scaling
    SensorSpec = Sensor
    ConditioningSpec = Conditioning
else:
    WiringSpec = union_of([i.wiring for i in INPUTS])
    ScalingSpec = union_of([*(s for i in INPUTS for s in i.scalings), *SCALINGS])
    SensorSpec = union_of(list(SENSORS.values()))
    ConditioningSpec = Annotated[
        BridgeConditioning | FixedConditioning, Field(discriminator="kind")
    ]

# What people call a sensor that several kinds of input may take.
_COMMON_TYPES = {
    "load cell": SensorType("force", "transducer"),
    "torque sensor": SensorType("torque", "transducer"),
    "displacement": SensorType("displacement", "loop"),
    "pressure": SensorType("pressure", "loop"),
    "angle": SensorType("angle", "voltage"),
    "acceleration": SensorType("acceleration", "voltage"),
}
SENSOR_TYPES: dict[str, SensorType] = _COMMON_TYPES | {
    name: found for i in INPUTS for name, found in i.sensor_types.items()
}


def connections_of(sensor_type: str) -> list[str]:
    """Kinds of spec that a sensor of a type may have, the usual one first."""
    usual = SENSOR_TYPES[sensor_type].usual
    others = [kind for kind, s in SENSORS.items() if sensor_type in s.serves and kind != usual]
    return [usual, *others]


def kinds_giving(signal: str) -> list[str]:
    """Kinds of specs whose sensors an input for that signal measures."""
    return [kind for kind, sensor in SENSORS.items() if sensor.wiring.signal == signal]
