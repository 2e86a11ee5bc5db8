"""The columns of a file: what each is guessed to be, beside what a person chose."""

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from yoke_core.table.shape import Shape

from yoke_server.exchange.importing.choices import Choices, ColumnChoice, TimeChoice
from yoke_server.exchange.importing.compare import newest_run
from yoke_server.exchange.importing.guess import (
    Guess,
    Role,
    Seen,
    against_peak,
    guess_column,
    guess_time_unit,
    is_time,
    pair_by_peaks,
    with_pair,
)
from yoke_server.exchange.importing.rows import Batch
from yoke_server.exchange.models import ImportedFile
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import freeze_channels

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

POINTS = 120  # of a column's picture


@dataclass(frozen=True, slots=True)
class ColumnPreview:
    """A column with what it is taken for, and its picture in its own figures."""

    guess: Guess
    low: list[float | None]
    high: list[float | None]


class Columns:
    """A file's figures at hand: what they are guessed to be where nothing was chosen."""

    def __init__(
        self,
        file: ImportedFile,
        shape: Shape,
        titles: tuple[list[str], list[str]],
        batches: list[Batch],
        chosen: Choices,
    ) -> None:
        import numpy as np

        self._shape, self._chosen = shape, chosen
        self._names, self._units = titles
        self._values = np.concatenate([b.values for b in batches])
        self._seen = [self._look_over(i) for i in range(shape.columns)]
        self.channels = freeze_channels(file.setup)
        self.other = newest_run(file.setup)
        self._where = f"line {shape.units_line or shape.names_line}"

    def all(self, time: TimeChoice) -> list[ColumnPreview]:
        """Each column with its guess and its picture."""
        import numpy as np

        with np.errstate(all="ignore"):
            guesses = self._paired([self._guess(i, time) for i in range(self._shape.columns)])
            guesses = [self._chosen_of(self._compared(g)) for g in guesses]
            return [ColumnPreview(g, *self._picture(i)) for i, g in enumerate(guesses)]

    # The time

    def time(self) -> tuple[TimeChoice, str, bool]:
        """The choice, its reason, and whether a person should look at it."""
        guess = self._guess_time()
        chosen = self._chosen.time
        return guess if chosen is None or chosen == guess[0] else (chosen, "chosen", False)

    def _guess_time(self) -> tuple[TimeChoice, str, bool]:
        places = [
            i
            for i, (n, u) in enumerate(zip(self._names, self._units, strict=True))
            if is_time(n, u)
        ] or [i for i in range(self._shape.columns) if self._steady(i)][:1]
        if not places:
            none = TimeChoice(column=None, rate_hz=None)
            return none, "no column rises evenly: give the rate of the rows", True
        place, others = places[0], places[1:]
        run = (self.other.name, self.other.duration_s) if self.other else None
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

    # The columns

    def _guess(self, place: int, time: TimeChoice) -> Guess:
        seen = self._seen[place]
        name = self._names[place]
        if place == time.column:
            title = (name or f"Column {place + 1}")[:30]
            own = ColumnChoice(place=place, take=False, name=title, quantity="time", unit=time.unit)
            return Guess(own, self._units[place], "", role="time")
        units = self._units[place]
        return guess_column(place, name, units, self._where, seen, self.channels)

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
            free = [c for c in self.channels if c.quantity == quantity and c.key not in taken]
            guesses = self._by_peaks(guesses, alone, free)
        return guesses

    def _by_peaks(
        self, guesses: list[Guess], alone: list[Guess], free: list[FrozenChannel]
    ) -> list[Guess]:
        if self.other is None:
            return guesses
        peaks = [self.other.peak(c.key) for c in free]
        own = [self._seen[g.choice.place].peak_si(g.choice.unit) for g in alone]
        sized = [i for i, p in enumerate(own) if p > 0], [j for j, p in enumerate(peaks) if p > 0]
        pairs = pair_by_peaks([own[i] for i in sized[0]], [peaks[j] for j in sized[1]])
        for i, j in pairs.items():
            guess, at = alone[sized[0][i]], sized[1][j]
            fresh = with_pair(guess, self._seen[guess.choice.place], free[at], peaks[at])
            guesses = [fresh if g is guess else g for g in guesses]
        return guesses

    def _compared(self, guess: Guess) -> Guess:
        """Unit and sign against what the channel did in the run."""
        key, other = guess.choice.pairs_with, self.other
        if not key or other is None:
            return guess
        pair = next((c for c in self.channels if c.key == key), None)
        if pair is None:
            return guess
        guess = against_peak(guess, self._seen[guess.choice.place], pair, other.peak(key))
        likeness = other.likeness(key, self._values[:, guess.choice.place])
        if likeness < -0.8:
            choice = guess.choice.model_copy(update={"turned": True})
            against = f"moves against {pair.name} of {other.name}, r = \u2212{-likeness:.2f}"
            reason = f"{against}: sign turned"
            return replace(guess, choice=choice, reason=reason, doubtful=True)
        return guess

    def _look_over(self, place: int) -> Seen:
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


def _plain(values: "NDArray[np.float64]") -> list[float | None]:
    return [float(v) if math.isfinite(v) else None for v in values]
