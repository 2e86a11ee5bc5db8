"""How each person wants readings and tables shown. Nothing stored or reported changes with it."""

from collections.abc import Mapping

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Preferences, User
from yoke_server.accounts.schemas import DisplayUnit, PreferencesOut
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import learn_own_units, units_of


def preferences_of(user: User) -> PreferencesOut:
    """What a person set; empty where nothing."""
    kept = Preferences.objects.filter(user=user).first() or Preferences()
    return PreferencesOut(display=kept.display, columns=kept.columns)


@transaction.atomic
def change_preferences(
    actor: Actor,
    display: Mapping[str, DisplayUnit | None],
    columns: Mapping[str, list[str] | None],
) -> PreferencesOut:
    """Change some of one's own preferences; None takes one back."""
    for quantity, shown in display.items():
        _require_unit(quantity, shown)
    kept, _ = Preferences.objects.select_for_update().get_or_create(user=actor.user)
    for quantity, shown in display.items():
        kept.display.pop(quantity, None)
        if shown is not None:
            kept.display[quantity] = shown.model_dump()
    for table, names in columns.items():
        kept.columns.pop(table, None)
        if names is not None:
            kept.columns[table] = names
    kept.save()
    return PreferencesOut(display=kept.display, columns=kept.columns)


def _require_unit(quantity: str, shown: DisplayUnit | None) -> None:
    learn_own_units()
    known = units_of(quantity)
    if not known:
        raise Problem(
            422, f"There is no quantity {quantity}.", field="display", hint="Choose another."
        )
    if shown is not None and shown.unit not in known:
        choices = ", ".join(known)
        said = f"{shown.unit} is no unit of {quantity}."
        raise Problem(422, said, field="display", hint=f"Choose one of {choices}.")
