"""Names: of runs from the setup's pattern, of channels and specimens by counting, and renaming.

Names that people cannot tell apart (see `comparison_key`) are the same.
"""

import itertools
import re
import string
from collections.abc import Collection, Iterable
from datetime import UTC, datetime

from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import DECIMALS

FIELDS = ("project", "setup", "specimen", "number", "date", "time")
DIGITS = re.compile(r"0?[1-6]")  # of a number, with zeros before it


def run_name(pattern: str, *, specimen: str, number: int, setup: str, project: str) -> str:
    """The name by a pattern: {project}, {setup}, {specimen}, {number}, {date}, {time}.

    ``{number:3}`` is a number of three figures, 007.
    """
    now = datetime.now(UTC)
    pattern = re.sub(r"\{number:0?(\d)\}", r"{number:0\1}", pattern)
    values = {
        "project": project,
        "specimen": specimen,
        "number": number,
        "setup": setup,
        "date": f"{now:%Y-%m-%d}",
        "time": f"{now:%H%M%S}",
    }
    check_pattern(pattern)
    return pattern.format(**values)[:80]


def check_pattern(pattern: str) -> None:
    """Raise a 422 problem for a pattern with fields we do not have."""
    try:
        parts = [p[1:] for p in string.Formatter().parse(pattern) if p[1] is not None]
    except ValueError:
        parts = [("{", "", None)]
    # Another width or conversion is refused too: {number:>999999999} would fill the memory.
    fits = [not form or (n == "number" and DIGITS.fullmatch(form)) for n, form, _ in parts]
    wrong = [
        n
        for (n, _, conversion), fit in zip(parts, fits, strict=True)
        if n not in FIELDS or not fit or conversion
    ]
    if wrong:
        raise Problem(
            422,
            f"The run name's pattern knows no “{wrong[0]}”.",
            field="run_name_pattern",
            hint="Use " + ", ".join(f"{{{f}}}" for f in FIELDS) + ", or {number:3} for 007.",
        )


def names_given(now: dict[int, str], wanted: dict[int, str]) -> dict[int, str]:
    """Which wanted names can be given at once, by place: no two may have the same afterwards.

    Names may change places. Of two who want one the first gets it; who gets none keeps its own,
    which nobody else can have then.
    """
    first_with = {comparison_key(name): place for place, name in reversed(wanted.items())}
    given = {
        place: name for place, name in wanted.items() if first_with[comparison_key(name)] == place
    }
    while True:
        kept = {comparison_key(name) for place, name in now.items() if place not in given}
        fit = {place: name for place, name in given.items() if comparison_key(name) not in kept}
        if len(fit) == len(given):
            return given
        given = fit


def next_name(name: str, taken: Iterable[str], most: int = 30) -> str:
    """The name with its last number counted on to the first that is free: C1, C2, C3.

    One without a number begins with 2.
    """
    found = re.search(r"\d+$", name)
    if found is None:
        return _counted(f"{name} ", 1, taken)[-most:]
    digits = found.group()
    return _counted(name[: found.start()], int(digits), taken, len(digits))[-most:]


LAST_OF_ROSETTE = "c"


def counted_on(name: str) -> str:
    """What follows a name in a row of them: G4, G5; R1a, R1b, R1c, R2a; rod, rod 2."""
    grid = re.fullmatch(r"(.*?)(\d+)([abc])", name)
    if grid:
        stem, number, letter = grid.groups()
        if letter < LAST_OF_ROSETTE:
            return f"{stem}{number}{chr(ord(letter) + 1)}"
        return f"{stem}{int(number) + 1:0{len(number)}d}a"
    return next_name(name, ())


STEMS = {
    "strain": "SG",
    "force": "F",
    "extension": "e",
    "displacement": "u",
    "pressure": "P",
    "temperature": "T",
    "torque": "M",
    "acceleration": "a",
    "angle": "phi",
}


def free_name(quantity: str, taken: Iterable[str]) -> str:
    """The next free name for a channel: SG1, SG2; a force alone is F, the next one F2."""
    stem = STEMS.get(quantity, "CH")
    first = f"{stem}1" if quantity == "strain" else stem
    is_free = comparison_key(first) not in map(comparison_key, taken)
    return first if is_free else _counted(stem, 1, taken)


def require_free_name(name: str, used: Collection[str]) -> None:
    """Raise a 409 problem where a channel, measured or computed, has a name that looks alike.

    used : comparison keys of the other channels' names
    """
    if comparison_key(name) in used:
        raise Problem(
            409,
            f"There is a channel {name} already.",
            code=ProblemType.NAME_TAKEN,
            field="name",
            hint="Choose another name.",
        )


def free_names(taken: Iterable[str]) -> dict[str, str]:
    """What a new channel of each quantity, or a rosette, would be called, by what it is."""
    taken = list(taken)
    by_quantity = {quantity: free_name(quantity, taken) for quantity in DECIMALS}
    return by_quantity | {"rosette": free_rosette(taken)}


def free_rosette(channels: Iterable[str]) -> str:
    """The next free name of a rosette, R1, R2, by the names of the channels that there are."""
    return _counted("R", 0, {name[:-1] for name in channels})


def _counted(stem: str, number: int, taken: Iterable[str], width: int = 1) -> str:
    """The first free one of the stem with numbers above ``number``."""
    free = (f"{stem}{n:0{width}d}" for n in itertools.count(number + 1))
    looks = {comparison_key(name) for name in taken}
    return next(filter(lambda name: comparison_key(name) not in looks, free))
