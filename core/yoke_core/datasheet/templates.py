"""What the bits of a data sheet mean: tables of fields, each with its code.

After IEEE 1451.4-2004, clause 8 (basic part) and the templates 33 (bridge sensors) and 35
(strain gauges) of its annex: names, order, widths and codes of the fields as used here stand
in these tables and in docs/data-sheets.md, and nowhere else.
"""

import math
import struct
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta

Value = float | str | date | None

EPOCH = date(1998, 1, 1)  # of dates, which count days
LETTERS = " ABCDEFGHIJKLMNOPQRSTUVWXYZ,./_@"  # of five-bit text


@dataclass(frozen=True, slots=True)
class Field:
    """``read`` turns the bits' number into a value; ``untold`` is the number that means none."""

    name: str
    bits: int
    read: Callable[[int], Value]
    write: Callable[[Value], int]

    @property
    def untold(self) -> int:
        """All bits set, as the standard has it."""
        return (1 << self.bits) - 1


def whole(name: str, bits: int) -> Field:
    return Field(name, bits, float, lambda v: _whole(_number(v)))


def steps(name: str, bits: int, start: float, step: float) -> Field:
    """Even steps from ``start``: start + step * n."""
    return Field(
        name, bits, lambda n: start + step * n, lambda v: round((_number(v) - start) / step)
    )


def ratios(name: str, bits: int, start: float, tolerance: float) -> Field:
    """Steps of equal ratio: start * (1 + 2 * tolerance)^n."""
    growth = math.log(1 + 2 * tolerance)
    return Field(
        name,
        bits,
        lambda n: start * math.exp(growth * n),
        lambda v: round(math.log(_number(v) / start) / growth),
    )


def single(name: str) -> Field:
    """A number of IEEE 754 in 32 bits."""
    return Field(
        name,
        32,
        lambda n: float(struct.unpack("<f", n.to_bytes(4, "little"))[0]),
        lambda v: int.from_bytes(struct.pack("<f", _finite(_number(v))), "little"),
    )


def day(name: str) -> Field:
    return Field(
        name,
        16,
        lambda n: EPOCH + timedelta(days=n),
        lambda v: (_date(v) - EPOCH).days,
    )


def letters(name: str, count: int) -> Field:
    """Capitals of five bits each."""

    def read(n: int) -> str:
        return "".join(LETTERS[n >> 5 * i & 31] for i in range(count)).strip()

    def write(v: Value) -> int:
        text = str(v).upper()
        if len(text) > count:
            raise ValueError(f"“{v}” is longer than {count} letters")
        return sum(LETTERS.index(c) << 5 * i for i, c in enumerate(text.ljust(count)))

    return Field(name, 5 * count, read, write)


def one_of(name: str, bits: int, names: tuple[str, ...]) -> Field:
    return Field(
        name,
        bits,
        lambda n: names[n] if n < len(names) else f"number {n}",
        lambda v: names.index(str(v)),
    )


def _whole(number: float) -> int:
    if number != round(number):
        raise ValueError(f"{number} is no whole number")
    return round(number)


def _finite(number: float) -> float:
    if not math.isfinite(number):
        raise ValueError(f"{number} is no number")
    return number


def _date(value: Value) -> date:
    if not isinstance(value, date):
        raise TypeError(f"{value!r} is no date")
    return value


def _number(value: Value) -> float:
    if not isinstance(value, int | float):
        raise TypeError(f"{value!r} is no number")
    return float(value)


BASIC = (
    whole("manufacturer", 14),
    whole("model", 15),
    letters("version_letter", 1),
    whole("version", 6),
    whole("serial", 24),
)
MEASURANDS = (
    "K", "°C", "strain", "µm/m", "N", "lbf", "kgf", "m/s²", "g", "N m/rad", "N m", "oz in", "Pa",
    "psi", "kg", "gram", "m", "mm", "inch",
)  # fmt: skip
BRIDGES = ("quarter", "half", "full")
_EXCITATION = (
    steps("excitation_v", 9, 0.1, 0.1),
    steps("least_excitation_v", 9, 0.1, 0.1),
    steps("most_excitation_v", 9, 0.1, 0.1),
)
_CALIBRATION = (
    day("calibrated_on"),
    letters("calibrated_by", 3),
    whole("calibration_days", 12),
    whole("place", 11),
)
BRIDGE_SENSOR, STRAIN_GAUGE = 33, 35
TEMPLATES: dict[int, tuple[Field, ...]] = {
    BRIDGE_SENSOR: (
        one_of("measurand", 6, MEASURANDS),
        single("lowest"),
        single("highest"),
        # 2: outputs as numbers of 32 bits; the shorter codes are not read here
        whole("precision", 2),
        single("output_at_lowest"),
        single("output_at_highest"),
        one_of("bridge", 2, BRIDGES),
        steps("resistance_ohm", 18, 1.0, 0.1),
        ratios("response_s", 6, 1e-6, 0.15),
        *_EXCITATION,
        *_CALIBRATION,
    ),
    STRAIN_GAUGE: (
        single("lowest"),
        single("highest"),
        one_of("bridge", 2, BRIDGES),
        steps("resistance_ohm", 18, 1.0, 0.1),
        single("gauge_factor"),
        single("transverse_sensitivity"),
        single("grid_area_mm2"),
        *_EXCITATION,
        *_CALIBRATION,
    ),
}
WIDE = 2  # the one value of "precision" that is read
