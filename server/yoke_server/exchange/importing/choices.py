"""How a file is to be read: what was guessed, and what a person chose instead."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Body

MAX_COLUMNS = 256
Separator = Literal[";", "\t", ",", "|", " "]
Place = Annotated[int, Field(ge=0, lt=MAX_COLUMNS)]
Name = Annotated[str, fields.Text(1, 30)]


class TimeChoice(Body):
    """The column that holds the time and its unit; or none, and a rate."""

    column: Place | None
    unit: Literal["s", "ms", "µs"] = "s"
    rate_hz: Annotated[float, fields.between(1e-3, 1e6)] | None = None


class ColumnChoice(Body):
    """What a column is taken for; ``pairs_with`` is the key of a channel of the setup."""

    place: Place
    take: bool
    name: Name
    quantity: Annotated[str, fields.Text(0, 20)]
    unit: Annotated[str, fields.Text(0, 12)]
    turned: bool = False
    pairs_with: Annotated[str, fields.Text(0, 12)] = ""


class Choices(Body):
    """All of it; what is left out is guessed."""

    separator: Separator | None = None
    decimal: Literal[".", ","] | None = None
    time: TimeChoice | None = None
    columns: Annotated[list[ColumnChoice], Field(max_length=MAX_COLUMNS)] | None = None
    doubtful: Literal["drop", "bridge"] = "drop"  # lines with a field that is no number
    run_name: Annotated[str, fields.Text(0, 80)] = ""
