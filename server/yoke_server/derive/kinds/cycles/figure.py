"""Figure of cycles by range and mean, with the S-N curve."""

from typing import Any

import numpy as np
from matplotlib.axes import Axes

from yoke_server.common.units import unit
from yoke_server.derive.figures.style import CURVES, INK, name_axes, new_figure, svg_of
from yoke_server.derive.kinds.base import Columns


def figure(columns: Columns, details: Any, parameters: Any) -> str:
    """The matrix row by row in SI (derive/kinds/cycles/compute.py)."""
    drawn = new_figure(2.9)
    matrix, life = drawn.subplots(1, 2, width_ratios=[1.1, 1])
    counts = np.array(details["counts"])
    _matrix(matrix, counts, details)
    ranges = (np.arange(len(counts)) + 0.5) * details["width"]
    _life(life, ranges * details["stress_by_unit"] / 2, counts.sum(axis=1), parameters)
    total = counts.sum()
    words = f"{total:.1f} cycles of {details['channel']} by range and mean, {details['unit']}"
    return svg_of(drawn, words)


def _matrix(axes: Axes, counts: Any, details: Any) -> None:
    factor = unit(details["unit"]).factor
    width = details["width"] / factor
    means = details["lowest_mean"] / factor + width * (np.arange(counts.shape[1] + 1) - 0.5)
    ranges = width * np.arange(counts.shape[0] + 1)
    shown = np.ma.masked_equal(np.log10(np.where(counts > 0, counts + 1, 1)), 0)
    axes.pcolormesh(means, ranges, shown, cmap="GnBu", edgecolor="#F3F0E8", linewidth=0.3)
    for i, j in zip(*np.nonzero(counts), strict=True):
        if counts.size <= 400:
            middle = (means[j] + means[j + 1]) / 2, (ranges[i] + ranges[i + 1]) / 2
            axes.annotate(f"{counts[i, j]:g}", middle, ha="center", va="center", fontsize=5.5)
    axes.grid(visible=False)
    name_axes(axes, f"Mean, {details['unit']}", f"Range of {details['channel']}, {details['unit']}")


def _life(axes: Axes, amplitudes: Any, counts: Any, parameters: Any) -> None:
    cycles = np.logspace(0, 9, 50)
    strength, exponent = parameters.curve_strength_pa, parameters.curve_exponent
    axes.loglog(cycles, strength * (2 * cycles) ** exponent / 1e6, color=INK, linewidth=1)
    seen = (counts > 0) & (amplitudes > 0)
    axes.loglog(counts[seen], amplitudes[seen] / 1e6, "o", color=CURVES[0], markersize=3.5)
    axes.set_ylim(bottom=1)
    name_axes(axes, "Cycles", "Stress amplitude, MPa")
