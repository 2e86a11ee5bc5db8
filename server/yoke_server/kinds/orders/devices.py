"""Orders to one device beside its measuring: memories of plugs, faults of stand-ins."""

from typing import ClassVar, Literal

from yoke_server.bench.orders import OrderAnswer, OrderSpec


class DeviceOrder(OrderSpec):
    """An order to the device of a label."""

    device: str


class Pretend(DeviceOrder):
    """Put an input of a stand-in into a state that it should not be in."""

    is_taken_always: ClassVar = True

    kind: Literal["pretend"] = "pretend"
    input: int
    faults: str


class Sheets(OrderAnswer):
    """The memories of a device's plugs in hexadecimal, by input."""

    sheets: dict[str, str]


class ReadSheets(DeviceOrder):
    """Read the memories of all plugs."""

    answer: ClassVar = Sheets

    kind: Literal["read_sheets"] = "read_sheets"


class WriteSheet(DeviceOrder):
    """Write the memory of a plug, in hexadecimal."""

    kind: Literal["write_sheet"] = "write_sheet"
    input: int
    memory: str
