"""The status of calibrations by hand."""

from datetime import date

import pytest
from yoke_server.sensors.calibration_status import rise_per_year, status_of

TODAY = date(2026, 11, 26)


@pytest.mark.parametrize(
    ("due", "status", "words"),
    [
        (date(2026, 10, 16), "overdue", "overdue 41 days"),
        (date(2026, 11, 25), "overdue", "overdue 1 day"),
        (TODAY, "soon", "due today"),
        (date(2026, 11, 27), "soon", "in 1 day"),
        (date(2026, 12, 26), "soon", "in 30 days"),
        (date(2026, 12, 27), "in force", "2026-12-27"),
        (None, "without", ""),
    ],
)
def test_the_status_of_a_calibration(due, status, words):
    found = status_of(date(2026, 1, 1), due, TODAY)
    assert (found.status, found.words) == (status, words)


def test_how_much_of_a_term_has_passed():
    assert status_of(date(2026, 5, 27), date(2027, 5, 28), TODAY).elapsed == pytest.approx(
        0.5, 0.01
    )
    assert status_of(date(2020, 1, 1), date(2021, 1, 1), TODAY).elapsed == 1
    assert status_of(date(2027, 1, 1), date(2028, 1, 1), TODAY).elapsed == 0
    assert status_of(date(2027, 1, 1), date(2027, 1, 1), TODAY).elapsed == 0


def test_a_straight_line_through_calibrations():
    rise = rise_per_year(
        [(date(2024, 3, 14), 2.0), (date(2025, 3, 14), 2.0002), (date(2026, 3, 14), 2.0004)]
    )
    assert rise == pytest.approx(1e-4, rel=1e-3)
    assert rise_per_year([(TODAY, 2.0)]) is None
    assert rise_per_year([(TODAY, 2.0), (TODAY, 3.0)]) is None
    assert rise_per_year([(TODAY, 1.0), (date(2025, 1, 1), -1.0)]) is None
