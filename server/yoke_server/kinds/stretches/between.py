from typing import Any, Literal

from pydantic import model_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.stretches.base import Pieces, RunStretch


class BetweenTimes(RunStretch):
    """From one time of the run to another, s."""

    kind: Literal["between"] = "between"
    from_s: fields.Seconds
    to_s: fields.Seconds

    @model_validator(mode="after")
    def _some_time(self) -> Any:
        if self.from_s >= self.to_s:
            raise PydanticCustomError("rule", "ends before it begins")
        return self

    def bounds(self, pieces: Pieces) -> tuple[float, float]:
        return self.from_s, self.to_s
