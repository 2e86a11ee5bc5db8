"""Text commands in SCPI style: parsing, dispatch, the error queue. No sockets here."""

import re
from collections import deque
from collections.abc import Callable

Handler = Callable[[list[str], int], str | None]

LINE = re.compile(r"^\s*(\*?[A-Za-z][A-Za-z0-9:]*\??)\s*(.*?)\s*$")


class CommandError(Exception):
    """A command the device does not take; number and text as in SCPI-99, vol. 2, 21.8."""

    def __init__(self, number: int, text: str) -> None:
        super().__init__(text)
        self.number = number
        self.text = text


def long_form(header: str, known: dict[str, Handler]) -> tuple[str, int]:
    """Match a header, short or long form, against ``known``; also its numeric suffix."""
    suffix = 0
    parts = []
    for part in header.rstrip("?").upper().split(":"):
        match = re.fullmatch(r"(\*?[A-Z]+)(\d*)", part)
        if not match:
            raise CommandError(-113, "Undefined header")
        parts.append(match[1])
        suffix = int(match[2]) if match[2] else suffix
    for name in known:
        wanted = name.rstrip("?").split(":")
        same_kind = name.endswith("?") == header.endswith("?")
        if same_kind and len(wanted) == len(parts) and all(map(_matches, parts, wanted)):
            return name, suffix
    raise CommandError(-113, "Undefined header")


def _matches(given: str, name: str) -> bool:
    short = "".join(c for c in name if not c.islower())
    return given in (short.upper(), name.upper())


class Commands:
    """A set of handlers and the device's error queue."""

    def __init__(self, identity: str, handlers: dict[str, Handler]) -> None:
        self.errors: deque[tuple[int, str]] = deque(maxlen=16)
        self.handlers: dict[str, Handler] = {
            "*IDN?": lambda args, n: identity,
            "*OPC?": lambda args, n: "1",
            "*TST?": lambda args, n: "0",
            "*CLS": lambda args, n: self.errors.clear(),
            "SYSTem:ERRor?": lambda args, n: self._next_error(),
            **handlers,
        }

    def _next_error(self) -> str:
        number, text = self.errors.popleft() if self.errors else (0, "No error")
        return f'{number},"{text}"'

    def answer(self, line: str) -> str | None:
        """Carry out one line; a question always gets an answer line."""
        if not line.strip():
            return None
        match = LINE.match(line)
        try:
            if not match:
                raise CommandError(-100, "Command error")
            name, suffix = long_form(match[1], self.handlers)
            args = [a.strip() for a in match[2].split(",")] if match[2] else []
            return self.handlers[name](args, suffix)
        except CommandError as error:
            self.errors.append((error.number, error.text))
        except (ValueError, IndexError) as error:
            self.errors.append((-222, f"Data out of range; {error}"))
        return "ERROR" if "?" in line else None
