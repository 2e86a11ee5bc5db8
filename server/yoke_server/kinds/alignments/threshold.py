from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.alignments.base import AlignedRun, Alignment


class AtThreshold(Alignment):
    """When a channel first rises, or falls, through a level; SI."""

    kind: Literal["threshold"] = "threshold"
    channel: fields.Name
    level: fields.Quantity
    hysteresis: Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)] = 0.0
    rising: bool = True

    def instant(self, run: AlignedRun) -> float:
        from yoke_core.errors import SummaryError
        from yoke_core.summary.instants import Crossing

        found = Crossing(self.level, self.hysteresis, rising=self.rising)
        for seconds, values in run.pieces(self.channel):
            if found.push(seconds, values):
                break
        if found.at is None:
            way = "rises" if self.rising else "falls"
            text = f"{self.channel} never {way} through the threshold."
            raise SummaryError("align", text, "Choose another level, or less hysteresis.")
        return found.at
