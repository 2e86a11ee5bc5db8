"""Computed channels of a setup: added, changed and removed, each as one action with undo."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from yoke_core.formula.checking import Formula
from yoke_core.formula.errors import FormulaError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import suitable_decimals
from yoke_server.kinds.computed import MAX_COMPUTED, ComputedChannel
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.formulas import (
    check_text,
    computed_of,
    stored_formula,
    units_for,
)
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Setup, new_key
from yoke_server.setups.naming import require_free_name
from yoke_server.setups.readable import quantity_of_unit
from yoke_server.setups.services import change_rows, lock


@dataclass(frozen=True, slots=True)
class _Setup:
    """A locked setup with what its formulas may name."""

    row: Setup
    channels: list[FrozenChannel]

    @property
    def computed(self) -> list[ComputedChannel]:
        return list(self.row.computed)

    def one(self, key: str) -> ComputedChannel:
        for channel in self.computed:
            if channel.key == key:
                return channel
        raise Problem(404, "This setup has no such computed channel.", field="key")

    def require_free(self, name: str, but: str = "") -> None:
        others = [c.name for c in self.channels]
        others += [c.name for c in self.computed if c.key != but]
        require_free_name(name, set(map(comparison_key, others)))

    def stored(self, text: str, but: str = "") -> str:
        """A formula with keys in place of names."""
        others = [c for c in self.computed if c.key != but]
        with _said_as_problem():
            return stored_formula(text, self.channels, others)

    def checked(self, changed: ComputedChannel) -> Formula:
        """What a new or changed one comes to; refused where it breaks another one."""
        others = [c for c in self.computed if c.key != changed.key]
        with _said_as_problem():
            formula = check_text(changed.formula, changed.key, self.channels, others)
        broken_before = {
            c.channel.key for c in computed_of(self.channels, self.computed) if c.error
        }
        for other in computed_of(self.channels, [*others, changed]):
            if other.error and other.channel.key not in broken_before:
                title = f"{other.channel.name} could not be computed any more: {other.error}"
                raise Problem(422, title, field="formula", hint=other.error.hint)
        return formula


@contextmanager
def _said_as_problem() -> Iterator[None]:
    """What is wrong with a formula as a 422 problem."""
    try:
        yield
    except FormulaError as error:
        raise Problem(422, str(error), field="formula", hint=error.hint) from error


def _locked(actor: Actor, setup_id: int) -> _Setup:
    require(actor, "wire channels")
    setup = lock(setup_id, while_recording=True)
    return _Setup(setup, freeze_channels(setup))


@transaction.atomic
def add_computed(
    actor: Actor,
    setup_id: int,
    *,
    name: str,
    formula: str,
    unit: str = "",
    decimals: int | None = None,
) -> str:
    """Add a channel given by a formula, and return its key.

    Without a unit it is read in what the formula gives, with decimals that suit it.
    """
    setup = _locked(actor, setup_id)
    if len(setup.computed) >= MAX_COMPUTED:
        raise Problem(
            409,
            f"A setup has at most {MAX_COMPUTED} computed channels.",
            code=ProblemType.LIMIT_REACHED,
            hint="Remove one first.",
        )
    setup.require_free(name)
    made = ComputedChannel(
        key=new_key(), name=name, unit=unit, decimals=decimals or 0, formula=setup.stored(formula)
    )
    made = _with_unit(made, setup.checked(made))
    if decimals is None:
        made = made.model_copy(update={"decimals": _suitable(made.unit)})
    rows = [(setup.row, {"computed": [*setup.computed, made]})]
    change_rows(actor, setup.row, f"Added {name}, computed", rows)
    return made.key


@transaction.atomic
def change_computed(actor: Actor, setup_id: int, key: str, **changes: Any) -> None:
    """Change name, formula, unit or decimals; what is computed of it must still be sound."""
    setup = _locked(actor, setup_id)
    was = setup.one(key)
    if "name" in changes:
        setup.require_free(changes["name"], but=key)
    if "formula" in changes:
        changes["formula"] = setup.stored(changes["formula"], but=key)
        changes.setdefault("unit", "")
    now = was.model_copy(update=changes)
    now = _with_unit(now, setup.checked(now), was.unit)
    computed = [now if c.key == key else c for c in setup.computed]
    change_rows(actor, setup.row, f"Changed {was.name}", [(setup.row, {"computed": computed})])


@transaction.atomic
def remove_computed(actor: Actor, setup_id: int, key: str) -> None:
    """Remove a computed channel; refused while another one is computed of it."""
    setup = _locked(actor, setup_id)
    gone = setup.one(key)
    if users := [c.name for c in setup.computed if key in c.channels]:
        raise Problem(
            409,
            f"{', '.join(users)} is computed of {gone.name}.",
            code=ProblemType.IN_USE,
            hint="Change that one first.",
        )
    rest = [c for c in setup.computed if c.key != key]
    change_rows(actor, setup.row, f"Removed {gone.name}", [(setup.row, {"computed": rest})])


def _suitable(unit: str) -> int:
    return suitable_decimals(quantity_of_unit(unit), unit)


def _with_unit(channel: ComputedChannel, formula: Formula, before: str = "") -> ComputedChannel:
    """In the unit that is wanted; in the one before, or the formula's own, where none is."""
    fitting, wanted = units_for(formula), channel.unit
    if wanted and wanted not in fitting:
        raise Problem(
            422,
            f"What the formula gives cannot be read in {wanted}.",
            field="unit",
            hint=f"Choose one of {', '.join(fitting)}.",
        )
    unit = wanted or (before if before in fitting else formula.result.unit)
    return channel.model_copy(update={"unit": unit})
