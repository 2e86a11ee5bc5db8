"""The style of report figures: fonts, colours, axes."""

import io
from functools import cache
from pathlib import Path

import matplotlib as mpl

mpl.use("svg")

from matplotlib import font_manager
from matplotlib.axes import Axes
from matplotlib.figure import Figure

FONTS = Path(__file__).parent / "fonts"
INK, SOFT, GRID, WELL = "#1D282C", "#566266", "#E9E4D8", "#EAE5D9"
CURVES = (
    "#0E6470",
    "#B4470F",
    "#7B3F8F",
    "#62710F",
    "#2D5DB0",
    "#B83A70",
    "#7A5131",
    "#4B5154",
)
WIDTH = 6.7  # inches, what a page has room for


@cache
def _faces() -> None:
    for file in FONTS.glob("*.ttf"):
        font_manager.fontManager.addfont(str(file))
    mpl.rcParams.update(
        {
            # Archivo has no Greek: what it lacks comes from the second face.
            "font.family": ["Archivo", "DejaVu Sans"],
            "font.size": 8,
            "svg.hashsalt": "yoke",
            "axes.edgecolor": INK,
            "axes.labelcolor": INK,
            "xtick.color": INK,
            "ytick.color": INK,
            "text.color": INK,
            "axes.grid": True,
            "grid.color": GRID,
            "text.parse_math": False,  # names are text, dollar signs and all
            "axes.spines.top": False,
            "axes.spines.right": False,
            "axes.linewidth": 0.7,
        }
    )


def new_figure(height: float) -> Figure:
    """As wide as the page, ``height`` in inches."""
    _faces()
    return Figure(figsize=(WIDTH, height), layout="constrained")


def name_axes(axes: Axes, x: str, y: str) -> None:
    axes.set_xlabel(x, loc="right")
    axes.set_ylabel(y, loc="top")


def svg_of(figure: Figure, words: str) -> str:
    """The figure as SVG, the same text for the same numbers; in words for who does not see it."""
    out = io.StringIO()
    figure.savefig(out, format="svg", metadata={"Date": None, "Title": words})
    text = out.getvalue()
    return text[text.index("<svg") :]
