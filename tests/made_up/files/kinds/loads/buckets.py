from typing import Annotated, Literal

from pydantic import Field
from yoke_server.kinds.loads.base import Loads


class Buckets(Loads):
    """Full buckets, all alike."""

    kind: Literal["buckets"] = "buckets"
    each_n: Annotated[float, Field(gt=0, le=1e4)]
    count: Annotated[int, Field(ge=2, le=20)]

    @property
    def nominal(self) -> list[float]:
        return [self.each_n * (i + 1) for i in range(self.count)]

    @property
    def uncertainty(self) -> float:
        return 1e-2

    @property
    def sentence(self) -> str:
        return f"Against {self.count} buckets."
