"""Text commands in SCPI style: parsing, dispatch, who controls the device. No sockets here.

Message units on one line are joined by `;` (IEEE 488.2, 7.3.1); a unit may leave out the path
of the one before it (SCPI-99, vol. 1, 6.2.4). Errors are numbered as in SCPI-99, vol. 2, 21.8.
"""

import math
import re
from collections import deque
from collections.abc import Callable, Collection
from dataclasses import dataclass, field

Handler = Callable[[list[str], int], str | None]

UNIT = re.compile(r"^(:?\*?[A-Za-z][A-Za-z0-9:]*\??)(?:\s+(.*))?$", re.DOTALL)
LEASE = 5.0  # s of silence after which a controlling host may be replaced


class CommandError(Exception):
    """A command the device does not take."""

    def __init__(self, number: int, text: str) -> None:
        super().__init__(text)
        self.number = number
        self.text = text


def number(args: list[str], place: int = 0) -> float:
    """A numeric parameter; refused in the device's words where it is none."""
    if place >= len(args) or not args[place]:
        raise CommandError(-109, "Missing parameter")
    try:
        value = float(args[place])
    except ValueError:
        raise CommandError(-104, "Data type error; a number is expected") from None
    if not math.isfinite(value):
        raise CommandError(-222, "Data out of range; the number must be finite")
    return value


def whole(args: list[str], place: int = 0) -> int:
    """A whole, non-negative parameter."""
    value = number(args, place)
    if value != int(value) or value < 0:
        raise CommandError(-222, "Data out of range; a whole number from 0 on is expected")
    return int(value)


def word(args: list[str], place: int = 0) -> str:
    if place >= len(args) or not args[place]:
        raise CommandError(-109, "Missing parameter")
    return args[place].strip("\"'")


def long_form(header: str, known: Collection[str]) -> tuple[str, int]:
    """Match a header, short or long form, against ``known``; also its numeric suffix."""
    suffix = 0
    parts = []
    for part in header.lstrip(":").rstrip("?").upper().split(":"):
        match = re.fullmatch(r"(\*?[A-Z]+)(\d{0,6})", part)
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


@dataclass(eq=False)
class Session:
    """One connected host: its name, its own error queue, when it was last heard."""

    name: str = "a host without a name"
    heard_at: float = 0.0
    errors: deque[tuple[int, str]] = field(default_factory=lambda: deque(maxlen=16))

    def next_error(self) -> str:
        number, text = self.errors.popleft() if self.errors else (0, "No error")
        return f'{number},"{text}"'


class Commands:
    """The handlers of one device, and the one host that it obeys.

    The first host that gives a command becomes the controlling one, until it leaves or is
    silent for `LEASE`; others may ask and listen, and give the commands that are ``everybodys``.
    ``on_released`` is called when it goes.
    """

    def __init__(
        self,
        identity: str,
        handlers: dict[str, Handler],
        clock: Callable[[], float],
        on_released: Callable[[], None] = lambda: None,
        everybodys: Collection[str] = (),
    ) -> None:
        self.identity = identity  # maker, model, serial, firmware
        self.handlers: dict[str, Handler] = {
            "*IDN?": lambda args, n: identity,
            "*OPC?": lambda args, n: "1",
            "*TST?": lambda args, n: "0",
            **handlers,
        }
        self.controller: Session | None = None
        self.heard_at = clock()  # when the controlling host last said something
        self._clock = clock
        self._on_released = on_released
        self._everybodys = frozenset(everybodys)

    def leave(self, session: Session) -> None:
        """A host is gone; if it was the controlling one, nobody controls the device."""
        if self.controller is session:
            self.controller = None
            self._on_released()

    def answer(self, session: Session, line: str) -> str | None:
        """Carry out one line; every question on it is answered, joined by `;`."""
        session.heard_at = self._clock()
        if self.controller is session:
            self.heard_at = session.heard_at
        answers, path = [], ""
        for text in filter(None, (u.strip() for u in line.split(";"))):
            answer, path = self._unit(session, text, path)
            if answer is not None:
                answers.append(answer)
        return ";".join(answers) if answers else None

    def _unit(self, session: Session, text: str, path: str) -> tuple[str | None, str]:
        match = UNIT.match(text)
        try:
            if not match:
                raise CommandError(-100, "Command error")
            name, suffix, path = self._find(match[1], path)
            args = [a.strip() for a in match[2].split(",")] if match[2] else []
            return self._carry_out(session, name, suffix, args), path
        except CommandError as error:
            session.errors.append((error.number, error.text))
        return ("ERROR" if match and match[1].endswith("?") else None), path

    def _find(self, header: str, path: str) -> tuple[str, int, str]:
        """Handler name, suffix, and the path that the next unit may leave out."""
        known = {**OWN, **self.handlers}
        common = header.startswith("*")
        relative = [] if common or header.startswith(":") or not path else [path + header]
        for full in [*relative, header]:
            try:
                name, suffix = long_form(full, known)
            except CommandError:
                continue
            head, colon, _ = full.lstrip(":").rpartition(":")
            return name, suffix, path if common else head + colon
        raise CommandError(-113, "Undefined header")

    def _carry_out(self, session: Session, name: str, suffix: int, args: list[str]) -> str | None:
        if own := OWN.get(name):
            return own(self, session, args)
        free = name.endswith("?") or name.startswith("TEST:") or name in self._everybodys
        if not free:
            self.take(session)
        return self.handlers[name](args, suffix)

    def take(self, session: Session) -> None:
        """Make ``session`` the controlling host; refused while another one is alive."""
        holder = self.controller
        if holder is session:
            return
        if holder is not None and self._clock() - holder.heard_at < LEASE:
            raise CommandError(-203, f"Command protected; {holder.name} controls this device")
        if holder is not None:
            self._on_released()
        self.controller = session
        self.heard_at = self._clock()


OwnHandler = Callable[[Commands, Session, list[str]], str | None]


def _set_name(commands: Commands, session: Session, args: list[str]) -> None:
    session.name = word(args)[:60]


OWN: dict[str, OwnHandler] = {
    "*CLS": lambda c, s, a: s.errors.clear(),
    "SYSTem:ERRor?": lambda c, s, a: s.next_error(),
    "SYSTem:HOST": _set_name,
    "SYSTem:CONTrol?": lambda c, s, a: c.controller.name if c.controller else "nobody",
    "SYSTem:CONTrol:TAKE": lambda c, s, a: c.take(s),
    "SYSTem:CONTrol:RELease": lambda c, s, a: c.leave(s),
}
