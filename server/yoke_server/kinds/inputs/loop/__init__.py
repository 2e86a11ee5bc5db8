"""A 4-20 mA loop."""

from yoke_server.kinds.inputs.base import InputKind
from yoke_server.kinds.inputs.loop.scaling import LoopSpanScaling
from yoke_server.kinds.inputs.loop.sensor import LoopTransmitter
from yoke_server.kinds.inputs.loop.wiring import LoopWiring

INPUT = InputKind(wiring=LoopWiring, sensors=(LoopTransmitter,), scalings=(LoopSpanScaling,))
