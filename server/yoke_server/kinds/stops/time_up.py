from typing import Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.stops.base import Stop


class TimeUp(Stop):
    """So long after the first sample."""

    kind: Literal["time"] = "time"
    seconds: Annotated[float, fields.between(0.1, 1e8)]

    @property
    def max_seconds(self) -> float:
        return self.seconds
