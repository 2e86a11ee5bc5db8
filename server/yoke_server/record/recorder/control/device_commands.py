"""Orders to one device beside its measuring: memories of plugs, faults of stand-ins."""

from collections.abc import Callable
from typing import Any

from yoke_server.bench.drivers.base import AcquiringDriver
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import DeviceCommand
from yoke_server.record.recorder.model import events


def _pretend(arguments: dict[str, Any]) -> DeviceCommand:
    """Put a stand-in's input into a state; a device at a bench takes no such orders."""
    number, faults = int(arguments["input"]), str(arguments["faults"])

    def what(driver: AcquiringDriver) -> dict[str, Any]:
        driver.pretend(number, faults)
        return {}

    return what


def _read_sheets(arguments: dict[str, Any]) -> DeviceCommand:
    def what(driver: AcquiringDriver) -> dict[str, Any]:
        return {"sheets": {str(n): memory.hex() for n, memory in driver.read_sheets().items()}}

    return what


def _write_sheet(arguments: dict[str, Any]) -> DeviceCommand:
    number, memory = int(arguments["input"]), bytes.fromhex(arguments["memory"])

    def what(driver: AcquiringDriver) -> dict[str, Any]:
        driver.write_sheet(number, memory)
        return {}

    return what


KINDS: dict[str, Callable[[dict[str, Any]], DeviceCommand]] = {
    "pretend": _pretend,
    "read_sheets": _read_sheets,
    "write_sheet": _write_sheet,
}


class DeviceCommands:
    """Each is answered by its device; the bench need not wait for it."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context

    def send(self, order: events.OrderIn) -> None:
        label = str(order.arguments["device"])
        self._context.require_usable({label})
        what = KINDS[order.kind](order.arguments)
        self._context.devices[label].port.tell(order.key, what)

    def on_command_finished(self, event: events.CommandFinished) -> None:
        if event.problem:
            self._context.refuse(event.token, f"{event.device} does not do it: {event.problem}")
        else:
            self._context.done(event.token, event.answer)
