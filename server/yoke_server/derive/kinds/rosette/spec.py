"""What a person sets for a rosette, and what is kept of its states."""

from typing import Annotated, Literal

from pydantic import ConfigDict, Field
from yoke_core.rosette.state import RosetteState

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec


class RosetteParameters(Spec):
    """Three channels with the angles of their grids, counter-clockwise; results are from grid a."""

    kind: Literal["rosette"] = "rosette"
    name: fields.Name = "R1"
    grids: Annotated[list[fields.Key], Field(min_length=3, max_length=3)]
    angles_deg: Annotated[
        list[Annotated[float, fields.between(-360, 360)]], Field(min_length=3, max_length=3)
    ] = [0.0, 45.0, 90.0]
    transverse: Annotated[float, fields.between(-0.1, 0.1)] = 0.0
    modulus_pa: Annotated[float, fields.between(1e6, 1e13)] = 205e9
    poisson_ratio: fields.Poisson = 0.29


class RosetteDetails(Spec):
    """The instant of the highest von Mises stress; and the grids' names."""

    model_config = ConfigDict(strict=False)  # the state is a dataclass, its stored form is not

    kind: Literal["rosette"] = "rosette"
    grids: list[str]
    time_s: float
    highest: RosetteState
