from typing import ClassVar, Literal

from yoke_server.record.models import Run
from yoke_server.record.queries import day_of
from yoke_server.record.readings.definitions import readings_of
from yoke_server.record.readings.state import correction_lines
from yoke_server.report.blocks.base import ReportBlock, RunBlock
from yoke_server.report.words import channel_rows, computed_of, steps_of


class ChannelTable(RunBlock):
    """Inputs, sensors, scaling, zero and shunt check of a run's channels, its computed channels,
    and what was put right of them."""

    title: ClassVar = "Channels and calibration"

    kind: Literal["channel_table"] = "channel_table"

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk)]

    def contents(self) -> dict[str, object]:
        run = self.run_row()
        readings = readings_of(run)
        steps = [(c.name, steps_of(c)) for c in readings.setup.channels]
        return {
            "run": run,
            "channels": channel_rows(readings.setup, day_of(run)),
            "computed": [(c.name, readings.formula(c.key)) for c in computed_of(readings)],
            "steps": [f"{name}: {said}" for name, said in steps if said],
            "corrections": correction_lines(run),
        }
