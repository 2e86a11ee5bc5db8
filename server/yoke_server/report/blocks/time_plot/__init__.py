from typing import Annotated, ClassVar, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.record.models import Run
from yoke_server.record.readings.definitions import channels_of
from yoke_server.report.blocks.base import ChannelsBlock, ReportBlock

OFFERED = 9  # channels


class TimePlot(ChannelsBlock):
    """Channels of a run over its time."""

    title: ClassVar = "Channels over time"

    kind: Literal["course"] = "course"
    channels: Annotated[list[fields.Key], Field(min_length=1, max_length=12)]

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        keys = [c.key for c in channels_of(run)][:OFFERED]
        return [cls(run=run.pk, channels=keys)] if keys else []

    def contents(self) -> dict[str, object]:
        from yoke_server.report.blocks.time_plot.figure import figure

        run = self.run_row()
        return {"run": run, "figure": figure(run, self.channels)}
