"""The stress-strain figure of a report, drawn from the numbers that the screen shows."""

import io
from functools import cache
from pathlib import Path
from typing import Any

import matplotlib as mpl

mpl.use("svg")

import numpy as np
from matplotlib import font_manager
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from yoke_core.tension.results import TensionResult
from yoke_core.thin import thin_curve

from yoke_server.derive.kinds.tension import Curve

FONTS = Path(__file__).with_name("fonts")
INK, GRID, CURVE = "#1D282C", "#E9E4D8", "#0E6470"
WIDTH, HEIGHT = 6.7, 3.5  # inches


@cache
def _fonts() -> None:
    for file in FONTS.glob("*.ttf"):
        font_manager.fontManager.addfont(str(file))
    mpl.rcParams.update(
        {
            "font.family": "Archivo", "font.size": 8, "svg.hashsalt": "yoke",
            "axes.edgecolor": INK, "axes.labelcolor": INK, "xtick.color": INK,
            "ytick.color": INK, "text.color": INK, "axes.grid": True, "grid.color": GRID,
            "axes.spines.top": False, "axes.spines.right": False, "axes.linewidth": 0.7,
        }
    )  # fmt: skip


def stress_strain_svg(curve: Curve, recipe: Any) -> str:
    """The whole curve at the left, the construction at the right, as SVG text."""
    _fonts()
    figure = Figure(figsize=(WIDTH, HEIGHT), layout="constrained")
    whole, near = figure.subplots(1, 2, width_ratios=[1, 1.2])
    result = curve.result
    strain, stress = (curve.strain - result.modulus.origin) * 100, curve.stress / 1e6
    _whole(whole, strain, stress, result)
    _near(near, strain, stress, result, recipe)
    for axes in (whole, near):
        axes.set_xlabel("Strain, %", loc="right")
        axes.set_ylabel("Stress, MPa", loc="top")
        axes.set_ylim(bottom=0)
    out = io.StringIO()
    figure.savefig(out, format="svg", metadata={"Date": None})
    text = out.getvalue()
    return text[text.index("<svg") :]


def _draw(axes: Axes, strain: "np.ndarray", stress: "np.ndarray") -> None:
    keep = thin_curve(strain, stress, 1200, 800)
    axes.plot(strain[keep], stress[keep], color=CURVE, linewidth=1.1)


def _whole(axes: Axes, strain: Any, stress: Any, result: TensionResult) -> None:
    end = len(strain) if result.fracture is None else result.fracture.index + 1
    _draw(axes, strain[:end], stress[:end])
    peak = result.strength
    axes.plot([peak.strain * 100], [peak.stress / 1e6], "o", color=INK, markersize=3.5)
    axes.annotate(
        f"Rm {peak.stress / 1e6:.1f}", (peak.strain * 100, peak.stress / 1e6),
        xytext=(0, 7), textcoords="offset points", ha="center", fontweight="bold",
    )  # fmt: skip
    if result.fracture:
        x, y = result.fracture.strain * 100, result.fracture.stress / 1e6
        axes.plot([x], [y], "x", color=INK, markersize=5)
    axes.set_ylim(top=peak.stress / 1e6 * 1.14)
    axes.set_xlim(left=0)


def _near(axes: Axes, strain: Any, stress: Any, result: TensionResult, recipe: Any) -> None:
    reach = 5 * recipe.offset * 100
    end = int(np.argmax(strain > reach)) or len(strain)
    _draw(axes, strain[:end], stress[:end])
    top = result.strength.stress / 1e6
    slope = result.modulus.slope / 1e8  # MPa per %
    for offset in (0.0, recipe.offset * 100):
        line_top = top * 1.02
        axes.plot([offset, offset + line_top / slope], [0, line_top], color=INK, linewidth=0.6)
    for value in (recipe.fit_lower_pa / 1e6, recipe.fit_upper_pa / 1e6):
        axes.plot(
            [value / slope],
            [value],
            "o",
            markerfacecolor="white",
            markeredgecolor=INK,
            markersize=4,
        )
    axes.axhspan(recipe.fit_lower_pa / 1e6, recipe.fit_upper_pa / 1e6, color=CURVE, alpha=0.07)
    axes.annotate(f"E {result.modulus.slope / 1e9:.1f} GPa", (0.45 * reach, 0.42 * top))
    if result.proof:
        x, y = result.proof.strain * 100, result.proof.stress / 1e6
        axes.plot([x], [y], "o", color=INK, markersize=4)
        axes.annotate(
            f"Rp{recipe.offset * 100:g} {y:.1f} MPa", (x, y), xytext=(6, -12),
            textcoords="offset points", fontweight="bold",
        )  # fmt: skip
    axes.set_xlim(0, reach)
    axes.set_ylim(top=top * 1.14)
