from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Body, Text, unset
from yoke_server.report.blocks import BlockList, BlockSpec


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
    problem: str
    pages: int
    blocks: list[BlockSpec]
    block_titles: list[str]


class BlockOffer(Schema):
    """A block that a run has something for, and what it is called."""

    title: str
    block: BlockSpec


class ReportChange(Body):
    """What is left out stays."""

    number: fields.Name = unset()
    revision: Annotated[str, Text(1, 6)] = unset()
    title: fields.Title = unset()
    remarks: fields.Notes = unset()
    blocks: BlockList = unset()


TaskState = Literal["waiting", "working", "done", "failed"]


class TaskOut(Schema):
    id: int
    state: TaskState


class WiringSheetOut(Schema):
    """A setup's wiring sheet: made of which version and when, or why not."""

    version: int
    made_at: datetime | None
    problem: str
