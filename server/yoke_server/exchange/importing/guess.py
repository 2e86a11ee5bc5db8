"""What a column of a file is, guessed from its name, its unit and its figures, with the reason."""

import math
import re
from dataclasses import dataclass, replace
from typing import Literal

from yoke_server.common.units import UNITS, factor, from_si, to_si, units_of
from yoke_server.exchange.importing.choices import ColumnChoice
from yoke_server.setups.document import FrozenChannel

Role = Literal["channel", "time", "left out"]
# As programs write units that we write otherwise.
ALIASES = {
    "ue": "µm/m", "µe": "µm/m", "με": "µm/m", "µε": "µm/m", "um/m": "µm/m", "μm/m": "µm/m",
    "ustrain": "µm/m", "microstrain": "µm/m", "um": "µm", "μm": "µm", "us": "µs", "μs": "µs",
    "sec": "s", "seconds": "s", "msec": "ms", "degc": "°C", "c": "°C", "deg": "°",
    "newton": "N", "nm": "N m", "n·m": "N m", "n*m": "N m", "n.m": "N m", "knm": "kN m",
    "kn·m": "kN m", "kn*m": "kN m", "n/mm²": "MPa", "n/mm2": "MPa", "n/mm^2": "MPa",
    "m/s2": "m/s²", "m/s^2": "m/s²", "m/s**2": "m/s²", "1/min": "rpm", "min-1": "rpm",
    "min⁻¹": "rpm", "u/min": "rpm", "r/min": "rpm", "rev/min": "rpm", "rad/sec": "rad/s",
    "degrees": "°", "grad": "°", "volt": "V", "kelvin": "K", "mstrain": "µm/m",
}  # fmt: skip
TIME_NAMES = {"t", "time", "zeit", "temps", "tempo", "seconds"}
IN_NAME = re.compile(r"^(.*?)\s*[\[(]([^\[\]()]*)[\])]\s*$")
# A unit shared by quantities stands for the first of these.
COMMON_FIRST = ("force", "displacement", "strain", "stress", "temperature", "voltage")
FAR = 100.0  # times another's peak, from where a unit is doubted
ALIKE = 1.25  # times, within which two peaks are of the same place
NEAR = 5.0  # times, within which a unit fits


@dataclass(frozen=True, slots=True)
class Seen:
    """What is known of a column's figures: of all rows looked at."""

    numbers: int
    rows: int
    lowest: float
    highest: float

    @property
    def peak(self) -> float:
        return max(abs(self.lowest), abs(self.highest))

    def peak_si(self, unit: str) -> float:
        """The largest value without sign, the figures being in ``unit``."""
        return max(abs(to_si(self.lowest, unit)), abs(to_si(self.highest, unit)))


@dataclass(frozen=True, slots=True)
class Guess:
    """A choice with its reason; ``doubtful`` where a person should look."""

    choice: ColumnChoice
    unit_found: str
    reason: str
    doubtful: bool = False
    role: Role = "channel"


def split_name(name: str) -> tuple[str, str]:
    """A column's name and the unit in brackets behind it."""
    found = IN_NAME.match(name)
    return (found[1], found[2].strip()) if found else (name, "")


def known_unit(written: str) -> str:
    """Our word for a unit; empty for one that nobody knows."""
    word = ALIASES.get(written.strip().lower(), written.strip())
    every = {u for quantity in UNITS for u in units_of(quantity)}
    if word in every:
        return word
    return next((u for u in every if u.lower() == word.lower() and len(word) > 1), "")


def quantity_of(unit: str) -> str:
    fits = [q for q in UNITS if unit in units_of(q)]
    return next((q for q in COMMON_FIRST if q in fits), fits[0] if fits else "")


def is_time(name: str, unit: str) -> bool:
    return name.lower() in TIME_NAMES or known_unit(unit) in UNITS["time"]


