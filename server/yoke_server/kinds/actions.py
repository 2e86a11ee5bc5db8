"""What a motion has a driver do."""

from collections.abc import Callable

from yoke_server.bench.drivers.base import MovingDriver

Action = Callable[[MovingDriver], None]
