from datetime import datetime

from ninja import Schema

from yoke_server.common.fields import Answer


class DifferenceOut(Answer):
    """A field of a channel (or of the setup, without a subject) before and after."""

    subject: str
    field: str
    before: str
    after: str


class RevisionOut(Schema):
    """A version of a setup: whose deed made it, and what that changed."""

    number: int
    at: datetime
    action: str
    actor: str
    changed: list[DifferenceOut]
