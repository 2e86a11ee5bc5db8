from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.stops.base import Stop

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary
    from yoke_server.kinds.stops.conditions import StopCondition


class EnoughSamples(Stop):
    """A made-up end: so many samples of the first channel are there."""

    kind: Literal["enough_samples"] = "enough_samples"
    samples: Annotated[int, Field(ge=1)]

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        return [] if setup.channels else [Lack("Nothing gives samples.", "Wire a channel.")]

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        return [SamplesCounted(setup.channels[0].device_label, self.samples)]


@dataclass(slots=True)
class SamplesCounted:
    device: str
    wanted: int
    counted: int = 0
    lost_without: None = None

    @property
    def words(self) -> str:
        return f"{self.counted} samples are there"

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        self.counted += block.samples
        return self.counted >= self.wanted

    @property
    def state(self) -> int:
        return self.counted

    def resume(self, state: int) -> None:
        self.counted = state
