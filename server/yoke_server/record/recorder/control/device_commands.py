"""Orders to a single device: reading and writing plug memories, setting faults of stand-ins."""

from collections.abc import Callable
from typing import Any

from yoke_server.bench.drivers.base import AcquiringDriver
from yoke_server.bench.orders import OrderSpec
from yoke_server.kinds.orders.devices import DeviceOrder, Pretend, ReadSheets, WriteSheet
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import DeviceCommand
from yoke_server.record.recorder.model import events


def _pretend(order: Pretend) -> DeviceCommand:
    """Put a stand-in's input into a state; a device at a bench takes no such orders."""

    def what(driver: AcquiringDriver) -> dict[str, object]:
        driver.pretend(order.input, order.faults)
        return {}

    return what


def _read_sheets(order: ReadSheets) -> DeviceCommand:
    def what(driver: AcquiringDriver) -> dict[str, object]:
        return {"sheets": {str(n): memory.hex() for n, memory in driver.read_sheets().items()}}

    return what


def _write_sheet(order: WriteSheet) -> DeviceCommand:
    memory = bytes.fromhex(order.memory)

    def what(driver: AcquiringDriver) -> dict[str, object]:
        driver.write_sheet(order.input, memory)
        return {}

    return what


COMMANDS: dict[type[OrderSpec], Callable[[Any], DeviceCommand]] = {
    Pretend: _pretend,
    ReadSheets: _read_sheets,
    WriteSheet: _write_sheet,
}


class DeviceCommands:
    """Each is answered by its device; the bench need not wait for it."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context

    def send(self, order: events.OrderIn[DeviceOrder]) -> None:
        label = order.order.device
        self._context.require_usable({label})
        command = COMMANDS[type(order.order)](order.order)
        self._context.devices[label].port.tell(order.key, command)

    def on_command_finished(self, event: events.CommandFinished) -> None:
        if event.problem:
            self._context.refuse(event.token, f"{event.device} does not do it: {event.problem}")
        else:
            self._context.done(event.token, event.answer)
