"""Where a device answers: a host and a port, or a serial line of the bench's computer."""

from typing import Annotated

from pydantic import Field

Host = Annotated[
    str, Field(pattern=r"^([A-Za-z0-9._:-]{1,100}|/dev/(tty|serial/by-id/)[A-Za-z0-9._:-]{1,70})$")
]
Port = Annotated[int, Field(ge=0, le=65535)]  # 0 with a serial line, which has none


def is_line(host: str) -> bool:
    """Whether it is a serial line of the computer itself."""
    return host.startswith("/dev/")


def spoken(host: str, port: int) -> str:
    return host if is_line(host) else f"{host}:{port}"
