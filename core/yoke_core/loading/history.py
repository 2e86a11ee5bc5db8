"""A force history as a text file gives it: a line of headers, then time and force by lines."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import LoadingError

UNITS = {"N": 1.0, "kN": 1e3, "MN": 1e6}
EVEN = 0.01  # of the step between two lines, by which one may lie elsewhere
SEPARATORS = (";", "\t", ",")
HEADER = re.compile(r"^(?P<name>[^()\[\]]*)[(\[](?P<unit>[^()\[\]]+)[)\]]\s*$")


@dataclass(frozen=True, slots=True)
class History:
    """Forces at an even rate: (n,), N, pulling positive."""

    forces: NDArray[np.float64]
    rate_hz: float


def read_history(text: str, most: int) -> History:
    """The force history in a text: ``time (s)`` and ``force (N)`` or ``(kN)``, evenly spaced.

    Columns are separated by semicolons, tabs or commas; with the first two, numbers may have a
    decimal comma. Lines without anything are passed over.

    Parameters
    ----------
    text : str
    most : int
        Forces that are taken at most.

    Returns
    -------
    History

    Raises
    ------
    LoadingError
        Naming the line: no header with units, a unit that is no force, text, a gap in time.

    Examples
    --------
    >>> found = read_history("time (s); force (kN)\\n0,0; 0\\n0,5; 1,2\\n1,0; -0,4", 100)
    >>> found.rate_hz, found.forces.tolist()
    (2.0, [0.0, 1200.0, -400.0])
    """
    lines = [(i, line) for i, line in enumerate(text.splitlines(), start=1) if line.strip()]
    if not lines:
        raise LoadingError("file", "The file is empty.", _WANTED)
    separator = next((s for s in SEPARATORS if s in lines[0][1]), None)
    if separator is None:
        raise LoadingError("file", "Line 1 has no two columns.", _WANTED)
    factor = _unit_of(lines[0][1].split(separator))
    if len(lines) - 1 > most:
        raise LoadingError("file", f"The file has more than {most} lines.", "Thin it out.")
    rows = np.array([_row(number, line, separator) for number, line in lines[1:]])
    if len(rows) < 2:
        raise LoadingError("file", "The file has fewer than two forces.", _WANTED)
    rate_hz = _rate_of(rows[:, 0], [number for number, _ in lines[1:]])
    return History(rows[:, 1] * factor, rate_hz)


_WANTED = "It begins with a line such as: time (s); force (kN)."


def _unit_of(headers: list[str]) -> float:
    """By what the second column is to be multiplied to give N."""
    found = [HEADER.match(header.strip()) for header in headers[:2]]
    units = [match["unit"].strip() if match else "" for match in found]
    if units[0] != "s":
        raise LoadingError("file", "Line 1 does not say that the first column is in s.", _WANTED)
    if len(units) < 2 or units[1] not in UNITS:
        said = f"“{units[1]}” is no unit of force." if len(units) > 1 and units[1] else "no unit."
        text = f"The second column of line 1: {said}"
        raise LoadingError("file", text, f"Use one of {', '.join(UNITS)}.")
    return UNITS[units[1]]


def _row(number: int, line: str, separator: str) -> tuple[float, float]:
    parts = line.split(separator)
    if separator != ",":
        parts = [part.replace(",", ".") for part in parts]
    try:
        time, force = (float(part) for part in parts[:2])
    except ValueError:
        text = f"Line {number} is not two numbers: “{line.strip()[:40]}”."
        raise LoadingError("file", text, "Mend the line, or take it out.") from None
    if not (np.isfinite(time) and np.isfinite(force)):
        raise LoadingError("file", f"Line {number} has no finite number.", "Mend the line.")
    return time, force


def _rate_of(times: NDArray[np.float64], numbers: list[int]) -> float:
    """Raises LoadingError where the times are not evenly spaced."""
    steps = np.diff(times)
    step = float(np.median(steps))
    if step <= 0:
        raise LoadingError("file", "The times do not rise.", "Sort the lines by time.")
    uneven = np.flatnonzero(np.abs(steps - step) > EVEN * step)
    if len(uneven):
        line, width = numbers[uneven[0] + 1], float(steps[uneven[0]])
        what = "A gap" if width > step else "A step back"
        text = f"{what} at line {line}: {width:g} s after the line before, not {step:g} s."
        raise LoadingError("file", text, "The lines must follow each other evenly.")
    return 1.0 / step
