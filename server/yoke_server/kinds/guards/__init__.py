"""What is watched while a run records, and what then happens; a new kind is a line in `GUARDS`."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.guards.no_signal import NoSignal
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.guards.too_fast import TooFast
from yoke_server.kinds.union import union_of

GUARDS: tuple[type[Guard], ...] = (Outside, TooFast, NoSignal)

if TYPE_CHECKING:
    GuardSpec = Guard
else:
    GuardSpec = union_of(GUARDS)
GuardList = Annotated[list[GuardSpec], Field(max_length=64)]
