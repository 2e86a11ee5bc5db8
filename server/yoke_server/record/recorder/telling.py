"""Orders to one device beside its measuring: memories of plugs, faults of stand-ins."""

from collections.abc import Callable
from typing import Any

from yoke_server.bench.drivers.base import AcquiringDriver
from yoke_server.record.recorder import events
from yoke_server.record.recorder.board import Board
from yoke_server.record.recorder.device import Telling


def _pretend(arguments: dict[str, Any]) -> Telling:
    """Put a stand-in's input into a state; a device at a bench takes no such orders."""
    number, faults = int(arguments["input"]), str(arguments["faults"])

    def what(driver: AcquiringDriver) -> dict[str, Any]:
        driver.pretend(number, faults)
        return {}

    return what


def _read_sheets(arguments: dict[str, Any]) -> Telling:
    def what(driver: AcquiringDriver) -> dict[str, Any]:
        return {"sheets": {str(n): memory.hex() for n, memory in driver.read_sheets().items()}}

    return what


def _write_sheet(arguments: dict[str, Any]) -> Telling:
    number, memory = int(arguments["input"]), bytes.fromhex(arguments["memory"])

    def what(driver: AcquiringDriver) -> dict[str, Any]:
        driver.write_sheet(number, memory)
        return {}

    return what


KINDS: dict[str, Callable[[dict[str, Any]], Telling]] = {
    "pretend": _pretend, "read_sheets": _read_sheets, "write_sheet": _write_sheet,
}  # fmt: skip


class Tellings:
    """Each is answered by its device; the bench need not wait for it."""

    def __init__(self, board: Board) -> None:
        self._board = board

    def tell(self, order: events.OrderIn) -> None:
        label = str(order.arguments["device"])
        self._board.require_usable({label})
        what = KINDS[order.kind](order.arguments)
        self._board.devices[label].port.tell(order.key, what)

    def on_told(self, event: events.Told) -> None:
        if event.problem:
            self._board.refuse(event.token, f"{event.device} does not do it: {event.problem}")
        else:
            self._board.done(event.token, event.answer)
