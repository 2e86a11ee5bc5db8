"""The database's clock, which all processes share: when something was asked for, and its life."""

import time
from contextvars import ContextVar
from datetime import date, datetime
from typing import Any

from django.conf import settings
from django.db.models import DateTimeField, DurationField, ExpressionWrapper, F, FloatField, Func
from django.db.models.functions import Extract

arrived_at: ContextVar[float | None] = ContextVar("arrived_at", default=None)
"""Monotonic time at which the request that is being served came in."""


def laboratory_today() -> date:
    """The date where the laboratory is (`settings.LABORATORY_ZONE`): certificates bear it."""
    return datetime.now(settings.LABORATORY_ZONE).date()


def laboratory_time(moment: datetime) -> str:
    """A moment as clocks show it where the laboratory is."""
    return f"{moment.astimezone(settings.LABORATORY_ZONE):%Y-%m-%d %H:%M}"


def clock_timestamp() -> Func:
    """The time at which the database reads this, not that at which its transaction began."""
    return Func(function="clock_timestamp", output_field=DateTimeField())


def waited_s() -> float:
    """How long ago the request that is being served came in; 0 outside of one."""
    arrived = arrived_at.get()
    return 0.0 if arrived is None else time.monotonic() - arrived


def age_s(field: str) -> Any:
    """Seconds since a field's time, by the database's clock."""
    passed = ExpressionWrapper(clock_timestamp() - F(field), output_field=DurationField())
    return Extract(passed, "epoch", output_field=FloatField())
