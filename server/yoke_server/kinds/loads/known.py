from typing import Literal

from yoke_server.kinds.loads.base import Loads, Relative, Values


class KnownValues(Loads):
    """Values that are known as they are: gauge blocks, a pressure balance."""

    kind: Literal["known_values"] = "known_values"
    values: Values
    relative: Relative = 1e-4

    @property
    def nominal(self) -> list[float]:
        return self.values

    @property
    def uncertainty(self) -> float:
        return self.relative

    @property
    def sentence(self) -> str:
        return "Against known values."
