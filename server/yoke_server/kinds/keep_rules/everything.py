from typing import TYPE_CHECKING, Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.keep_rules.base import Expected, KeepRule
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.keep_rules.deciding import WindowDecider


class Everything(KeepRule):
    """Each sample, at the rate of its device; or fewer of them, through a low-pass.

    rate_hz : at least so many samples a second; a device that gives fewer is kept as it is
    """

    kind: Literal["everything"] = "everything"
    rate_hz: Annotated[float, fields.between(0.01, 50_000)] | None = None

    @property
    def keeps_all(self) -> bool:
        return self.rate_hz is None

    def factor(self, rate_hz: float) -> int:
        from yoke_core.keeping.decimation import MAX_FACTOR, factor_of

        return 1 if self.rate_hz is None else min(factor_of(rate_hz, self.rate_hz), MAX_FACTOR)

    def decider(self, setup: MeasuringSetup) -> "WindowDecider":
        from yoke_server.kinds.keep_rules.deciding import All

        return All()

    def rows(self, rate_hz: float, expected: Expected) -> float:
        return rate_hz / self.factor(rate_hz) * expected.seconds
