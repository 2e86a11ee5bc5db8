from typing import TYPE_CHECKING, Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.base import LegOnPaper
from yoke_server.kinds.legs.of_channel import ChannelLeg
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.legs.watching import LegWatch


class SettleLeg(ChannelLeg):
    """What is there stays until a channel has settled: within a span (SI) for a time.

    at_most_s : after which it is for a person to say how it goes on
    """

    kind: Literal["settle"] = "settle"
    within: Annotated[float, fields.between(1e-12, 1e9)]
    for_s: Annotated[float, fields.between(0.1, 3600)] = 5.0
    at_most_s: Annotated[float, fields.between(0.1, 1e7)] = 600.0

    @property
    def sentence(self) -> str:
        return f"Held until it has settled for {self.for_s:g} s."

    def said(self, setup: MeasuringSetup) -> str:
        if setup.unwatchable(self.channel):
            return self.sentence
        return f"Held until {setup.watched(self.channel).of.name} has settled for {self.for_s:g} s."

    def watch(self, setup: MeasuringSetup) -> "LegWatch":
        from yoke_server.kinds.legs.watching import Settled

        reading = setup.watched(self.channel)
        rate_hz = setup.rates_hz[reading.device]
        samples = max(1, round(self.for_s * rate_hz))
        return Settled(reading, rate_hz, span=self.within, for_samples=samples)

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(None, force, force, force)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.is_reached

    def stuck(self, progress: LegProgress) -> str:
        over = progress.passed_s >= self.at_most_s
        return f"It has not settled within {self.at_most_s:g} s" if over else ""
