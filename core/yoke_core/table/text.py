"""Tables of numbers as text, quickly: fixed decimals, any decimal sign."""

import numba
import numpy as np
from numpy.typing import NDArray

MAX_NUMBER_LENGTH = 24  # characters of a number: sign, 18 digits, sign, decimals, separator
TOO_LARGE = 9e17


@numba.njit(cache=True, nogil=True)
def _write(table, decimals, powers, pairs, point, separator, out):  # type: ignore[no-untyped-def]
    rows, columns = table.shape
    at = 0
    for i in range(rows):
        for c in range(columns):
            value = table[i, c]
            places = decimals[c]
            size = abs(value) * powers[places] + 0.5
            if size < TOO_LARGE:  # neither NaN nor infinite
                left = np.uint64(size)
                if value < 0 and left > 0:
                    out[at] = 45
                    at += 1
                digits = 1
                while digits < 18 and left >= np.uint64(powers[digits]):
                    digits += 1
                digits = max(digits, places + 1)
                end = at + digits + (1 if places else 0)
                place, written = end - 1, 0
                while written < digits:
                    if written == places and places:
                        out[place] = point
                        place -= 1
                    if digits - written >= 2 and (written + 2 <= places or written >= places):
                        rest = left // np.uint64(100)
                        two = 2 * int(left - rest * np.uint64(100))
                        out[place], out[place - 1] = pairs[two + 1], pairs[two]
                        left, place, written = rest, place - 2, written + 2
                    else:
                        rest = left // np.uint64(10)
                        out[place] = 48 + int(left - rest * np.uint64(10))
                        left, place, written = rest, place - 1, written + 1
                at = end
            out[at] = separator if c < columns - 1 else 10
            at += 1
    return at


_PAIRS = np.frombuffer("".join(f"{i:02d}" for i in range(100)).encode(), np.uint8).copy()
_POWERS = 10.0 ** np.arange(19)


def table_text(
    table: NDArray[np.float64], decimals: NDArray[np.int64], point: str = ".", separator: str = ","
) -> bytes:
    """Rows of numbers as lines of ASCII.

    Parameters
    ----------
    table : (rows, columns), float64
    decimals : (columns,), int64
        Places behind the decimal sign, 0 to 12.
    point, separator : str
        One character each.

    Returns
    -------
    bytes
        Halves are rounded away from zero. What has no value (NaN, infinite), or at 10^17 no place
        for its digits, is an empty field.

    Examples
    --------
    >>> table_text(np.array([[0.5, np.nan], [1.25, 3]]), np.array([1, 0]))
    b'0.5,\\n1.3,3\\n'
    """
    out = np.empty(table.size * MAX_NUMBER_LENGTH, np.uint8)
    end = _write(table, decimals, _POWERS, _PAIRS, ord(point), ord(separator), out)
    return out[:end].tobytes()
