"""How each person wants readings and tables shown. Nothing stored or reported changes with it."""

from collections.abc import Mapping
from datetime import datetime, timedelta

from django.db import transaction
from django.utils.timezone import now

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Preferences, User
from yoke_server.accounts.schemas import DisplayChange, PreferencesOut
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import UNITS, is_unit_of, suitable_decimals, units_of


def preferences_of(user: User) -> PreferencesOut:
    """What a person set; empty where nothing."""
    kept = Preferences.objects.filter(user=user).first() or Preferences()
    return _out(user, kept)


def _out(user: User, kept: Preferences) -> PreferencesOut:
    return PreferencesOut(
        display=kept.display, columns=kept.columns, mails=kept.mails, email=user.email
    )


WEEK = timedelta(days=7)


def last_looked(actor: Actor) -> datetime:
    """Up to when somebody has seen what happened; a week ago, where they never have."""
    kept = Preferences.objects.filter(user=actor.user).first()
    return (kept and kept.looked_at) or now() - WEEK


def look_until(actor: Actor, moment: datetime) -> None:
    """They have seen what happened up to a moment."""
    Preferences.objects.update_or_create(user=actor.user, defaults={"looked_at": moment})


@transaction.atomic
def change_preferences(
    actor: Actor,
    display: Mapping[str, DisplayChange | None],
    columns: Mapping[str, list[str] | None],
    mails: bool | None = None,
    email: str | None = None,
) -> PreferencesOut:
    """Change some of one's own preferences; None takes one back, or leaves it."""
    for quantity, shown in display.items():
        _require_unit(quantity, shown)
    kept, _ = Preferences.objects.select_for_update().get_or_create(user=actor.user)
    for quantity, shown in display.items():
        kept.display.pop(quantity, None)
        if shown is not None:
            kept.display[quantity] = _with_decimals(quantity, shown)
    for table, names in columns.items():
        kept.columns.pop(table, None)
        if names is not None:
            kept.columns[table] = names
    _set_mails(actor.user, kept, mails, email)
    kept.save()
    return _out(actor.user, kept)


def _set_mails(user: User, kept: Preferences, mails: bool | None, email: str | None) -> None:
    """Only what happens from then on is told."""
    if email is not None:
        user.email = email
        user.save(update_fields=["email"])
    if mails is None:
        return
    if mails and not user.email:
        said = "There is no address to send messages to."
        raise Problem(422, said, field="email", hint="Give your e-mail address too.")
    if mails and not kept.mails:
        kept.mailed_until = now()
    kept.mails = mails


def _with_decimals(quantity: str, shown: DisplayChange) -> dict[str, object]:
    decimals = shown.decimals
    if decimals is None:
        decimals = suitable_decimals(quantity, shown.unit)
    return {"unit": shown.unit, "decimals": decimals}


def _require_unit(quantity: str, shown: DisplayChange | None) -> None:
    if quantity not in UNITS:
        raise Problem(
            422, f"There is no quantity {quantity}.", field="display", hint="Choose another."
        )
    if shown is not None and not is_unit_of(shown.unit, quantity):
        choices = ", ".join(units_of(quantity))
        said = f"{shown.unit} is no unit of {quantity}."
        raise Problem(422, said, field="display", hint=f"Choose one of {choices}.")
