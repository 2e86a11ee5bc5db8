"""Functions over time: windows, rate, integral, peak and delay."""

from yoke_core.formula.dimension import TIME
from yoke_core.formula.functions.base import Function, Given
from yoke_core.signals.node import Node
from yoke_core.signals.nodes.change import Delay, Integral, PeakHold, Rate
from yoke_core.signals.nodes.windows import Window


def _window(name: str, summary: str, keeps_temperature: bool) -> Function:
    def node(given: Given) -> Node:
        return Window(name, given.options["last"], given.nodes)

    usage = f"{name}(signal, last 2 s)"
    return Function(
        name, usage, summary, (1, 1), node, needs=("last",), keeps_temperature=keeps_temperature
    )


FUNCTIONS = (
    _window("mean", "Mean over the last seconds", True),
    _window("rms", "Root mean square over the last seconds", False),
    _window("deviation", "Standard deviation over the last seconds", False),
    _window("lowest", "Lowest over the last seconds", True),
    _window("highest", "Highest over the last seconds", True),
    Function(
        "rate",
        "rate(signal, over 1 s)",
        "Change per second, over the last seconds",
        (1, 1),
        lambda given: Rate(given.options["over"], given.nodes),
        needs=("over",),
        dimension=lambda given: given.dimensions[0] / TIME,
        unit=lambda unit: f"{unit}/s" if unit else "1/s",
    ),
    Function(
        "integral",
        "integral(signal)",
        "Area under it since the start",
        (1, 1),
        lambda given: Integral(given.nodes),
        dimension=lambda given: given.dimensions[0] * TIME,
        unit=lambda unit: f"{unit}·s" if unit else "s",
    ),
    Function(
        "peak",
        "peak(signal)",
        "The highest since the start",
        (1, 1),
        lambda given: PeakHold(given.nodes),
        keeps_temperature=True,
    ),
    Function(
        "delay",
        "delay(signal, by 20 ms)",
        "The signal as it was a while ago",
        (1, 1),
        lambda given: Delay(given.options["by"], given.nodes),
        needs=("by",),
        keeps_temperature=True,
    ),
)
