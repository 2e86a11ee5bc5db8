"""The protocol of loads: what is put on a sensor to calibrate it, in SI of its quantity."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.spec import Spec

MAX_LOADS = 20
Relative = Annotated[float, fields.between(0, 0.2)]  # of the load
Values = Annotated[list[fields.Quantity], Field(min_length=1, max_length=MAX_LOADS)]


class Loads(Spec):
    """Loads that are known."""

    @property
    def nominal(self) -> list[float]:
        """As planned, in the order in which they are put on, without zero; SI."""
        raise NotImplementedError

    @property
    def reference(self) -> str | None:
        """Key of the channel that measures the load; None where it needs no measuring."""
        return None

    @property
    def uncertainty(self) -> float | None:
        """Relative and expanded (k = 2); None where the reference's certificate says it."""
        return None

    @property
    def sentence(self) -> str:
        """As certificates print it."""
        raise NotImplementedError

    def lacks(self, channel: MeasuredChannel, others: Sequence[MeasuredChannel]) -> Lack | None:
        """Why a channel cannot be calibrated by them; None if it can."""
        return None
