"""Which stretch of a run something is computed over; a new kind is one line in `STRETCHES`."""

from typing import TYPE_CHECKING

from yoke_server.kinds.stretches.base import RunStretch
from yoke_server.kinds.stretches.between import BetweenTimes
from yoke_server.kinds.stretches.rising import WhileRising
from yoke_server.kinds.stretches.whole import WholeRun
from yoke_server.kinds.union import union_of

STRETCHES: tuple[type[RunStretch], ...] = (WholeRun, BetweenTimes, WhileRising)

if TYPE_CHECKING:
    StretchSpec = RunStretch
else:
    StretchSpec = union_of(STRETCHES)
