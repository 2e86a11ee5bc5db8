"""What a recorder can be asked to do; a new kind is one line in `ORDERS`."""

from yoke_server.bench.orders import FindDevices, OrderSpec, TryAddress
from yoke_server.kinds.orders.devices import Pretend, ReadSheets, WriteSheet
from yoke_server.kinds.orders.measuring import (
    CheckShunts,
    CheckWiring,
    MeasureAtRest,
    TakeSnapshot,
)
from yoke_server.kinds.orders.runs import (
    EndGently,
    GoOn,
    HoldHere,
    MarkRun,
    PauseRun,
    ReleaseStop,
    ResetPeaks,
    ReturnHome,
    SkipLeg,
    StartRun,
)

ORDERS: tuple[type[OrderSpec], ...] = (
    FindDevices,
    TryAddress,
    StartRun,
    MarkRun,
    PauseRun,
    GoOn,
    HoldHere,
    SkipLeg,
    EndGently,
    ReturnHome,
    ReleaseStop,
    ResetPeaks,
    MeasureAtRest,
    CheckShunts,
    CheckWiring,
    TakeSnapshot,
    Pretend,
    ReadSheets,
    WriteSheet,
)
BY_KIND: dict[str, type[OrderSpec]] = {str(o.model_fields["kind"].default): o for o in ORDERS}


def read_order(kind: str, arguments: dict[str, object]) -> OrderSpec:
    """An order of one of `BY_KIND` from its row; raises ValueError for arguments that are wrong."""
    return BY_KIND[kind].model_validate({**arguments, "kind": kind})
