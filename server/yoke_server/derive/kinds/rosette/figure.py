"""Principal strains over the run, and Mohr's circle at the highest load."""

import math
from typing import Any

import numpy as np
from matplotlib.axes import Axes

from yoke_server.derive.figures.style import CURVES, INK, SOFT, WELL, name_axes, new_figure, svg_of
from yoke_server.derive.kinds.base import Columns

MICRO = 1e6


def figure(columns: Columns, details: Any, parameters: Any) -> str:
    """Columns and state in SI (derive/kinds/rosette/compute.py)."""
    drawn = new_figure(2.9)
    course, circle = drawn.subplots(1, 2, width_ratios=[1.35, 1])
    state, at = details["highest"], details["time_s"]
    nearest = int(np.argmin(np.abs(columns["time"] - at)))
    for name, colour, column in (("ε1", CURVES[3], "strain_1"), ("ε2", CURVES[4], "strain_2")):
        course.plot(columns["time"], columns[column] * MICRO, color=colour, linewidth=0.9)
        course.annotate(
            name,
            (at, columns[column][nearest] * MICRO),
            xytext=(5, 0),
            textcoords="offset points",
            color=colour,
            fontweight="bold",
            va="center",
        )
    course.axvline(at, color=INK, linewidth=0.6)
    name_axes(course, "Time, s", "Principal strain, µm/m")
    angles = [math.radians(a - parameters.angles_deg[0]) for a in parameters.angles_deg]
    grids = [float(columns[f"grid {x}"][nearest]) * MICRO for x in "abc"]
    _circle(circle, state, grids, angles)
    words = (
        f"Mohr's circle of strain at {at:.2f} s: first principal strain "
        f"{state['strain_1'] * MICRO:.0f}, second {state['strain_2'] * MICRO:.0f} µm/m"
    )
    return svg_of(drawn, words)


def _circle(axes: Axes, state: Any, grids: list[float], angles: list[float]) -> None:
    first, second = state["strain_1"] * MICRO, state["strain_2"] * MICRO
    middle, radius = (first + second) / 2, (first - second) / 2
    turn = np.linspace(0, 2 * math.pi, 181)
    axes.fill(middle + radius * np.cos(turn), radius * np.sin(turn), color=WELL, alpha=0.6)
    axes.plot(middle + radius * np.cos(turn), radius * np.sin(turn), color=INK, linewidth=1)
    axes.axhline(0, color=INK, linewidth=0.6)
    drawn = zip("abc", grids, angles, CURVES, strict=False) if state["angle"] is not None else ()
    for name, strain, angle, colour in drawn:
        at = 2 * (state["angle"] - angle)
        x, y = middle + radius * math.cos(at), radius * math.sin(at)
        axes.plot([middle, x], [0, y], color=colour, linewidth=0.9)
        axes.annotate(
            f"{name} {strain:.0f}",
            (x, y),
            xytext=(4 if x > middle else -4, 0),
            textcoords="offset points",
            ha="left" if x > middle else "right",
            color=colour,
        )
    for name, x, side in (("ε1", first, 5), ("ε2", second, -5)):
        axes.plot([x], [0], "o", color=INK, markersize=3.5)
        axes.annotate(
            f"{name} {x:.0f}",
            (x, 0),
            xytext=(side, -9),
            textcoords="offset points",
            ha="left" if side > 0 else "right",
            fontweight="bold",
        )
    axes.set_aspect("equal")
    axes.invert_yaxis()  # shear downwards, so that angles turn as on the part
    axes.margins(0.32)
    axes.tick_params(labelleft=False, colors=SOFT)
    name_axes(axes, "Strain, µm/m", "½ shear, down")
