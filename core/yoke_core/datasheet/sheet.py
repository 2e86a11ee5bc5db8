"""A data sheet as it lies in a plug's memory: read, checked, written."""

from collections.abc import Mapping
from dataclasses import dataclass

from yoke_core.datasheet.bits import BitReader, BitWriter
from yoke_core.datasheet.templates import BASIC, BRIDGE_SENSOR, TEMPLATES, WIDE, Field, Value
from yoke_core.errors import CoreError

PAGE = 32  # bytes, the first of them a checksum: all of a page add up to 0 modulo 256
MEMORY = 128  # bytes of the usual memory
STANDARD, END = 0, 3  # selectors: a template of the standard follows; text follows
MAX_TEXT_LENGTH = 40
NEVER_UNTOLD = frozenset({"precision"})  # all of its codes mean something
BLANK = (0x00, 0xFF)


class SheetError(CoreError):
    """A memory holds no data sheet that can be read, or cannot hold one."""

    def __init__(self, message: str, hint: str) -> None:
        super().__init__("sheet", message, hint)


@dataclass(frozen=True, slots=True)
class DataSheet:
    """A sensor as its plug says it, None for what it does not tell; ``text`` is free, here the
    serial number as people write it."""

    manufacturer: int | None
    model: int | None
    version_letter: str | None
    version: int | None
    serial: int | None
    template: int
    values: Mapping[str, Value]
    text: str = ""


def read_sheet(memory: bytes) -> DataSheet | None:
    """The data sheet in a memory of whole pages; None where it is blank.

    Raises SheetError for a wrong checksum, a template nobody here knows, or an early end.
    """
    if not memory or (all(b == memory[0] for b in memory) and memory[0] in BLANK):
        return None
    reader = BitReader(_payload(memory))
    try:
        basic = {f.name: _read(f, reader) for f in BASIC}
        selector, template = reader.take(2), reader.take(8)
        if selector != STANDARD or template not in TEMPLATES:
            known = " and ".join(str(t) for t in TEMPLATES)
            raise SheetError(
                f"The data sheet follows template {template}, which is not read here.",
                f"Templates {known} are; choose the sensor from the library.",
            )
        values = _values(template, reader)
        text = _text(reader)
    except EOFError:
        raise SheetError(
            "The data sheet ends too early.", "Write it anew, or choose the sensor by hand."
        ) from None
    whole = {k: int(v) for k, v in basic.items() if isinstance(v, float)}
    letter = basic["version_letter"]
    return DataSheet(
        whole.get("manufacturer"),
        whole.get("model"),
        None if letter is None else str(letter),
        whole.get("version"),
        whole.get("serial"),
        template,
        values,
        text,
    )


def _payload(memory: bytes) -> bytes:
    if len(memory) % PAGE:
        raise SheetError("The memory does not have whole pages.", "Read it again.")
    found = b""
    for start in range(0, len(memory), PAGE):
        page = memory[start : start + PAGE]
        if sum(page) % 256:
            raise SheetError(
                f"Page {start // PAGE + 1} of the data sheet has a wrong checksum.",
                "Clean the plug's contacts and read it again; if it stays so, write it anew.",
            )
        found += page[1:]
    return found


def _values(template: int, reader: BitReader) -> dict[str, Value]:
    found: dict[str, Value] = {}
    for field in TEMPLATES[template]:
        found[field.name] = _read(field, reader)
        if field.name == "precision" and found[field.name] != WIDE:
            raise SheetError(
                "The data sheet gives its outputs in a short form that is not read here.",
                "Choose the sensor from the library.",
            )
    found.pop("precision", None)
    return found


def _read(field: Field, reader: BitReader) -> Value:
    number = reader.take(field.bits)
    return None if _is_untold(field, number) else field.read(number)


def _is_untold(field: Field, number: int) -> bool:
    return number == field.untold and field.name not in NEVER_UNTOLD


def _text(reader: BitReader) -> str:
    """What follows the template: seven-bit characters up to a zero."""
    if reader.take(2) != END or reader.take(1):
        return ""
    found = ""
    while len(found) < MAX_TEXT_LENGTH and (code := reader.take(7)):
        found += chr(code)
    return found if found.isprintable() else ""


def write_sheet(sheet: DataSheet, size: int = MEMORY) -> bytes:
    """The memory of ``size`` bytes that holds a data sheet; what is None is not told.

    Raises SheetError where a value does not fit its field, its code means that nothing is told,
    or the sheet does not fit its memory: nothing is changed in silence.
    """
    writer = BitWriter()
    for field in BASIC:
        _write(field, getattr(sheet, field.name), writer)
    writer.put(STANDARD, 2)
    writer.put(sheet.template, 8)
    values = {**sheet.values, **({"precision": WIDE} if sheet.template == BRIDGE_SENSOR else {})}
    for field in TEMPLATES[sheet.template]:
        _write(field, values.get(field.name), writer)
    writer.put(END, 2)
    writer.put(0, 1)
    for character in _seven_bits(sheet.text) + b"\0":
        writer.put(character, 7)
    data = writer.to_bytes()
    if len(data) > size // PAGE * (PAGE - 1):
        raise SheetError("The data sheet does not fit into the memory.", "Shorten its text.")
    return b"".join(_page(data, start) for start in range(0, size // PAGE * (PAGE - 1), PAGE - 1))


def _seven_bits(text: str) -> bytes:
    if text.isascii() and (text.isprintable() or not text) and len(text) <= MAX_TEXT_LENGTH:
        return text.encode("ascii")
    raise SheetError(
        f"“{text}” cannot be written into a data sheet.",
        f"It takes {MAX_TEXT_LENGTH} letters, figures and signs of plain ASCII.",
    )


def _page(data: bytes, start: int) -> bytes:
    page = data[start : start + PAGE - 1].ljust(PAGE - 1, b"\0")
    return bytes([-sum(page) % 256]) + page


def _write(field: Field, value: Value, writer: BitWriter) -> None:
    try:
        number = field.untold if value is None else field.write(value)
        if value is not None and _is_untold(field, number):
            raise ValueError("its code means that nothing is told")
        writer.put(number, field.bits)
    except (ValueError, TypeError, OverflowError) as error:
        words = field.name.replace("_", " ")
        raise SheetError(
            f"The {words} {value} does not fit into a data sheet.", "Write it without that."
        ) from error
