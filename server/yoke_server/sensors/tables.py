"""Tables of sensors as CSV (RFC 4180) and XLSX (ISO/IEC 29500), out and in."""

import csv
import io
import json
from collections.abc import Iterable, Iterator

from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks.isolated_reader import read_apart
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.record import Record, all_fields, to_record

MAX_ROWS = 5000
MAX_TABLE_BYTES = 192 << 10  # bytes, as one request may have
ZIP = b"PK"
WORKBOOK = "yoke_server.sensors.workbook"


def to_csv(sensors: Iterable[Sensor]) -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, all_fields(), restval="", lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(to_record(s) for s in sensors)
    return "\ufeff" + out.getvalue()


def to_xlsx(sensors: Iterable[Sensor]) -> bytes:
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("Sensors")
    sheet.append(list(all_fields()))
    for sensor in sensors:
        found = to_record(sensor)
        sheet.append([found.get(name, "") for name in all_fields()])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def read_table(content: bytes) -> list[Record]:
    """Rows by the names of their columns, whichever of both the file is.

    Raises a 422 problem for a file that is neither, too large, or has columns nobody knows.
    """
    if len(content) > MAX_TABLE_BYTES:
        raise _wrong(f"The file has more than {MAX_TABLE_BYTES >> 10} kB.", "Send it in parts.")
    rows = list(_xlsx(content) if content.startswith(ZIP) else _csv(content))
    if not rows:
        raise _wrong("The file holds no table.", "Export the library to see what one looks like.")
    head = [name.strip().lower() for name in rows[0]]
    if unknown := [name for name in head if name and name not in all_fields()]:
        raise _wrong(
            f"There is no column “{unknown[0][:40]}”.", f"Columns are {', '.join(all_fields())}."
        )
    for needed in ("kind", "name", "serial"):
        if needed not in head:
            raise _wrong(f"The column {needed} is missing.", "Add it to the file.")
    if len(rows) > MAX_ROWS:
        raise _wrong(f"The file has more than {MAX_ROWS} rows.", "Send it in parts.")
    return [
        {name: cell for name, cell in zip(head, row, strict=False) if name}
        for row in rows[1:]
        if any(cell.strip() for cell in row)
    ]


def _csv(content: bytes) -> Iterator[list[str]]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("cp1252", "replace")
    first = text.partition("\n")[0]
    separator = max(",;\t", key=first.count)
    lines = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    try:
        yield from lines
    except csv.Error as error:
        said = f"Line {lines.line_num}: this is no table, {error}."
        raise _wrong(said, "Save it as CSV or XLSX.") from error


def _xlsx(content: bytes) -> list[list[str]]:
    found = read_apart(WORKBOOK, content, what="workbook", hint="Save it as CSV or XLSX.")
    rows: list[list[str]] = json.loads(found)
    return rows


def _wrong(title: str, hint: str) -> Problem:
    return Problem(422, title, field="file", hint=hint)
