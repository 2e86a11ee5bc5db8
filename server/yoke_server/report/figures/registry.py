"""The pictures of each kind of result. A new kind of result adds a module and a line here."""

from collections.abc import Callable
from typing import Any

import numpy as np

from yoke_server.derive.models import Derivation
from yoke_server.report.figures.cycles import cycles_picture
from yoke_server.report.figures.rosette import rosette_picture
from yoke_server.report.figures.tension import tension_picture

PICTURES: dict[str, Callable[[dict[str, Any], Any, Any], str]] = {
    "tension": tension_picture,
    "rosette": rosette_picture,
    "cycles": cycles_picture,
}


def picture_of(kept: Derivation) -> str:
    """As SVG text, drawn from the numbers that the screen shows."""
    columns = {a.name: np.frombuffer(a.data, "<f4").astype(float) for a in kept.arrays.all()}
    parameters = kept.recipe.parameters
    return PICTURES[parameters.kind](columns, kept.details, parameters)
