"""What a channel is calibrated against; a new kind is one line in `LOADS`."""

from typing import TYPE_CHECKING

from yoke_server.kinds.loads.base import Loads
from yoke_server.kinds.loads.known import KnownValues
from yoke_server.kinds.loads.reference import ReferenceChannel
from yoke_server.kinds.loads.weights import Weights
from yoke_server.kinds.union import union_of

LOADS: tuple[type[Loads], ...] = (Weights, ReferenceChannel, KnownValues)

if TYPE_CHECKING:
    LoadsSpec = Loads
else:
    LoadsSpec = union_of(LOADS)
