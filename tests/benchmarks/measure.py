"""Rows of the table, and running contenders in turn."""

import time
from collections.abc import Callable
from dataclasses import dataclass

ROUNDS = 7


@dataclass(frozen=True)
class Row:
    """One promise: our best, the floor's best, and whether it holds."""

    measure: str
    ours: float
    floor: float | None
    unit: str
    wanted: str
    holds: bool

    @property
    def ratio(self) -> float | None:
        return self.ours / self.floor if self.floor else None


def timed(action: Callable[[], object]) -> float:
    start = time.perf_counter()
    action()
    return time.perf_counter() - start


def interleaved(
    ours: Callable[[], object],
    floor: Callable[[], object],
    rounds: int = ROUNDS,
    before: Callable[[int], object] = lambda number: None,
) -> tuple[float, float]:
    """Best wall times of both, run in turn so that a slow spell hits both.

    ``before`` is done before each round, untimed, and gets its number.
    """
    pairs = []
    for number in range(rounds):
        before(number)
        pairs.append((timed(ours), timed(floor)))
    return min(p[0] for p in pairs), min(p[1] for p in pairs)


def percentile(values: list[float], share: float) -> float:
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]


def table(rows: list[Row]) -> str:
    head = ("measure", "ours", "floor", "ratio", "wanted", "holds")
    lines = [head]
    for r in rows:
        ratio = "-" if r.ratio is None else f"{r.ratio:.2f}"
        floor = "-" if r.floor is None else f"{r.floor:.4g} {r.unit}"
        verdict = "yes" if r.holds else "NO"
        lines.append((r.measure, f"{r.ours:.4g} {r.unit}", floor, ratio, r.wanted, verdict))
    widths = [max(len(line[i]) for line in lines) for i in range(len(head))]
    return "\n".join("  ".join(c.ljust(w) for c, w in zip(x, widths, strict=True)) for x in lines)
