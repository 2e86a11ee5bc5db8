"""Limits on password attempts: per account, per address, and per account and address.

A try is a row, written before the password is looked at and deleted if it was right: many at once
count each other, and a right sign-in forgets no wrong one. A try that is refused is no row, so a
wait ends when it said.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import ceil

from django.conf import settings

from yoke_server.accounts.models import PasswordTry
from yoke_server.common.http.problems import Problem


@dataclass(frozen=True, slots=True)
class Limit:
    """So many wrong tries that agree in some fields within so many seconds."""

    fields: tuple[str, ...]
    most: int
    seconds: int


# From one address nobody reaches the limit of an account, so that nobody keeps out anybody who
# is elsewhere; from many together it is reached for a minute.
LIMITS = (
    Limit(("username", "address"), settings.WRONG_PASSWORDS, 300),
    Limit(("address",), 3 * settings.WRONG_PASSWORDS, 300),
    Limit(("username",), 2 * settings.WRONG_PASSWORDS, 60),
)
KEPT = timedelta(seconds=max(limit.seconds for limit in LIMITS))


def begin_try(username: str, address: str) -> PasswordTry:
    """A try that may be made; raises a 429 problem where there were too many."""
    _require_none_too_many(username, address)
    found = PasswordTry.objects.create(username=username, address=address)
    try:
        _require_none_too_many(username, address, own=found.pk)
    except Problem:
        found.delete()
        raise
    return found


def _require_none_too_many(username: str, address: str, own: int | None = None) -> None:
    wait = max(_wait(limit, username, address, own) for limit in LIMITS)
    if wait > 0:
        raise Problem(
            429,
            "There were too many wrong passwords.",
            hint=f"Wait {_spoken(wait)}, then try again.",
        )


def _wait(limit: Limit, username: str, address: str, own: int | None) -> float:
    """Seconds until a try is allowed: until the oldest that counts is old enough."""
    now, by = datetime.now(UTC), {"username": username, "address": address}
    begin = now - timedelta(seconds=limit.seconds)
    rows = PasswordTry.objects.filter(at__gt=begin, **{name: by[name] for name in limit.fields})
    if own:
        rows = rows.filter(pk__lt=own)
    newest = rows.order_by("-at").values_list("at", flat=True)[: limit.most]
    times = list(newest)
    return (times[-1] - begin).total_seconds() if len(times) == limit.most else 0.0


def _spoken(seconds: float) -> str:
    if seconds <= 90:
        return f"{ceil(seconds)} seconds"
    return f"{ceil(seconds / 60)} minutes"


def forget_old_tries() -> None:
    """Those that count no more."""
    PasswordTry.objects.filter(at__lt=datetime.now(UTC) - KEPT).delete()
