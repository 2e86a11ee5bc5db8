"""Figure of the stretch that the statistics are of."""

from typing import Any

from yoke_server.common.units import unit
from yoke_server.derive.figures.style import CURVES, name_axes, new_figure, svg_of
from yoke_server.derive.kinds.base import Columns


def figure(columns: Columns, details: Any, parameters: Any) -> str:
    drawn = new_figure(2.2)
    axes = drawn.subplots()
    of = unit(details["unit"])
    low, high = (columns[name] / of.factor for name in ("lowest", "highest"))
    axes.fill_between(columns["time"], low, high, color=CURVES[0], linewidth=0.8)
    name_axes(axes, "Time, s", f"{details['channel']}, {details['unit']}")
    span = f"{details['from_s']:.4g} to {details['to_s']:.4g} s"
    return svg_of(drawn, f"{details['channel']} from {span}")
