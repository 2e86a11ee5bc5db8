"""Columns of figures as bytes: a JSON header that says what they are, then float32."""

import json
import struct
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from numpy.typing import NDArray


def described_as(*media_types: str) -> dict[str, object]:
    """OpenAPI description of an answer that is not JSON."""
    schema = {"type": "string", "format": "binary"}
    content = {media_type: {"schema": schema} for media_type in media_types}
    return {"responses": {200: {"description": "OK", "content": content}}}


def pack_columns(header: dict[str, object], columns: "Iterable[NDArray[Any]]") -> bytes:
    """Columns of numbers behind their header."""
    return pack_bytes(header, [column.astype("<f4").tobytes() for column in columns])


def pack_bytes(header: dict[str, object], columns: Iterable[bytes]) -> bytes:
    """uint32 length of the header, the header padded to four bytes, then the columns."""
    text = json.dumps(header).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<I", len(text)) + text + b"".join(columns)
