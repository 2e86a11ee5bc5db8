from typing import ClassVar, Literal

from yoke_server.derive.queries import figure_of
from yoke_server.record.models import Run
from yoke_server.report.blocks.base import ReportBlock
from yoke_server.report.blocks.derived import ResultBlock


class ResultFigure(ResultBlock):
    """The figure of a run's results by a recipe."""

    title: ClassVar = "Figure"

    kind: Literal["result_picture"] = "result_picture"

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk, recipe=r.pk) for r in run.setup.recipes.order_by("pk")]

    def contents(self) -> dict[str, object]:
        return {"figure": figure_of(self.derivation())}
