from datetime import datetime
from typing import Annotated

from ninja import Schema

from yoke_server.common.http.fields import Answer, Body, Id, Text


class DifferenceOut(Answer):
    """A field of a channel (or of the setup, without a subject) before and after."""

    subject: str
    field: str
    before: str
    after: str


class SetupFile(Body):
    """A setup's document as it was exported, the bench to work on, and its new name."""

    bench_id: Id
    name: Annotated[str, Text(1, 80)]
    document: dict[str, object]


class RevisionOut(Schema):
    """A version of a setup: whose action made it, and what that changed."""

    number: int
    at: datetime
    action: str
    actor: str
    changed: list[DifferenceOut]


class TemplateIn(Body):
    name: Annotated[str, Text(1, 80)]


class TemplateOut(Schema):
    """A setup to begin others with; ``bench_id`` is where it was made."""

    id: int
    name: str
    bench_id: int | None
    at: datetime


class FromTemplate(Body):
    template_id: Id
    bench_id: Id
    name: Annotated[str, Text(1, 80)]
