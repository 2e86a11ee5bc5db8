from typing import Annotated, Any, Literal

from pydantic import model_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.stretches.base import Pieces, RunStretch

Share = Annotated[float, fields.between(-10, 10)]


class WhileRising(RunStretch):
    """While a channel rises from a share of its highest to another, for the first time."""

    kind: Literal["rising"] = "rising"
    lead: fields.Key
    from_share: Share = 0.1
    to_share: Share = 0.4

    @model_validator(mode="after")
    def _upwards(self) -> Any:
        if self.from_share >= self.to_share:
            raise PydanticCustomError("rule", "does not rise")
        return self

    @property
    def channels(self) -> tuple[str, ...]:
        return (self.lead,)

    def bounds(self, pieces: Pieces) -> tuple[float, float]:
        import numpy as np
        from yoke_core.errors import SummaryError

        highest = max(
            (float(np.max(v, where=np.isfinite(v), initial=-np.inf)) for _, v in pieces(self.lead)),
            default=-np.inf,
        )
        if not highest > 0:
            text = "The channel that says where the stretch is never rises above nothing."
            raise SummaryError("stretch", text, "Choose another channel, or times.")
        begin = self._first_above(pieces, self.from_share * highest, -np.inf)
        return begin, self._first_above(pieces, self.to_share * highest, begin)

    def _first_above(self, pieces: Pieces, level: float, after: float) -> float:
        """When the channel is first above a level, from a time on."""
        import numpy as np
        from yoke_core.errors import SummaryError

        for seconds, values in pieces(self.lead):
            found = np.flatnonzero((values >= level) & np.isfinite(values) & (seconds >= after))
            if len(found):
                return float(seconds[found[0]])
        text = "The channel that says where the stretch is never comes to the threshold."
        raise SummaryError("stretch", text, "Choose lower shares.")
