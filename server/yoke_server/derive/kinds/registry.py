"""The kinds of results by name. A new one adds a module and a line here."""

from typing import Annotated, Any

from pydantic import Field, TypeAdapter

from yoke_server.derive.kinds.base import Kind
from yoke_server.derive.kinds.cycles import CyclesDetails, CyclesKind, CyclesParameters
from yoke_server.derive.kinds.rosette import RosetteDetails, RosetteKind, RosetteParameters
from yoke_server.derive.kinds.tension import Tension, TensionDetails, TensionParameters

KINDS: dict[str, Kind] = {k.name: k for k in (Tension(), RosetteKind(), CyclesKind())}
RecipeSpec = Annotated[
    TensionParameters | RosetteParameters | CyclesParameters, Field(discriminator="kind")
]
DetailsSpec = Annotated[
    TensionDetails | RosetteDetails | CyclesDetails, Field(discriminator="kind")
]
DETAILS: TypeAdapter[Any] = TypeAdapter(DetailsSpec)
