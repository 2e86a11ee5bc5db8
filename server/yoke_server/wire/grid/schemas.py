from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.http.fields import Body, Id

ColumnName = Annotated[str, Field(max_length=20)]


class CellIn(Body):
    """What is to stand in a column at an input, as somebody typed it."""

    input_id: Id
    column: ColumnName
    text: Annotated[str, Field(max_length=60)]


class Cells(Body):
    """Cells that are one action; ``dry`` only says what would become of them."""

    cells: Annotated[list[CellIn], Field(min_length=1, max_length=4096)]
    dry: bool = False


class FillDown(Body):
    """The first input's columns into those below."""

    inputs: Annotated[list[Id], Field(min_length=2, max_length=512)]
    columns: Annotated[list[ColumnName], Field(min_length=1, max_length=20)]
    dry: bool = False


class OutcomeOut(Schema):
    """A cell: what stood there, and why it was not taken, if it was not."""

    input_id: int
    column: str
    text: str
    before: str
    why_not: str
    comma: bool
