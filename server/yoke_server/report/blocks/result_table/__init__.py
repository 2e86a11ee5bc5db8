from typing import ClassVar, Literal

from yoke_server.derive.kinds import title_of
from yoke_server.record.models import Run
from yoke_server.record.readings.definitions import setup_of
from yoke_server.report.blocks.base import ReportBlock
from yoke_server.report.blocks.derived import ResultBlock
from yoke_server.report.words import coverage_words, result_rows


class ResultTable(ResultBlock):
    """The results of a run by a recipe."""

    title: ClassVar = "Results"

    kind: Literal["result_table"] = "result_table"

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk, recipe=r.pk) for r in run.setup.recipes.order_by("pk")]

    def contents(self) -> dict[str, object]:
        found = self.derivation()
        rows = list(found.results.all())
        shared = {r.note for r in rows}
        note = shared.pop() if len(shared) == 1 else ""
        title = title_of(found.recipe.parameters, setup_of(found.run))
        return {
            "title": f"{title}, {found.run.name}",
            "results": result_rows(rows),
            "coverage": (coverage := coverage_words(rows)),
            "lacks": " ".join(found.lacks) if coverage else "",
            "notes": [n for n in (note, *found.notes) if n],
        }
