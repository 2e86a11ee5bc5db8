"""What motions and legs are made of: actuator actions, what they need, how far they are."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from yoke_server.bench.drivers.base import Capability, MovingDriver
from yoke_server.common.http import fields

Action = Callable[[MovingDriver], None]
Force = Annotated[float, fields.between(-1e6, 1e6)]  # N
FORCE = frozenset({Capability.MOVES, Capability.CONTROLS_FORCE})


@dataclass(frozen=True, slots=True)
class LegProgress:
    """How far a leg is.

    passed_s : while it was under way, without what it was held for
    cycles : that were counted in it
    has_arrived : the actuator has done what it was told
    is_confirmed : a person has said to go on
    arrived_s : for how long the actuator has stood at its end
    step : of a leg with several steps, from 0
    is_reached : what it watches for in a channel is there
    """

    passed_s: float = 0.0
    cycles: int = 0
    has_arrived: bool = False
    is_confirmed: bool = False
    arrived_s: float = 0.0
    step: int = 0
    is_reached: bool = False
