from datetime import datetime
from typing import Annotated

from pydantic import Field

from yoke_server.common.http.fields import Answer, Body, Id


class ToCheck(Body):
    channels: Annotated[list[Id], Field(min_length=1, max_length=512)]


class Faults(Body):
    """Faults in the words of docs/amplifier-protocol.md, joined by commas."""

    input: Annotated[int, Field(ge=1, le=64)]
    faults: Annotated[str, Field(max_length=120, pattern=r"^[a-z0-9 .,e+-]*$")] = ""


class CauseOut(Answer):
    """One thing that is wrong, the pins and arms that it is about, and what to do."""

    kind: str
    title: str
    hint: str
    pins: list[int]
    arms: list[int]


class ExplanationOut(Answer):
    title: str
    causes: list[CauseOut]


class FindingOut(Answer):
    """One figure behind a verdict; ``well`` is null where it cannot be told yet."""

    name: str
    passed: bool | None
    value: str
    due: str
    pins: list[int]
    arms: list[int]


class CheckOut(Answer):
    """What the newest check of a channel found.

    ``others`` read alike; ``parted_by`` is the measurement that tells them apart. ``old``:
    the wiring was changed since.
    """

    at: datetime
    old: bool
    passed: bool
    title: str
    short: str
    hint: str
    causes: list[CauseOut]
    others: list[ExplanationOut]
    parted_by: str
    findings: list[FindingOut]
