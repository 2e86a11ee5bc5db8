from typing import ClassVar, Literal

from yoke_server.record.models import Run
from yoke_server.record.queries import document_of
from yoke_server.record.streams import StreamFacts, streams_of
from yoke_server.report.blocks.base import ReportBlock, RunBlock


class RawData(RunBlock):
    """How much was recorded, what is missing, and the seal over it."""

    title: ClassVar = "Data and seal"

    kind: Literal["raw_data"] = "raw_data"

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls(run=run.pk)]

    def contents(self) -> dict[str, object]:
        run = self.run_row()
        streams = streams_of(run.pk)
        return {
            "run": run,
            "setup": document_of(run),
            "version": run.revision.number,
            "streams": [_said(s) for s in streams],
            "gaps": [f"{s.device} from {a:.2f} to {b:.2f} s" for s in streams for a, b in s.gaps],
        }


def _said(stream: StreamFacts) -> str:
    """A stream in a line: of which keep rule, how much."""
    rule = "" if stream.rule == "everything" else f", {stream.rule.replace('_', ' ')}"
    much = (
        f"{stream.samples} rows"
        if stream.is_timed
        else (f"{stream.samples} samples at {stream.rate_hz:g} Hz")
    )
    return f"{stream.device}{rule}: {much}"
