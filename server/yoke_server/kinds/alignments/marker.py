from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.alignments.base import AlignedRun, Alignment


class AtMarker(Alignment):
    """At the first marker with some words."""

    kind: Literal["marker"] = "marker"
    text: fields.Name

    def instant(self, run: AlignedRun) -> float:
        from yoke_core.errors import SummaryError

        wanted = self.text.casefold()
        at = next((at for at, words in run.markers() if wanted in words.casefold()), None)
        if at is None:
            text = f"It has no marker “{self.text}”."
            raise SummaryError("align", text, "Choose the words of another marker.")
        return at
