from typing import Annotated, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.actions import FORCE, Action, Force
from yoke_server.kinds.motions.base import Motion


class ForceRamp(Motion):
    """At an even rate to a force, and back to none."""

    needs: ClassVar = FORCE

    kind: Literal["force_ramp"] = "force_ramp"
    peak_n: Force
    rate_n_s: Annotated[float, fields.between(1e-2, 1e6)]

    @property
    def sentence(self) -> str:
        return f"Loaded to {self.peak_n:g} N and back at {self.rate_n_s:g} N/s."

    def begin(self, name: str) -> Action:
        return lambda driver: driver.force_ramp(name, self.rate_n_s, self.peak_n)
