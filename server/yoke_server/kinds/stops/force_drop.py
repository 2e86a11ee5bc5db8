from collections.abc import Sequence
from dataclasses import dataclass
from math import isnan
from typing import TYPE_CHECKING, Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel, MeasuringSetup
from yoke_server.kinds.stops.base import Stop, lacks_force

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary
    from yoke_core.tension.stop import ForceDropWatch

    from yoke_server.kinds.stops.conditions import StopCondition
    from yoke_server.kinds.stops.watched import WatchedReading


class ForceDrop(Stop):
    """The force has fallen by a share of its highest, once that has reached ``arm_n``."""

    kind: Literal["force_drop"] = "force_drop"
    share: fields.Share
    arm_n: Annotated[float, fields.between(1e-3, 1e6)] = 500.0

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        return lacks_force(setup)

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        from yoke_core.tension.stop import ForceDropWatch

        force = setup.channel("force")
        if force is None:
            return ()
        words = f"The force fell by {self.share * 100:g} %"
        watch = ForceDropWatch(self.arm_n, self.share)
        return [ForceDropped(words, force, setup.watched(force.key), watch)]


@dataclass(slots=True)
class ForceDropped:
    """The force has fallen by a share of its largest, pulling or pressing."""

    words: str
    lost_without: MeasuredChannel
    _force: "WatchedReading"
    _watch: "ForceDropWatch"

    @property
    def device(self) -> str:
        return self._force.device

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        look = self._force.look(block, follows)
        if isnan(look.lowest) or self._watch.quiet(look.lowest, look.highest):
            return False
        return self._watch.push(look.samples) is not None

    @property
    def state(self) -> float:
        return self._watch.largest

    def resume(self, state: float) -> None:
        self._watch.largest = float(state)
