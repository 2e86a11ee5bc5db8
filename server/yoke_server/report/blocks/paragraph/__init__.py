from typing import ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.record.models import Run
from yoke_server.report.blocks.base import ReportBlock


class Paragraph(ReportBlock):
    """Text as a person wrote it."""

    title: ClassVar = "Text"
    is_at_start: ClassVar = False

    kind: Literal["paragraph"] = "paragraph"
    text: fields.Notes = ""

    @classmethod
    def offers(cls, run: Run) -> list[ReportBlock]:
        return [cls()]

    def contents(self) -> dict[str, object]:
        return {"text": self.text}
