"""Names of runs, from the setup's pattern."""

import re
import string
from collections.abc import Container
from datetime import UTC, datetime
from typing import Any

from yoke_server.common.problems import Problem

FIELDS = ("specimen", "number", "setup", "date", "time")


def run_name(document: dict[str, Any], number: int) -> str:
    """The name by a setup document's pattern: {specimen}, {number}, {setup}, {date}, {time}."""
    now = datetime.now(UTC)
    values = {
        "specimen": document["specimen"]["specimen"],
        "number": f"{number}",
        "setup": document["name"],
        "date": f"{now:%Y-%m-%d}",
        "time": f"{now:%H%M%S}",
    }
    check_pattern(document["run_name_pattern"])
    return str(document["run_name_pattern"].format(**values)[:80])


def check_pattern(pattern: str) -> None:
    """Raise a 422 problem for a pattern with fields we do not have."""
    try:
        parts = [p[1:] for p in string.Formatter().parse(pattern) if p[1] is not None]
    except ValueError:
        parts = [("{", "", None)]
    # A width or conversion is refused too: {number:>999999999} would fill the memory.
    if wrong := [n for n, form, conversion in parts if n not in FIELDS or form or conversion]:
        raise Problem(
            422,
            f"The run name's pattern knows no “{wrong[0]}”.",
            field="run_name_pattern",
            hint="Use " + ", ".join(f"{{{f}}}" for f in FIELDS) + ".",
        )


def next_name(name: str, taken: Container[str]) -> str:
    """The name with its last number counted on to the first that is free: C1, C2, C3.

    One without a number begins with 2.
    """
    found = re.search(r"\d+$", name)
    stem, number = (name[: found.start()], int(found.group())) if found else (f"{name} ", 1)
    width = len(found.group()) if found else 1
    while (proposed := f"{stem}{number + 1:0{width}d}") in taken:
        number += 1
    return proposed[-30:]
