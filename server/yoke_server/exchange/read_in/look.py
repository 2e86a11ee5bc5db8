"""A look at a file before a run is made of it: lines, columns, time base, each with its reason."""

import math
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from yoke_core.errors import TableError
from yoke_core.table.shape import COMMENT, Shape, fields_of, guess_shape, shape_by
from yoke_core.table.time_base import TimeBase

from yoke_server.common.problems import Problem
from yoke_server.common.units import UNITS, factor
from yoke_server.exchange.models import FileState, ReadFile
from yoke_server.exchange.read_in.choices import Choices, ColumnChoice, TimeChoice
from yoke_server.exchange.read_in.compare import newest_run
from yoke_server.exchange.read_in.complete import complete
from yoke_server.exchange.read_in.guess import (
    TIMES,
    Guess,
    Role,
    against_peak,
    guess_column,
    guess_time_unit,
    is_time,
    pair_by_peaks,
    split_name,
    with_pair,
)  # fmt: skip
from yoke_server.exchange.read_in.guess import Figures as Seen
from yoke_server.exchange.read_in.rows import Batch, Doubts, Figures, encoding_of
from yoke_server.exchange.read_in.storage import bytes_at, on_disk
from yoke_server.wire.document import FrozenChannel, freeze_channels

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

HEAD_BYTES = 64 << 10
HEAD_LINES = 400
LOOKED_AT = 32 << 20  # bytes; beyond, the figures are checked while the run is made
SHOWN = 12  # first lines
POINTS = 120  # of a column's picture


@dataclass(frozen=True, slots=True)
class ColumnLook:
    """A column with what it is taken for, and its picture in its own figures."""

    guess: Guess
    low: list[float | None]
    high: list[float | None]


@dataclass(slots=True)
class Look:
    """Everything that the preview shows. ``problem`` says why no run can be made like this."""

    shape: Shape
    encoding: str
    lines: list[tuple[int, str]]
    choices: Choices
    columns: list[ColumnLook]
    doubts: Doubts
    rows: int
    whole: bool  # whether all of the file was looked at
    time_reason: str
    time_doubtful: bool
    compared_with: int | None = None  # a run
    rate_hz: float | None = None
    duration_s: float | None = None
    gaps: int = 0
    problem: str = ""
    problem_line: int | None = None
    names: list[str] = field(default_factory=list)


def look_at(file: ReadFile, chosen: Choices) -> Look:
    """Raises a problem where no table can be found in the file."""
    if file.state == FileState.COMING:
        raise Problem(409, f"{file.name} is not here yet.", hint="Send the rest of it.")
    head = bytes_at(file, 0, HEAD_BYTES)
    encoding = encoding_of(head)
    lines = head.decode(encoding, errors="replace").splitlines()[:HEAD_LINES]
    shape = _shape(lines, chosen)
    names, units = _titles(lines, shape)
    most = _whole_lines(file)
    with on_disk(file, shape.separator, most) as path:
        figures = Figures(path, shape, list(range(shape.columns)), encoding)
        batches = list(figures.batches())
    if not sum(len(b.lines) for b in batches):
        raise Problem(422, f"{file.name} has no rows of figures.", hint="Choose another file.")
    found = _Found(file, shape, names, units, batches, chosen)
    look = found.look()
    look.encoding, look.doubts = encoding, _of_taken(figures.doubts, look)
    look.lines = _shown(lines, head.endswith(b"\n") or len(head) == file.size)
    look.whole = most == file.size
    return look


def _shape(lines: list[str], chosen: Choices) -> Shape:
    try:
        if chosen.separator and chosen.decimal:
            return shape_by(lines, chosen.separator, chosen.decimal)
        return guess_shape(lines)
    except TableError as error:
        raise Problem(422, str(error), field="separator", hint=error.hint) from None


def _titles(lines: list[str], shape: Shape) -> tuple[list[str], list[str]]:
    """Names and units of the columns, from their lines or from brackets in the names."""

    def fields(number: int | None) -> list[str]:
        text = lines[number - 1].lstrip(COMMENT).strip() if number else ""
        found = fields_of(text, shape.separator) if number else []
        return (found + [""] * shape.columns)[: shape.columns]

    names, units = fields(shape.names_line), fields(shape.units_line)
    split = [split_name(name) for name in names]
    return [n for n, _ in split], [u or b for u, (_, b) in zip(units, split, strict=True)]


def _whole_lines(file: ReadFile) -> int:
    """How much of the file is looked at: all, or up to the end of a line."""
    if file.size <= LOOKED_AT:
        return file.size
    tail = bytes_at(file, LOOKED_AT - HEAD_BYTES, HEAD_BYTES)
    return LOOKED_AT - HEAD_BYTES + tail.rfind(b"\n") + 1


def _shown(lines: list[str], last_is_whole: bool) -> list[tuple[int, str]]:
    kept = lines if last_is_whole else lines[:-1]
    return [(i, text[:200]) for i, text in enumerate(kept[:SHOWN], start=1)]


