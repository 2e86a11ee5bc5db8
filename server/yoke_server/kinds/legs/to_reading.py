from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from yoke_server.bench.drivers.base import Capability
from yoke_server.common.http import fields
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.legs.base import LegOnPaper
from yoke_server.kinds.legs.of_channel import ChannelLeg
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.legs.watching import LegWatch


class ToReadingLeg(ChannelLeg):
    """At an even speed until a channel comes to a value (SI); there it stands.

    It stands a block and some milliseconds later: the slower it goes, the closer.

    travel_m : where it goes, and gets to at most
    """

    needs: ClassVar = frozenset({Capability.MOVES})
    ends_moving: ClassVar = True

    kind: Literal["to_reading"] = "to_reading"
    value: fields.Quantity
    speed_m_s: fields.PullSpeed
    travel_m: Annotated[float, fields.between(-1, 1)]

    @property
    def sentence(self) -> str:
        return self._until("its channel reads the value set")

    def said(self, setup: MeasuringSetup) -> str:
        if setup.unwatchable(self.channel):
            return self.sentence
        of = setup.watched(self.channel).of
        return self._until(f"{of.name} reads {of.shown(self.value):.6g} {of.unit}")

    def _until(self, there: str) -> str:
        speed, travel = f"{self.speed_m_s * 1e3:g} mm/s", f"{self.travel_m * 1e3:g} mm"
        return f"At {speed} until {there}, at most to {travel}."

    def watch(self, setup: MeasuringSetup) -> "LegWatch":
        from yoke_server.kinds.legs.watching import ReadingReached

        reading = setup.watched(self.channel)
        return ReadingReached(reading, setup.rates_hz[reading.device], value=self.value)

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(None)

    def begin(self, name: str, before: LegProgress) -> Action:
        return lambda driver: driver.ramp(name, self.speed_m_s, self.travel_m)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.is_reached

    def stuck(self, progress: LegProgress) -> str:
        end = f"It came to {self.travel_m * 1e3:g} mm, and the channel was not there"
        return end if progress.has_arrived else ""
