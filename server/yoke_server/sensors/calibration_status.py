"""Whether a calibration is in force, due or overdue; how values drift from one to the next."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

SOON = 30  # days
YEAR = 365.25


@dataclass(frozen=True, slots=True)
class CalibrationStatus:
    """``status``: overdue, soon, in force, without; ``elapsed`` is its share, 0 to 1."""

    status: str
    words: str
    elapsed: float


def status_of(calibrated_on: date | None, due_on: date | None, today: date) -> CalibrationStatus:
    """Of a sensor today; on the day itself it is due, not overdue."""
    if due_on is None:
        return CalibrationStatus("without", "", 0.0)
    days = (due_on - today).days
    elapsed = 0.0
    if calibrated_on is not None:
        whole = max((due_on - calibrated_on).days, 1)
        elapsed = min(max((today - calibrated_on).days / whole, 0.0), 1.0)
    if days < 0:
        return CalibrationStatus(
            "overdue", f"overdue {-days} {'day' if days == -1 else 'days'}", elapsed
        )
    if days > SOON:
        return CalibrationStatus("in force", due_on.isoformat(), elapsed)
    words = "due today" if days == 0 else f"in {days} {'day' if days == 1 else 'days'}"
    return CalibrationStatus("soon", words, elapsed)


def rise_per_year(points: Sequence[tuple[date, float]]) -> float | None:
    """Change of a value a year by the straight line through its points, over their mean.

    Ordinary least squares; None of fewer than two days, or a mean of zero.
    """
    if len({day for day, _ in points}) < 2:
        return None
    years = [day.toordinal() / YEAR for day, _ in points]
    middle = sum(years) / len(years)
    mean = sum(value for _, value in points) / len(points)
    across = sum((year - middle) ** 2 for year in years)
    along = sum((y - middle) * (v - mean) for y, (_, v) in zip(years, points, strict=True))
    return along / across / mean if mean else None
