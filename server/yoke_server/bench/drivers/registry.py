"""The drivers by name. A new make of device adds a module and a line here."""

from yoke_server.bench.drivers.base import (
    AcquiringDriver,
    Announcement,
    Capability,
    DriverError,
    MovingDriver,
    Offers,
)
from yoke_server.bench.drivers.bridge_amplifier import BridgeAmplifier
from yoke_server.bench.drivers.elsewhere import require_elsewhere
from yoke_server.bench.drivers.line_gauge import LineGauge
from yoke_server.bench.drivers.load_frame import LoadFrame, ServoActuator
from yoke_server.bench.drivers.measuring_module import MeasuringModule, PulseModule
from yoke_server.bench.drivers.weighing_indicator import WeighingIndicator

ACQUIRING: dict[str, type[AcquiringDriver]] = {
    "bridge amplifier": BridgeAmplifier,
    "measuring module": MeasuringModule,
    "pulse module": PulseModule,
    "weighing indicator": WeighingIndicator,
    "line gauge": LineGauge,
}
MOVING: dict[str, type[MovingDriver]] = {
    "load frame": LoadFrame,
    "servo actuator": ServoActuator,
}


def names() -> list[str]:
    """Of all drivers, those that acquire first."""
    return [*ACQUIRING, *MOVING]


def capabilities(name: str) -> frozenset[Capability]:
    """What devices of a driver can do; nothing for a name nobody knows."""
    found = ACQUIRING.get(name) or MOVING.get(name)
    return found.capabilities if found else frozenset()


def offers(name: str) -> Offers:
    """What inputs of a driver's devices can be set to."""
    return ACQUIRING[name].offers if name in ACQUIRING else Offers()


def announced_as(service: str, model: str) -> str:
    """The driver for a service announced on the network; empty if there is none."""
    for name in names():
        known = _announced(name)
        if known.service == service and model.startswith(known.model):
            return name
    return ""


def services() -> list[str]:
    """Under which the devices of all drivers announce themselves."""
    return sorted({_announced(name).service for name in names()})


def _announced(name: str) -> Announcement:
    return ACQUIRING[name].announced if name in ACQUIRING else MOVING[name].announced


def acquiring(name: str, host: str, port: int) -> AcquiringDriver:
    if name not in ACQUIRING:
        raise DriverError(f"there is no driver “{name}” for a device that acquires.")
    require_elsewhere(host)
    return ACQUIRING[name](host, port)  # type: ignore[call-arg]


def moving(name: str, host: str, port: int) -> MovingDriver:
    if name not in MOVING:
        raise DriverError(f"there is no driver “{name}” for a device that moves.")
    require_elsewhere(host)
    return MOVING[name](host, port)  # type: ignore[call-arg]
