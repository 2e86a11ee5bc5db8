from typing import TYPE_CHECKING, ClassVar, Literal

from yoke_server.kinds.steps.base import ReadingStep

if TYPE_CHECKING:
    from yoke_core.scaling.line import Line


class Glasses(ReadingStep):
    """Everything twice as large."""

    title: ClassVar = "Glasses"
    stateful: ClassVar = False

    kind: Literal["glasses"] = "glasses"

    def line(self) -> "Line":
        from yoke_core.scaling.line import Line

        return Line(2.0)
