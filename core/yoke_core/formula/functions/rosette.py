"""Functions of a rosette."""

from collections.abc import Callable

from yoke_core.formula.dimension import NONE, STRESS, Dimension
from yoke_core.formula.functions.base import Function, Given
from yoke_core.rosette.state import Isotropic, Rosette
from yoke_core.signals.node import Node
from yoke_core.signals.nodes.rosette import RosetteQuantity

STEEL = Isotropic(205e9, 0.29)  # where no material counts


def _quantity(
    name: str,
    quantity: str,
    summary: str,
    dimension: Dimension,
    unit: Callable[[str], str] | None = None,
) -> Function:
    needs = ("modulus", "poisson") if dimension == STRESS else ()

    def node(given: Given) -> Node:
        material = STEEL
        if needs:
            material = Isotropic(given.options["modulus"], given.options["poisson"])
        rosette = given.rosette.rosette if given.rosette else Rosette()
        return RosetteQuantity(quantity, rosette, material, given.nodes)

    more = ", modulus 205 GPa, poisson 0.29" if needs else ""
    return Function(
        name,
        f"{name}(rosette{more})",
        summary,
        (0, 0),
        node,
        needs=needs,
        dimension=lambda given: dimension,
        unit=unit,
    )


def _of_grid(unit: str) -> str:
    return unit


FUNCTIONS = (
    _quantity("strain1", "strain 1", "First principal strain", NONE, _of_grid),
    _quantity("strain2", "strain 2", "Second principal strain", NONE, _of_grid),
    _quantity("shear", "shear strain", "Highest shear strain", NONE, _of_grid),
    _quantity(
        "direction",
        "angle",
        "Angle of the first principal strain from grid a",
        NONE,
        lambda unit: "rad",
    ),
    _quantity("stress1", "stress 1", "First principal stress", STRESS),
    _quantity("stress2", "stress 2", "Second principal stress", STRESS),
    _quantity("mises", "von Mises", "Equivalent stress after von Mises", STRESS),
)
