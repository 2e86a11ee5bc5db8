from typing import ClassVar, Literal

from yoke_server.record.models import Run
from yoke_server.record.queries import document_of, piece_of, specimen_of
from yoke_server.report.blocks.base import ReportBlock, RunBlock
from yoke_server.report.words import moment


class RunSummary(RunBlock):
    """What was tested when, by whom, and how it was moved."""

    title: ClassVar = "Facts"

    kind: Literal["run_facts"] = "run_facts"

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk)]

    def contents(self) -> dict[str, object]:
        run = self.run_row()
        operator, setup = run.operator, document_of(run)
        return {
            "run": run,
            "project": run.setup.project,
            "specimen": specimen_of(run)["specimen"],
            "operator": (operator.get_full_name() or operator.username) if operator else "–",
            "started": moment(run.started_at),
            "piece": piece_of(run).sentence,
            "motion": setup.motion.sentence,
        }
