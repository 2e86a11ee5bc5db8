"""What a certificate states, as somebody typed it from paper."""

from itertools import pairwise

from yoke_server.common.http.number_input import InvalidInput, read_number
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import SIGNAL_UNITS, UNITS, factor, to_si
from yoke_server.sensors.models import Sensor

LARGEST = 0.2  # relative expanded uncertainty, that is taken for one
MAX_POINTS = 200


def read_expanded(text: str) -> float | None:
    """A relative expanded uncertainty from per cent; None where nothing is typed."""
    if not text.strip():
        return None
    share = _number(text, "%", "expanded") / 100
    if not 0 < share <= LARGEST:
        raise _wrong("expanded", f"An uncertainty of {share * 100:g} % is none.", "Give per cent.")
    return share


def read_points(sensor: Sensor, text: str) -> list[list[float]]:
    """Loads and signals (SI) from lines of `load; signal`, in the usual units of both.

    Raises a 422 problem that names the line.
    """
    unit, signal = UNITS[sensor.quantity][0], SIGNAL_UNITS[sensor.signal]
    found = []
    for number, line in enumerate(text.strip().splitlines(), start=1):
        parts = line.split(";") if ";" in line else line.split("\t")
        if len(parts) != 2:
            said = f"Line {number} of the table is no load and signal."
            raise _wrong("points", said, f"Write as: 10; 2,0004 (in {unit}; {signal}).")
        load = float(to_si(_number(parts[0], unit, "points", number), unit))
        found.append([load, _number(parts[1], signal, "points", number) * factor(signal)])
    if found and not 2 <= len(found) <= MAX_POINTS:
        raise _wrong("points", f"A table has 2 to {MAX_POINTS} points.", "Add a line.")
    found.sort(key=lambda point: point[1])
    for (_, low), (_, high) in pairwise(found):
        if not high > low:
            said = f"Two points have the signal {high / factor(signal):g} {signal}."
            raise _wrong("points", said, "Leave one of them out.")
    return found


def _number(text: str, unit: str, field: str, line: int = 0) -> float:
    try:
        return read_number(text, unit).value
    except InvalidInput as error:
        place = f"Line {line}: " if line else ""
        raise _wrong(field, f"{place}{error}.", "Write a number.") from error


def _wrong(field: str, said: str, hint: str) -> Problem:
    return Problem(422, said[:1].upper() + said[1:], field=field, hint=hint)
