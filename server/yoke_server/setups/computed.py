"""Computed channels of a setup: added, changed and taken away, each as one action with undo."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from yoke_core.formula.errors import FormulaError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.computed import MAX_COMPUTED, ComputedChannel
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.formulas import (
    Computed,
    computed_of,
    require_one_device,
    stored_formula,
    units_for,
)
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Setup, new_key
from yoke_server.setups.services import change_rows, lock

USUAL_DECIMALS = 3


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
        """No two channels, measured or computed, have names that look alike."""
        others = [c.name for c in self.channels]
        others += [c.name for c in self.computed if c.key != but]
        if comparison_key(name) in map(comparison_key, others):
            raise Problem(
                409,
                f"There is a channel {name} already.",
                code=ProblemType.NAME_TAKEN,
                field="name",
                hint="Choose another name.",
            )

    def stored(self, text: str, but: str = "") -> str:
        """A formula with keys in place of names."""
        others = [c for c in self.computed if c.key != but]
        return str(_refused_if_wrong(lambda: stored_formula(text, self.channels, others)))

    def checked(self, computed: Sequence[ComputedChannel], key: str) -> Computed:
        """One of them, once all are sound; a 422 problem otherwise."""
        found = {c.channel.key: c for c in computed_of(self.channels, computed)}
        for one in (found[key], *found.values()):
            if one.error and one.channel.key == key:
                raise _problem(one.error)
            if one.error and key in one.channel.channels:
                raise _problem(one.error, of=one.channel.name)
        formula = found[key].formula
        if formula:
            _refused_if_wrong(lambda: require_one_device(self.channels, formula))
        return found[key]


def _refused_if_wrong(act: Any) -> Any:
    try:
        return act()
    except FormulaError as error:
        raise _problem(error) from error


def _problem(error: FormulaError, of: str = "") -> Problem:
    title = f"{of} cannot be computed any more: {error}" if of else str(error)
    return Problem(422, title, field="formula", hint=error.hint)


def _locked(actor: Actor, setup_id: int) -> _Setup:
    require(actor, "wire channels")
    setup = lock(setup_id)
    return _Setup(setup, freeze_channels(setup))


@transaction.atomic
def add_computed(
    actor: Actor,
    setup_id: int,
    *,
    name: str,
    formula: str,
    unit: str = "",
    decimals: int = USUAL_DECIMALS,
) -> str:
    """Add a channel given by a formula, and return its key.

    Without a unit it is read in what the formula gives.
    """
    setup = _locked(actor, setup_id)
    if len(setup.computed) >= MAX_COMPUTED:
        raise Problem(
            409,
            f"A setup has at most {MAX_COMPUTED} computed channels.",
            code=ProblemType.LIMIT_REACHED,
            hint="Take one away first.",
        )
    setup.require_free(name)
    made = ComputedChannel(
        key=new_key(), name=name, unit=unit, decimals=decimals, formula=setup.stored(formula)
    )
    made = _with_unit(setup.checked([*setup.computed, made], made.key))
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
    others = [now if c.key == key else c for c in setup.computed]
    now = _with_unit(setup.checked(others, key), was.unit)
    computed = [now if c.key == key else c for c in others]
    change_rows(actor, setup.row, f"Changed {was.name}", [(setup.row, {"computed": computed})])


@transaction.atomic
def remove_computed(actor: Actor, setup_id: int, key: str) -> None:
    """Take a computed channel away; refused while another one is computed of it."""
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
    change_rows(actor, setup.row, f"Took {gone.name} away", [(setup.row, {"computed": rest})])


def _with_unit(found: Computed, before: str = "") -> ComputedChannel:
    """In the unit that is wanted; in the one before, or the formula's own, where none is."""
    assert found.formula is not None
    fitting, wanted = units_for(found.formula), found.channel.unit
    if wanted and wanted not in fitting:
        raise Problem(
            422,
            f"What the formula gives cannot be read in {wanted}.",
            field="unit",
            hint=f"Choose one of {', '.join(fitting)}.",
        )
    unit = wanted or (before if before in fitting else found.formula.result.unit)
    return found.channel.model_copy(update={"unit": unit})
