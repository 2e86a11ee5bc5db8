from typing import Annotated

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http.fields import Answer, Body, Id, Name, Seconds
from yoke_server.derive.curves.page import MAX_RUNS, CurvesSpec
from yoke_server.kinds.alignments import AlignmentSpec


class AlignIn(Body):
    runs: Annotated[list[Id], Field(max_length=MAX_RUNS)]
    align: AlignmentSpec


class AlignedOut(Answer):
    """When of a run its instant is; else why it has none."""

    run: int
    at_s: float | None = None
    problem: str = ""


class RunWindow(Body):
    """A window in a run's own time."""

    run: Id
    from_s: Seconds
    to_s: Seconds

    @model_validator(mode="after")
    def _forwards(self) -> "RunWindow":
        if self.to_s <= self.from_s:
            raise PydanticCustomError("rule", "must end after it begins")
        return self


class WindowIn(Body):
    """``left_out``: runs that have a row and do not count."""

    windows: Annotated[list[RunWindow], Field(max_length=MAX_RUNS)]
    channel: Name
    left_out: Annotated[list[Id], Field(max_length=MAX_RUNS)] = []


class WindowRow(Answer):
    """Statistics of one run in SI; or why there are none. ``left_out``: samples that clipped."""

    run: int
    problem: str = ""
    count: int = 0
    left_out: int = 0
    lowest: float | None = None
    highest: float | None = None
    mean: float | None = None
    rms: float | None = None
    deviation: float | None = None
    slope: float | None = None


class OverRuns(Answer):
    """Mean and deviation (n - 1) of one figure over the runs that count."""

    figure: str
    mean: float
    deviation: float | None


class WindowOut(Answer):
    """``over``: of each figure that some run has, over those that count."""

    rows: list[WindowRow]
    counted: int
    over: list[OverRuns]


class CurvePageIn(Body):
    name: Name
    page: CurvesSpec


class CurvePageOut(Answer):
    id: int
    name: str
    page: CurvesSpec
