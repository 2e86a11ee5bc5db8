"""The whole stress-strain curve, and the construction that its results come from."""

from typing import Any

import numpy as np
from matplotlib.axes import Axes

from yoke_server.derive.figures.style import CURVES, INK, name_axes, new_figure, svg_of
from yoke_server.derive.kinds.base import Columns


def figure(columns: Columns, details: Any, parameters: Any) -> str:
    """Columns in SI, strain with the toe taken off (derive/kinds/tension/compute.py)."""
    drawn = new_figure(3.5)
    whole, near = drawn.subplots(1, 2, width_ratios=[1, 1.2])
    end = details["whole_points"]
    strain, stress = columns["strain"] * 100, columns["stress"] / 1e6
    _whole(whole, strain[:end], stress[:end], details)
    _near(near, strain[end:], stress[end:], details, parameters)
    for axes in (whole, near):
        name_axes(axes, "Strain, %", "Stress, MPa")
        axes.set_ylim(bottom=0)
    peak = details["strength"]
    highest = f"{peak['stress'] / 1e6:.1f} MPa at {peak['strain'] * 100:.2f} %"
    words = f"Stress over strain, up to {highest}"
    return svg_of(drawn, words)


def _point(point: Any) -> tuple[float, float]:
    return point["strain"] * 100, point["stress"] / 1e6


def _whole(axes: Axes, strain: Any, stress: Any, details: Any) -> None:
    axes.plot(strain, stress, color=CURVES[0], linewidth=1.1)
    x, y = _point(details["strength"])
    axes.plot([x], [y], "o", color=INK, markersize=3.5)
    axes.annotate(
        f"Rm {y:.1f}",
        (x, y),
        xytext=(0, 7),
        textcoords="offset points",
        ha="center",
        fontweight="bold",
    )
    if details["fracture"]:
        end_x, end_y = _point(details["fracture"])
        axes.plot([end_x], [end_y], "x", color=INK, markersize=5)
    axes.set_ylim(top=y * 1.14)
    axes.set_xlim(left=0)


def _near(axes: Axes, strain: Any, stress: Any, details: Any, parameters: Any) -> None:
    reach, offset = 5 * parameters.offset * 100, parameters.offset * 100
    low, high = parameters.fit_lower_pa / 1e6, parameters.fit_upper_pa / 1e6
    top, slope = _point(details["strength"])[1], details["modulus"]["slope"] / 1e8  # MPa per %
    axes.plot(strain, stress, color=CURVES[0], linewidth=1.1)
    for begin in (0.0, offset):
        axes.plot([begin, begin + top * 1.02 / slope], [0, top * 1.02], color=INK, linewidth=0.6)
    ends = np.array([low, high])
    axes.plot(ends / slope, ends, "o", markerfacecolor="white", markeredgecolor=INK, markersize=4)
    axes.axhspan(low, high, color=CURVES[0], alpha=0.07)
    axes.annotate(f"E {slope / 10:.1f} GPa", (0.45 * reach, 0.42 * top))
    if details["proof"]:
        x, y = _point(details["proof"])
        axes.plot([x], [y], "o", color=INK, markersize=4)
        axes.annotate(
            f"Rp{offset:g} {y:.1f} MPa",
            (x, y),
            xytext=(6, -12),
            textcoords="offset points",
            fontweight="bold",
        )
    axes.set_xlim(0, reach)
    axes.set_ylim(top=top * 1.14)
