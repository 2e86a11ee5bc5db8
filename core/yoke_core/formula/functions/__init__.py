"""The functions of the language; a new group of them is one line here."""

from yoke_core.formula.functions import arithmetic, filters, over_time, rosette
from yoke_core.formula.functions.base import Function

GROUPS = (arithmetic, over_time, filters, rosette)
FUNCTIONS: dict[str, Function] = {f.name: f for group in GROUPS for f in group.FUNCTIONS}
