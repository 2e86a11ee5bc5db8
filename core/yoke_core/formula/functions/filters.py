"""Filters as functions."""

from yoke_core.formula.functions.base import Function, Given
from yoke_core.signals.filter_design import Band, Family, FilterDesign, MainsDesign
from yoke_core.signals.node import Node
from yoke_core.signals.nodes.filters import Filter

USUAL_ORDER = 4
SHAPE = ("order", "bessel")


def _filter(name: str, band: Band, usage: str, summary: str, corners: tuple[str, ...]) -> Function:
    def node(given: Given) -> Node:
        family = Family.BESSEL if "bessel" in given.options else Family.BUTTERWORTH
        order = given.options.get("order", USUAL_ORDER)
        at = tuple(given.options[corner] for corner in corners)
        return Filter(FilterDesign(band, at, _whole(order), family), given.nodes)

    keeps = band in (Band.LOW, Band.STOP)
    return Function(
        name, usage, summary, (1, 1), node, needs=corners, may=SHAPE, keeps_temperature=keeps
    )


def _whole(order: float) -> int:
    """0 for what is no whole number: no filter has that order."""
    return int(order) if order == int(order) else 0


FUNCTIONS = (
    _filter(
        "lowpass", Band.LOW, "lowpass(signal, to 20 Hz, order 4)", "What is slower passes", ("to",)
    ),
    _filter(
        "highpass",
        Band.HIGH,
        "highpass(signal, from 1 Hz, order 4)",
        "What is faster passes",
        ("from",),
    ),
    _filter(
        "bandpass",
        Band.BETWEEN,
        "bandpass(signal, from 1 Hz, to 20 Hz)",
        "What lies between passes",
        ("from", "to"),
    ),
    _filter(
        "bandstop",
        Band.STOP,
        "bandstop(signal, from 45 Hz, to 55 Hz)",
        "What lies between is taken out",
        ("from", "to"),
    ),
    Function(
        "mains",
        "mains(signal, at 50 Hz)",
        "Mains hum and its multiples are taken out",
        (1, 1),
        lambda given: Filter(MainsDesign(given.options["at"]), given.nodes),
        needs=("at",),
        keeps_temperature=True,
    ),
)
