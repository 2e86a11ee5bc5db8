"""Strain gauges, rosettes and transducers on the amplifier's bridge."""

from yoke_server.kinds.inputs.base import InputKind, SensorType
from yoke_server.kinds.inputs.bridge.scaling import GaugeScaling
from yoke_server.kinds.inputs.bridge.sensors import BridgeTransducer, GaugeSensor, RosetteSensor
from yoke_server.kinds.inputs.bridge.wiring import BridgeWiring

INPUT = InputKind(
    wiring=BridgeWiring,
    sensors=(GaugeSensor, RosetteSensor, BridgeTransducer),
    scalings=(GaugeScaling,),
    sensor_types={
        "strain gauge": SensorType("strain", "gauge"),
        "rosette": SensorType("strain", "rosette"),
        "extensometer": SensorType("extension", "transducer"),
    },
)
