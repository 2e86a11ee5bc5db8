from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.http.fields import Body, Id


class PlugOut(Schema):
    """An input, what its plug says of the sensor in it, and what is proposed.

    ``state``: none (no memory), blank, sheet, unreadable. ``proposal``: nothing, move (the
    channel ``channel_id`` to here), wire (the sensor ``sensor_id``), add (to the library).
    """

    input_id: int
    input_label: str
    state: str
    serial: str
    words: str
    quantity: str
    wired: str
    proposal: str
    channel_id: int | None
    sensor_id: int | None
    memory: str
    problem: str


class Plugs(Schema):
    plugs: list[PlugOut]


class Move(Body):
    channel_id: Id
    input_id: Id


class Moves(Body):
    """Channels that go to other inputs, as one action."""

    moves: Annotated[list[Move], Field(min_length=1, max_length=512)]


class Memory(Body):
    """A plug's memory as it was read, hexadecimal."""

    memory: Annotated[str, Field(pattern=r"^([0-9a-f]{2}){1,2048}$")]
