from datetime import date, datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from yoke_server.common.http.fields import Answer, Body, Day, Text
from yoke_server.common.http.pages import PageOut, Search
from yoke_server.kinds.channel_specs import SensorSpec


class CoreOut(Answer):
    """One core of a sensor's cable."""

    colour: str
    pin: int
    function: str


class CalibrationStatusOut(Answer):
    """How a calibration stands today; ``elapsed`` is the share of its term, 0 to 1."""

    status: Literal["overdue", "soon", "in force", "without"]
    words: str
    elapsed: float


class SensorOut(Answer):
    id: int
    kind: str
    name: str
    serial: str
    quantity: str
    signal: str
    spec: SensorSpec
    connection: str
    active_arms: list[int]
    named_as: str
    calibrated_on: date | None
    due_on: date | None
    calibration_status: CalibrationStatusOut
    cores: list[CoreOut]


Cell = Annotated[str, Field(max_length=200)]


class FieldOut(Schema):
    """One field of a record; without a unit, in that of what the sensor measures."""

    name: str
    label: str
    unit: str
    choices: list[str]
    optional: bool


class ConnectionOut(Schema):
    name: str
    fields: list[FieldOut]


class SensorKindOut(Schema):
    """What people call a sensor, what it measures, and how it may be connected."""

    name: str
    quantity: str
    unit: str
    connections: list[ConnectionOut]


class LibraryLine(SensorOut):
    """A sensor with where it is, and as a record of texts."""

    where: str
    place: str
    retired_at: datetime | None
    calibrations: int
    record: dict[str, str]


class LibraryWanted(Schema):
    """Which instruments of the library; an empty field means all."""

    retired: bool = False
    kind: Annotated[str, Text(0, 20)] = ""
    status: Literal["", "overdue", "soon", "in force", "without"] = ""
    where: Literal["", "bench", "store"] = ""
    search: Search = ""


class LibraryCounts(Schema):
    """How many instruments there are of each sort, without any filter."""

    kind: dict[str, int]
    status: dict[str, int]
    where: dict[str, int]
    all: int


class LibraryPage(PageOut[LibraryLine]):
    counts: LibraryCounts


class CertificateOut(Schema):
    id: int
    number: str
    calibrated_on: date
    due_on: date | None
    rated_output: float | None
    expanded: float | None
    instrument_class: str
    points: list[list[float]]
    file_name: str
    has_file: bool


class InstrumentOut(LibraryLine):
    """With its certificates; ``rise_per_year`` is how its rated output drifts, over its mean."""

    rise_per_year: float | None
    picture_id: int | None
    certificates: list[CertificateOut]


class RecordIn(Body):
    """Fields of a sensor as text; what is left out stays."""

    record: Annotated[dict[Annotated[str, Field(max_length=30)], Cell], Field(max_length=40)]


class CertificateIn(Body):
    number: Annotated[str, Text(1, 40)]
    calibrated_on: Day
    due_on: Day | None = None
    rated_output: Annotated[str, Field(max_length=30)] = ""  # as typed, mV/V
    expanded: Annotated[str, Field(max_length=30)] = ""  # as typed, % of the reading, k = 2
    instrument_class: Annotated[str, Field(max_length=40)] = ""
    points: Annotated[str, Field(max_length=8000)] = ""  # as typed, a load; signal a line


class ImportedOut(Schema):
    """A line of an imported table: new, changed, same or refused, and why."""

    line: int
    serial: str
    outcome: str
    field: str
    why_not: str
