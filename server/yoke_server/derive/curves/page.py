"""A page of curves: which runs and channels lie over each other, and how."""

from typing import Annotated

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.alignments import AlignmentSpec
from yoke_server.kinds.alignments.start import AtStart
from yoke_server.kinds.spec import Part

MAX_RUNS = 24
MAX_PLOTS = 8


class DrawnRun(Part):
    """A run on a page; ``shift_s`` is put by hand on top of the alignment; ``left_out`` says why
    it is drawn but not counted, ``name`` is its own name where that is empty."""

    run: fields.Id
    shown: bool = True
    shift_s: Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)] = 0.0
    left_out: Annotated[str, Field(max_length=120)] = ""
    name: Annotated[str, Field(max_length=80)] = ""


class TimeWindow(Part):
    from_s: fields.Seconds
    to_s: fields.Seconds


class CurvesSpec(Part):
    """What stands on a page; channels by their names, since each setup has keys of its own.

    across : the channel that goes across; empty: time
    speed_m_s : of what moves past, where distance goes across in place of time
    window : from when to when of the aligned time the table is made
    window_of : the channel of the table
    """

    runs: Annotated[list[DrawnRun], Field(max_length=MAX_RUNS)] = []
    channels: Annotated[list[fields.Name], Field(max_length=MAX_PLOTS)] = []
    across: Annotated[str, Field(max_length=60)] = ""
    speed_m_s: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] | None = None
    align: AlignmentSpec = AtStart()
    window: TimeWindow | None = None
    window_of: Annotated[str, Field(max_length=60)] = ""
    slope_at_most: Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False)] | None = None
