"""What has the keeping of a run begin; a new kind is a line in `TRIGGERS`."""

from typing import TYPE_CHECKING

from yoke_server.kinds.triggers.at_once import AtOnce
from yoke_server.kinds.triggers.at_time import AtTime
from yoke_server.kinds.triggers.base import Trigger
from yoke_server.kinds.triggers.level import Level
from yoke_server.kinds.union import union_of

TRIGGERS: tuple[type[Trigger], ...] = (AtOnce, Level, AtTime)

if TYPE_CHECKING:
    TriggerSpec = Trigger
else:
    TriggerSpec = union_of(TRIGGERS)


def stored_default() -> dict[str, object]:
    """The one of a new setup as plain data, as a column begins with it."""
    return AtOnce().model_dump(mode="json")
