"""A resistance thermometer."""

from yoke_server.kinds.inputs.base import InputKind, SensorType
from yoke_server.kinds.inputs.thermometer.scaling import PlatinumScaling
from yoke_server.kinds.inputs.thermometer.sensor import PlatinumSensor
from yoke_server.kinds.inputs.thermometer.wiring import ThermometerWiring

INPUT = InputKind(
    wiring=ThermometerWiring,
    sensors=(PlatinumSensor,),
    scalings=(PlatinumScaling,),
    sensor_types={"temperature": SensorType("temperature", "platinum")},
)
