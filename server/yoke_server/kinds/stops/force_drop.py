from collections.abc import Sequence
from dataclasses import dataclass
from math import isnan
from typing import TYPE_CHECKING, Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel, MeasuringSetup
from yoke_server.kinds.motions.base import Motion
from yoke_server.kinds.stops.base import Stop, lacks_force

if TYPE_CHECKING:
    from yoke_core.signals.bank import ChainBank
    from yoke_core.signals.chain import SignalChain
    from yoke_core.streaming.block import BlockSummary
    from yoke_core.tension.stop import ForceDropWatch

    from yoke_server.kinds.stops.conditions import StopCondition


class ForceDrop(Stop):
    """The force has fallen by a share of its highest, once that has reached ``arm_n``."""

    kind: Literal["force_drop"] = "force_drop"
    share: fields.Share
    arm_n: Annotated[float, fields.between(1e-3, 1e6)] = 500.0

    def lacks(self, channels: Sequence[MeasuredChannel], motion: Motion) -> list[Lack]:
        return lacks_force(channels)

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        from yoke_core.signals.bank import ChainBank
        from yoke_core.tension.stop import ForceDropWatch

        force = setup.channel("force")
        if force is None:
            return ()
        row, chain = force.input_number - 1, chain_of(force)
        words = f"The force fell by {self.share * 100:g} %"
        watch = ForceDropWatch(self.arm_n, self.share)
        return [
            ForceDropped(
                force.device_label, words, force, row, chain, ChainBank([chain], [row]), watch
            )
        ]


@dataclass(slots=True)
class ForceDropped:
    """The force has fallen by a share of its largest, pulling or pressing."""

    device: str
    words: str
    lost_without: MeasuredChannel
    _row: int
    _chain: "SignalChain"
    _scaling: "ChainBank"
    _watch: "ForceDropWatch"

    def is_met(self, block: "BlockSummary") -> bool:
        known = [f for f in self._scaling.apply(block.shown)[0].tolist() if not isnan(f)]
        if not known or self._watch.quiet(min(known), max(known)):
            return False
        force = self._chain.apply(block.ratios[self._row].astype(float))
        return self._watch.push(force) is not None

    @property
    def state(self) -> float:
        return self._watch.largest

    def resume(self, state: float) -> None:
        self._watch.largest = float(state)
