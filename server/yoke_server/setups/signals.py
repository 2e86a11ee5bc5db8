"""The signals of a setup that are more than a channel's scaling, as one graph's outputs.

The same nodes run in the recorder and over what is stored. Their `Measured` inputs are channels'
chain readings, in SI.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from yoke_core.errors import CoreError

from yoke_server.kinds.chain import stepped_node
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.formulas import computed_of

if TYPE_CHECKING:
    from yoke_core.signals.node import Node


@dataclass(frozen=True, slots=True)
class Signals:
    """Nodes by channel key: of channels with stateful steps, then of computed channels.

    devices : by key, the device whose samples the signal is computed with
    inputs : by key, the channels whose chain readings it needs
    faults : by key, why there is no signal
    """

    nodes: "dict[str, Node]" = field(default_factory=dict)
    devices: dict[str, str] = field(default_factory=dict)
    inputs: dict[str, frozenset[str]] = field(default_factory=dict)
    faults: dict[str, str] = field(default_factory=dict)


def signals_of(
    channels: Sequence[FrozenChannel],
    computed: Sequence[ComputedChannel],
    rates_hz: Mapping[str, float],
    opaque: frozenset[str] = frozenset(),
) -> Signals:
    """All signals of a setup; what is wrong with one does not stop the others.

    opaque : channels whose readings other signals take as they are stored, not by their chains
    """
    from yoke_core.signals.graph import SignalGraph, substituted

    found, by_key = Signals(), {c.key: c for c in channels}
    stepped = {}
    for channel in channels:
        rate_hz = _rate(channel, rates_hz)
        lacks = [step.lacks(channel, channels, rate_hz) for step in channel.steps if step.on]
        if lack := next((x for x in lacks if x), None):
            found.faults[channel.key] = lack.text
        elif node := stepped_node(channel):
            stepped[channel.key] = node

    def add(key: str, node: "Node", device: str = "") -> None:
        inputs = SignalGraph({key: node}).keys
        if unreadable := sorted(inputs & found.faults.keys() - {key}):
            found.faults[key] = found.faults[unreadable[0]]
            return
        rates = {by_key[k].device_label: _rate(by_key[k], rates_hz) for k in inputs}
        found.nodes[key], found.inputs[key] = node, inputs
        found.devices[key] = device or max(rates, key=lambda label: (rates[label], label))

    inlined = {key: node for key, node in stepped.items() if key not in opaque}
    for key, node in stepped.items():
        others = {k: v for k, v in inlined.items() if k != key}
        add(key, substituted(node, others), by_key[key].device_label)
    for one in computed_of(channels, computed):
        if one.formula is None:
            found.faults[one.channel.key] = f"{one.channel.name}: {one.error}"
        else:
            add(one.channel.key, substituted(one.formula.result.node, inlined))
    return found


def why_not(node: "Node", others: "Mapping[str, Node]", rate_hz: float) -> str:
    """Why a signal cannot be computed at a rate, beside the others; empty if it can.

    A corner may lie too high for the rate, or windows may hold too many samples.
    """
    from yoke_core.signals.graph import SignalGraph

    try:
        SignalGraph({**others, "": node}).require_memory(rate_hz)
        SignalGraph({"": node}).start(rate_hz)
    except CoreError as error:
        return str(error)
    return ""


def _rate(channel: FrozenChannel, rates_hz: Mapping[str, float]) -> float:
    return rates_hz.get(channel.device_label, 1.0)
