from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.alignments.base import AlignedRun, Alignment


class AtPeak(Alignment):
    """When a channel is highest, or lowest."""

    kind: Literal["peak"] = "peak"
    channel: fields.Name
    lowest: bool = False

    def instant(self, run: AlignedRun) -> float:
        from yoke_core.errors import SummaryError
        from yoke_core.summary.instants import Peak

        found = Peak(lowest=self.lowest)
        for seconds, values in run.pieces(self.channel):
            found.push(seconds, values)
        at = found.finish()
        if at is None:
            raise SummaryError("align", f"No sample of {self.channel} has a value.")
        return at
