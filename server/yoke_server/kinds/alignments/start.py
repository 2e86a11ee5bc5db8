from typing import Literal

from yoke_server.kinds.alignments.base import AlignedRun, Alignment


class AtStart(Alignment):
    """The first sample."""

    kind: Literal["start"] = "start"

    def instant(self, run: AlignedRun) -> float:
        return 0.0
