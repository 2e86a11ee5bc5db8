"""Units of the laboratory's own, each defined by a formula of units that are known."""

import math
from collections.abc import Iterable

from django.db import IntegrityError, transaction
from yoke_core.formula.dimension import Dimension
from yoke_core.formula.errors import FormulaError
from yoke_core.formula.lexing import read_unit
from yoke_core.formula.names import Names

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import (
    FROM_ABSOLUTE_ZERO,
    UNITS,
    OwnUnit,
    Unit,
    dimension_of,
    learn_own_units,
)
from yoke_server.ledger.services import record
from yoke_server.setups.formulas import formula_units
from yoke_server.setups.models import LaboratoryUnit

MAX_UNITS = 100


def stored_units() -> Iterable[OwnUnit]:
    """As the table of them says."""
    for row in LaboratoryUnit.objects.all():
        yield OwnUnit(row.quantity, Unit(row.name, row.factor, 0.0))


@transaction.atomic
def define_unit(actor: Actor, name: str, quantity: str, definition: str) -> LaboratoryUnit:
    """Define a unit; raises a 422 problem that says what is wrong with its name or formula."""
    require(actor, "change scaling")
    if quantity not in UNITS or quantity in FROM_ABSOLUTE_ZERO:
        raise _wrong("quantity", f"No unit of one's own is defined for {quantity}.", "")
    _require_free(name)
    factor = _factor_of(definition, quantity)
    if LaboratoryUnit.objects.count() >= MAX_UNITS:
        said = f"There are {MAX_UNITS} units already."
        raise Problem(409, said, code=ProblemType.LIMIT_REACHED, hint="Use one of them.")
    try:
        with transaction.atomic():
            row = LaboratoryUnit.objects.create(
                name=name,
                quantity=quantity,
                definition=definition,
                factor=factor,
                actor=actor.user,
            )
    except IntegrityError as error:  # somebody else defined it at the same moment
        raise _taken(name) from error
    record(actor, f"Defined the unit {name} as {definition}")
    transaction.on_commit(learn_own_units)
    return row


def _require_free(name: str) -> None:
    learn_own_units()
    if not name[0].isalpha() or any(c.isdigit() or c.isspace() for c in name):
        raise _wrong(
            "name", f"{name} is no name of a unit.", "Begin with a letter, without spaces."
        )
    if read_unit(name, Names(formula_units())) is not None:
        raise _taken(name)


def _taken(name: str) -> Problem:
    return _wrong("name", f"There is a unit {name} already.", "Give it another name.")


def _factor_of(definition: str, quantity: str) -> float:
    """SI of one of the unit."""
    from yoke_core.formula.checking import constant_value

    try:
        value, found = constant_value(definition, Names(formula_units()))
    except FormulaError as error:
        raise _wrong("definition", str(error), error.hint) from error
    usual = UNITS[quantity][0]
    wanted = Dimension.of(**dimension_of(usual))
    if found.dimension != wanted:
        said = f"{definition} is in {found.unit or 'no unit'}, which is no unit of {quantity}."
        raise _wrong("definition", said, f"Say how many {usual} it is: 4.45 {usual}, for example.")
    if not (math.isfinite(value) and value > 0):
        said = f"{definition} comes to {value:g}: a unit is above zero."
        raise _wrong("definition", said, "Give another definition.")
    return value


def _wrong(field: str, said: str, hint: str) -> Problem:
    return Problem(422, said, field=field, hint=hint)
