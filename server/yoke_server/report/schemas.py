from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field


class ReportOut(Schema):
    """A report; ``stale`` when its PDF no longer shows what the data say."""

    id: int
    run: int
    run_name: str
    number: str
    revision: str
    title: str
    remarks: str
    pdf_at: datetime | None
    stale: bool
    pages: int


class ReportChange(Schema):
    """What is left out stays."""

    number: Annotated[str, Field(min_length=1, max_length=30)] | None = None
    revision: Annotated[str, Field(min_length=1, max_length=6)] | None = None
    title: Annotated[str, Field(min_length=1, max_length=120)] | None = None
    remarks: Annotated[str, Field(max_length=4000)] | None = None


class TaskOut(Schema):
    id: int
    state: Literal["waiting", "working", "done", "failed"]
