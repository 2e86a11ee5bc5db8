"""Actuator actions that motions are made of."""

from collections.abc import Callable

from yoke_server.bench.drivers.base import MovingDriver

Action = Callable[[MovingDriver], None]
