"""Bursts: a stretch of everything, every so many seconds or cycles."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import SignalError

Array = NDArray[np.float64]
MAX_DECADES = 12
NEAR = 1e-9  # by which a position may lie before an edge and count as behind it


@dataclass(frozen=True, slots=True)
class BurstPlan:
    """Where bursts lie, in seconds or in cycles from the beginning.

    Parameters
    ----------
    length : float
        Of each, positive.
    every : float
        From the beginning of one to that of the next; longer than ``length``.
    per_decade : int or None
        None: evenly. Else the first burst begins at 0, the second after ``every``, and from
        there on so many begin in each tenfold of the time, evenly on its logarithm.

    Raises
    ------
    SignalError
        For bursts that are longer than what lies between them.

    Examples
    --------
    >>> BurstPlan(2, 10).covers([0, 1, 2, 9, 10, 11, 12]).tolist()
    [True, True, False, False, True, True, False]
    >>> BurstPlan(1, 10, per_decade=1).covers([0, 1, 10, 20, 100, 1000, 1001]).tolist()
    [True, False, True, False, True, True, False]
    """

    length: float
    every: float
    per_decade: int | None = None

    def __post_init__(self) -> None:
        if not self.length > 0:
            raise SignalError("length", "A burst has a length above zero.")
        if self.length > self.shortest_interval:
            raise SignalError(
                "length",
                f"Bursts of {self.length:g} are longer than the {self.shortest_interval:.4g} "
                "from one to the next.",
                "Make them shorter or rarer, or keep everything.",
            )

    @property
    def shortest_interval(self) -> float:
        """Between the beginnings of two bursts that follow each other."""
        if self.per_decade is None:
            return self.every
        return self.every * min(1.0, 10 ** (1 / self.per_decade) - 1)

    def covers(self, position: ArrayLike) -> NDArray[np.bool_]:
        """Whether each position, from 0, lies in a burst."""
        at = np.asarray(position, dtype=float) + NEAR
        if self.per_decade is None:
            inside: NDArray[np.bool_] = np.mod(at, self.every) < self.length
            return inside
        begins = self._begins()
        last = begins[np.searchsorted(begins, at, side="right") - 1]
        return np.asarray(at - last < self.length)

    def until(self, position: float) -> int:
        """Bursts that have begun before a position."""
        if self.per_decade is None:
            return int(np.ceil(position / self.every))
        return int(np.searchsorted(self._begins(), position))

    def _begins(self) -> Array:
        assert self.per_decade is not None
        steps = np.arange(MAX_DECADES * self.per_decade + 1) / self.per_decade
        return np.concatenate([[0.0], self.every * 10**steps])
