from typing import Any, ClassVar, Literal

from yoke_server.record.models import Run
from yoke_server.report.blocks.base import ReportBlock, RunBlock


class Weather(RunBlock):
    """A made-up block."""

    title: ClassVar = "Weather"

    kind: Literal["weather"] = "weather"
    degrees: float = 21.5

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk)]

    def contents(self) -> dict[str, Any]:
        return {"run": self.run_row(), "degrees": self.degrees}
