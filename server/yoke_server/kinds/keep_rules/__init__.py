"""What of the samples of a run is stored; a new kind is a line in `KEEP_RULES`."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.keep_rules.base import KeepRule
from yoke_server.kinds.keep_rules.bursts import Bursts
from yoke_server.kinds.keep_rules.changes import WhenChanged
from yoke_server.kinds.keep_rules.everything import Everything
from yoke_server.kinds.keep_rules.turning_points import TurningPoints
from yoke_server.kinds.union import union_of

KEEP_RULES: tuple[type[KeepRule], ...] = (Everything, Bursts, TurningPoints, WhenChanged)

if TYPE_CHECKING:
    KeepRuleSpec = KeepRule
else:
    KeepRuleSpec = union_of(KEEP_RULES)
KeepRuleList = Annotated[list[KeepRuleSpec], Field(min_length=1, max_length=16)]


def default_rules() -> list[KeepRule]:
    """Each sample at the rate of its device."""
    return [Everything()]


def stored_default() -> list[dict[str, object]]:
    """The same as plain data, as a column begins with it."""
    return [rule.model_dump(mode="json") for rule in default_rules()]
