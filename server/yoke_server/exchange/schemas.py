from typing import Annotated
from uuid import UUID

from ninja import Schema
from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Body
from yoke_server.exchange.importing.choices import ColumnChoice, TimeChoice


class FormatOut(Schema):
    """A format of files as people choose it, and the options that it is chosen with."""

    name: str
    title: str
    options: dict[str, str]


class FileAnnounced(Body):
    name: Annotated[str, fields.Text(1, 120)]
    size: Annotated[int, Field(ge=0, le=2**53)]


class FileOut(Schema):
    """A file that is being imported; ``run_id`` once it is."""

    key: UUID
    name: str
    size: int
    received: int
    state: str
    problem: str
    run_id: int | None


class LineOut(Schema):
    line: int
    text: str


class ColumnOut(Schema):
    """A column of the file: what it was guessed to be and why; its picture in its own figures."""

    place: int
    heading: str
    role: str
    unit_found: str
    reason: str
    doubtful: bool
    low: list[float | None]
    high: list[float | None]


class DoubtOut(Schema):
    """A field that is no number; without a column a line that is no row."""

    line: int
    column: int | None
    text: str
    why: str


class ChoicesOut(Schema):
    """All that the file is taken for."""

    separator: str
    decimal: str
    time: TimeChoice
    columns: list[ColumnChoice]
    doubtful: str
    run_name: str


class ImportPreviewOut(Schema):
    """What a file looks like, taken like this; ``problem`` where no run can be made so."""

    choices: ChoicesOut
    separator_doubt: str
    names_line: int | None
    units_line: int | None
    first_line: int
    encoding: str
    lines: list[LineOut]
    columns: list[ColumnOut]
    doubts: list[DoubtOut]
    doubt_count: int
    rows: int
    whole: bool
    time_reason: str
    time_doubtful: bool
    compared_with: int | None
    rate_hz: float | None
    duration_s: float | None
    gaps: int
    problem: str
    problem_line: int | None
