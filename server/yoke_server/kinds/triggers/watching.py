"""A level trigger at work, in each sample in order."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.watched import WatchedReading


@dataclass(slots=True)
class TriggerWatch:
    """Fires at the first sample beyond a level, once the channel has been on its other side.

    sign : 1 for upwards, -1 for downwards
    """

    reading: "WatchedReading"
    level: float
    hysteresis: float
    sign: float
    _is_set: bool = False  # the channel has been on the other side

    @property
    def device(self) -> str:
        return self.reading.device

    def fires(self, block: "BlockSummary", follows: bool) -> int | None:
        """The sample of a block, the next in order, at which it fires.

        follows : whether it continues the one before; what was before a gap counts on
        """
        over = self.sign * (self.reading.look(block, follows).samples - self.level)
        with np.errstate(invalid="ignore"):
            low, beyond = over < -self.hysteresis, over > 0
        if not self._is_set:
            below = np.flatnonzero(low)
            if not len(below):
                return None
            self._is_set, beyond = True, beyond & (np.arange(len(over)) > below[0])
        found = np.flatnonzero(beyond)
        return int(found[0]) if len(found) else None
