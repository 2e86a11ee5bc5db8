"""The time base of a file's rows, and whether a run can be made of it."""

from typing import TYPE_CHECKING

from yoke_core.table.time_base import TimeBase

from yoke_server.common.http.problems import Problem
from yoke_server.common.units import is_unit_of, to_si
from yoke_server.exchange.importing.choices import ColumnChoice, TimeChoice
from yoke_server.exchange.importing.rows import Batch
from yoke_server.setups.document import FrozenChannel

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


def why_not(taken: list[ColumnChoice], channels: list[FrozenChannel]) -> str:
    """Why no run can be made of these columns; empty if one can."""
    if not taken:
        return "No column is taken: choose a quantity and a unit for one."
    quantities = {c.key: c.quantity for c in channels}
    for i, choice in enumerate(taken):
        if not is_unit_of(choice.unit, choice.quantity):
            return f"{choice.name} has no unit of its quantity: choose one."
        if choice.name in (c.name for c in taken[:i]):
            return f"Two columns are named {choice.name}: change one of them."
        key = choice.pairs_with
        if key and key in (c.pairs_with for c in taken[:i]):
            return f"{choice.name} goes with the same channel as another column: change one."
        if key and quantities.get(key) != choice.quantity:
            return f"{choice.name} cannot go with that channel: it measures something else."
    return ""


def seconds_of(batch: Batch, time: TimeChoice) -> "tuple[NDArray[np.float64], NDArray[np.int64]]":
    """The time of each row in seconds, from its own column or from its line and the rate."""
    if time.column is not None:
        return to_si(batch.values[:, 0], time.unit), batch.lines
    if not time.rate_hz:
        raise Problem(
            422, "There is no time.", field="time", hint="Choose its column, or give a rate."
        )
    return batch.lines / time.rate_hz, batch.lines


def check_base(base: TimeBase) -> None:
    if base.rows < 2 or not base.step:
        raise Problem(
            422, "There are fewer than two whole rows.", hint="Take fewer columns, or bridge gaps."
        )


def rate_step(base: TimeBase) -> float:
    """Seconds from row to row, over the longest segment."""
    longest = max(base.found_segments, key=lambda s: s.rows)
    return longest.step or base.step