def _of_taken(doubts: Doubts, look: Look) -> Doubts:
    """Doubts of columns that are left out are of no use to anybody."""
    time = look.choices.time
    taken = {c.place for c in look.choices.columns or [] if c.take}
    taken |= {time.column} if time and time.column is not None else set()
    first = [d for d in doubts.first if d.column is None or d.column in taken]
    return Doubts(first, len(first) if len(first) < len(doubts.first) else doubts.count)


class _Found:
    """A file's figures at hand: guesses where nothing was chosen."""

    def __init__(
        self, file: ReadFile, shape: Shape, names: list[str], units: list[str],
        batches: list[Batch], chosen: Choices,
    ) -> None:  # fmt: skip
        import numpy as np

        self._shape, self._names, self._units, self._chosen = shape, names, units, chosen
        self._batches = batches
        self._values = np.concatenate([b.values for b in batches])
        self._channels = freeze_channels(file.setup)
        self._other = newest_run(file.setup)
        self._where = f"line {shape.units_line or shape.names_line}"

    def look(self) -> Look:
        import numpy as np

        with np.errstate(all="ignore"):
            time, reason, doubtful = self._time()
            guesses = self._paired([self._guess(i, time) for i in range(self._shape.columns)])
            guesses = [self._chosen_of(self._compared(g)) for g in guesses]
            columns = [ColumnLook(g, *self._picture(i)) for i, g in enumerate(guesses)]
        choices = self._chosen.model_copy(
            update={
                "separator": self._shape.separator, "decimal": self._shape.decimal,
                "time": time, "columns": [g.choice for g in guesses],
            }
        )  # fmt: skip
        other = self._other.run.pk if self._other else None
        look = Look(
            self._shape, "", [], choices, columns, Doubts(), len(self._values), True, reason,
            doubtful, other, names=self._names,
        )  # fmt: skip
        self._measure(look)
        return look

    # The time

    def _time(self) -> tuple[TimeChoice, str, bool]:
        """The choice, its reason, and whether a person should look at it."""
        if self._chosen.time:
            return self._chosen.time, "chosen", False
        places = [
            i for i, (n, u) in enumerate(zip(self._names, self._units, strict=True))
            if is_time(n, u)
        ] or [i for i in range(self._shape.columns) if self._steady(i)][:1]  # fmt: skip
        if not places:
            none = TimeChoice(column=None, rate_hz=None)
            return none, "no column rises evenly: give the rate of the rows", True
        place, others = places[0], places[1:]
        run = (self._other.name, self._other.duration_s) if self._other else None
        step, rows = self._step(place), len(self._values)
        unit, reason, doubtful = guess_time_unit(step, rows, self._units[place], self._where, run)
        if others:
            also = ", ".join(self._names[i] or f"column {i + 1}" for i in others)
            reason, doubtful = f"{reason}; {also} could be the time too", True
        choice = TimeChoice.model_validate({"column": place, "unit": unit})
        return choice, reason, doubtful

    def _step(self, place: int) -> float:
        import numpy as np

        steps = np.diff(self._values[:, place])
        known = steps[np.isfinite(steps)]
        return float(np.median(known)) if known.size else 0.0

    def _steady(self, place: int) -> bool:
        import numpy as np

        steps, step = np.diff(self._values[:, place]), self._step(place)
        return step > 0 and bool(np.nanmax(np.abs(steps - step)) < 1e-3 * step)

    def _measure(self, look: Look) -> None:
        """Rate, duration and gaps of what would be made, or why nothing can."""
        columns = [c for c in look.choices.columns or [] if c.take]
        if problem := why_not(columns, self._channels):
            look.problem = problem
            return
        taken = [c.place for c in columns]
        time = look.choices.time
        assert time is not None
        base = TimeBase()
        try:
            for batch in complete(self._used(time, taken), look.choices.doubtful):
                base.push(*seconds_of(batch, time))
            check_base(base)
        except (TableError, Problem) as error:
            look.problem = f"{error} {error.hint}"
            look.problem_line = getattr(error, "line", None)
            return
        first, last = base.stretches[0], base.stretches[-1]
        look.rate_hz, look.gaps = 1 / rate_step(base), len(base.stretches) - 1
        look.duration_s = last.end - first.start + rate_step(base)

    def _used(self, time: TimeChoice, taken: list[int]) -> list[Batch]:
        places = ([] if time.column is None else [time.column]) + taken
        return [Batch(b.values[:, places], b.lines) for b in self._batches]

    # The columns

    def _guess(self, place: int, time: TimeChoice) -> Guess:
        seen = self._seen(place)
        name = self._names[place]
        if place == time.column:
            title = (name or f"Column {place + 1}")[:30]
            own = ColumnChoice(place=place, take=False, name=title, quantity="time", unit=time.unit)
            return Guess(own, self._units[place], "", role="time")
        units = self._units[place]
        return guess_column(place, name, units, self._where, seen, self._channels)

    def _chosen_of(self, guess: Guess) -> Guess:
        """What a person chose instead."""
        chosen = self._chosen.columns or []
        own = next((c for c in chosen if c.place == guess.choice.place), None)
        if own is None or own == guess.choice or guess.role == "time":
            return guess
        role: Role = "channel" if own.take else "left out"
        return replace(guess, choice=own, reason="chosen", doubtful=False, role=role)

    def _paired(self, guesses: list[Guess]) -> list[Guess]:
        """Columns that stand for no channel yet, with those whose peaks they share."""
        taken = {g.choice.pairs_with for g in guesses}
        for quantity in sorted({g.choice.quantity for g in guesses if g.choice.take}):
            alone = [
                g for g in guesses if g.choice.quantity == quantity and not g.choice.pairs_with
            ]
            free = [c for c in self._channels if c.quantity == quantity and c.key not in taken]
            guesses = self._by_peaks(guesses, alone, free)
        return guesses

    def _by_peaks(
        self, guesses: list[Guess], alone: list[Guess], free: list[FrozenChannel]
    ) -> list[Guess]:
        if self._other is None:
            return guesses
        peaks = [self._other.peak(c.key) for c in free]
        own = [self._seen(g.choice.place).peak * factor(g.choice.unit) for g in alone]
        sized = [i for i, p in enumerate(own) if p > 0], [j for j, p in enumerate(peaks) if p > 0]
        pairs = pair_by_peaks([own[i] for i in sized[0]], [peaks[j] for j in sized[1]])
        for i, j in pairs.items():
            guess, at = alone[sized[0][i]], sized[1][j]
            fresh = with_pair(guess, self._seen(guess.choice.place), free[at], peaks[at])
            guesses = [fresh if g is guess else g for g in guesses]
        return guesses

    def _compared(self, guess: Guess) -> Guess:
        """Unit and sign against what the channel did in the run."""
        key, other = guess.choice.pairs_with, self._other
        if not key or other is None:
            return guess
        pair = next(c for c in self._channels if c.key == key)
        guess = against_peak(guess, self._seen(guess.choice.place), pair, other.peak(key))
        likeness = other.likeness(key, self._values[:, guess.choice.place])
        if likeness < -0.8:
            choice = guess.choice.model_copy(update={"turned": True})
            reason = f"moves against {pair.name} of {other.name}, r = {likeness:.2f}: sign turned"
            return replace(guess, choice=choice, reason=reason, doubtful=True)
        return guess

    def _seen(self, place: int) -> Seen:
        import numpy as np

        column = self._values[:, place]
        good = column[np.isfinite(column)]
        ends = (float(good.min()), float(good.max())) if good.size else (0.0, 0.0)
        return Seen(int(good.size), len(column), *ends)

    def _picture(self, place: int) -> tuple[list[float | None], list[float | None]]:
        import numpy as np

        column = self._values[:, place]
        starts = np.unique(np.arange(POINTS) * column.size // POINTS)
        low, high = np.fmin.reduceat(column, starts), np.fmax.reduceat(column, starts)
        return _plain(low), _plain(high)


def why_not(taken: list[ColumnChoice], channels: list[FrozenChannel]) -> str:
    """Why no run can be made of these columns; empty if one can."""
    if not taken:
        return "No column is taken: choose a quantity and a unit for one."
    quantities = {c.key: c.quantity for c in channels}
    for i, choice in enumerate(taken):
        if choice.unit not in UNITS.get(choice.quantity, ()):
            return f"{choice.name} has no unit of its quantity: choose one."
        if choice.name in (c.name for c in taken[:i]):
            return f"Two columns are named {choice.name}: change one of them."
        key = choice.pairs_with
        if key and key in (c.pairs_with for c in taken[:i]):
            return f"{choice.name} goes with the same channel as another column: change one."
        if key and quantities.get(key) != choice.quantity:
            return f"{choice.name} cannot go with that channel: it measures something else."
    return ""


def _plain(values: "NDArray[np.float64]") -> list[float | None]:
    return [float(v) if math.isfinite(v) else None for v in values]


def seconds_of(batch: Batch, time: TimeChoice) -> "tuple[NDArray[np.float64], NDArray[np.int64]]":
    """The time of each row in seconds, from its own column or from its line and the rate."""
    if time.column is not None:
        return batch.values[:, 0] * TIMES[time.unit], batch.lines
    if not time.rate_hz:
        raise Problem(
            422, "There is no time.", field="time", hint="Choose its column, or give a rate."
        )
    return batch.lines / time.rate_hz, batch.lines


def check_base(base: TimeBase) -> None:
    if base.rows < 2 or not base.step:
        raise Problem(
            422, "There are fewer than two whole rows.", hint="Take fewer columns, or bridge gaps."
        )


def rate_step(base: TimeBase) -> float:
    """Seconds from row to row, over the longest stretch."""
    longest = max(base.stretches, key=lambda s: s.rows)
    return longest.step or base.step
