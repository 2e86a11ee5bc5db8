"""A grid's place in a rosette."""

from typing import Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec


class Grid(Spec):
    """Which rosette a gauge belongs to, and its angle (rad) from the first grid."""

    kind: Literal["grid"] = "grid"
    rosette: fields.Name
    angle: Annotated[float, fields.between(-3.15, 3.15)]