def guess_column(
    place: int, name: str, unit: str, where: str, seen: Seen, channels: list[FrozenChannel]
) -> Guess:
    """``where`` says where the unit stands, as "line 7"; ``channels`` are those of the setup."""
    title = (name or f"Column {place + 1}")[:30]
    out = ColumnChoice(place=place, take=False, name=title, quantity="", unit="")
    if seen.numbers < 0.5 * seen.rows:
        words = f"{seen.numbers} of {seen.rows} lines have a figure here"
        return Guess(out, unit, words, role="left out")
    pair = _pair(title, quantity_of(known_unit(unit)), channels)
    known = known_unit(unit)
    if known in UNITS["time"]:
        return Guess(out, unit, f"{where} says {unit}: another time", role="left out")
    if known:
        quantity = (
            pair.quantity if pair and known in units_of(pair.quantity) else quantity_of(known)
        )
        choice = out.model_copy(update={"take": True, "quantity": quantity, "unit": known})
        reason = f"{where} says {unit}"
        if pair and pair.quantity == quantity:
            choice = choice.model_copy(update={"pairs_with": pair.key})
            reason += f"; goes with {pair.name}"
        return Guess(choice, unit, reason)
    says = f"nobody knows the unit {unit}" if unit.strip("- ") else "no unit is given"
    if pair:
        update = {"take": True, "quantity": pair.quantity, "unit": pair.unit}
        choice = out.model_copy(update=update | {"pairs_with": pair.key})
        return Guess(choice, unit, f"{says}; named like {pair.name}", doubtful=True)
    reason = f"{says}: choose a quantity to take it"
    return Guess(out, unit, reason, doubtful=True, role="left out")


def _pair(name: str, quantity: str, channels: list[FrozenChannel]) -> FrozenChannel | None:
    """The channel that a column stands for: of the same name, or the only one of its quantity."""
    plain = re.sub(r"[\W_]", "", name).lower()
    for channel in channels:
        if re.sub(r"[\W_]", "", channel.name).lower() == plain:
            return channel
    same = [c for c in channels if c.quantity == quantity]
    return same[0] if quantity and len(same) == 1 else None


def pair_by_peaks(own: list[float], others: list[float]) -> dict[int, int]:
    """Which of ``own`` goes with which of ``others``, so that all together differ least.

    Sizes above zero; two that differ by more than `ALIKE` times go with nobody. In order of
    size, since then no pair crosses another.
    """
    mine = sorted(range(len(own)), key=lambda i: own[i])
    theirs = sorted(range(len(others)), key=lambda j: others[j])
    alone = math.log(ALIKE)
    best: list[list[tuple[float, dict[int, int]]]] = [
        [(0.0, {})] * (len(theirs) + 1) for _ in range(len(mine) + 1)
    ]
    for a, i in enumerate(mine, start=1):
        best[a][0] = (a * alone, {})
        for b, j in enumerate(theirs, start=1):
            off = abs(math.log(own[i] / others[j]))
            without = best[a - 1][b][0] + alone, best[a - 1][b][1]
            paired = best[a - 1][b - 1][0] + off, best[a - 1][b - 1][1] | {i: j}
            best[a][b] = min(without, best[a][b - 1], paired, key=lambda found: found[0])
    return best[-1][-1][1]


def with_pair(guess: Guess, seen: Seen, pair: FrozenChannel, peak: float) -> Guess:
    """A column that reaches about what a channel reached (SI): a guess to look at."""
    shown = from_si(peak, guess.choice.unit)
    reason = f"{guess.reason}; peaks at {seen.peak:.4g}, {pair.name} at {shown:.4g}"
    choice = guess.choice.model_copy(update={"pairs_with": pair.key})
    return replace(guess, choice=choice, reason=reason, doubtful=True)


def against_peak(guess: Guess, seen: Seen, pair: FrozenChannel, peak: float) -> Guess:
    """Doubt a unit by what the paired channel reached in a run (SI), where another one fits."""
    choice = guess.choice
    if not (peak > 0 and seen.peak > 0 and choice.unit in units_of(choice.quantity)):
        return guess

    def times_off(unit: str) -> float:
        reached = seen.peak_si(unit)
        return max(reached / peak, peak / reached)

    if times_off(choice.unit) < FAR:
        return guess
    better = min(units_of(choice.quantity), key=times_off)
    if times_off(better) > NEAR:
        return guess
    reason = f"peaks at {seen.peak:.4g}, {pair.name} at {from_si(peak, better):.4g} {better}"
    choice = choice.model_copy(update={"unit": better})
    return replace(guess, choice=choice, reason=reason, doubtful=True)


def guess_time_unit(
    step: float, rows: int, unit: str, where: str, run: tuple[str, float] | None
) -> tuple[str, str, bool]:
    """(unit, reason, doubtful) of a time column whose rows lie ``step`` apart.

    run : name and length (s) of a run to compare with
    """
    if (known := known_unit(unit)) in UNITS["time"]:
        return known, f"{where} says {unit}", False
    if run:
        for word in UNITS["time"]:
            if abs(step * rows * factor(word) / run[1] - 1) < 0.3:
                return word, f"steps of {step:g}; {run[0]} lasts {run[1]:.4g} s", True
    if step < 1:
        return "s", f"steps of {step:g}, no unit", True
    return "ms", f"steps of {step:g} without a unit", True
