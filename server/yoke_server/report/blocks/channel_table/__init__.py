from typing import ClassVar, Literal

from yoke_server.record.models import Run
from yoke_server.record.readings.definitions import setup_of
from yoke_server.report.blocks.base import ReportBlock, RunBlock
from yoke_server.report.words import channel_rows


class ChannelTable(RunBlock):
    """Inputs, sensors, scaling, zero and shunt check of a run's channels."""

    title: ClassVar = "Channels and calibration"

    kind: Literal["channel_table"] = "channel_table"

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk)]

    def contents(self) -> dict[str, object]:
        run = self.run_row()
        return {"run": run, "channels": channel_rows(setup_of(run))}
