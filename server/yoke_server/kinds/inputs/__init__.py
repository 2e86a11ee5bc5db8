"""Kinds of input, one folder each; a new one is one line in `INPUTS`."""

from yoke_server.kinds.inputs import (
    bridge,
    digital,
    inductive_half,
    loop,
    potentiometer,
    pulses,
    thermometer,
    voltage,
)
from yoke_server.kinds.inputs.base import InputKind

INPUTS: tuple[InputKind, ...] = (
    bridge.INPUT,
    potentiometer.INPUT,
    inductive_half.INPUT,
    loop.INPUT,
    voltage.INPUT,
    thermometer.INPUT,
    pulses.INPUT,
    digital.INPUT,
)
