"""The first sheet of an XLSX workbook (ISO/IEC 29500) as rows of texts, read in a process apart.

Knows nothing of ours: it is started for each file, and must be there soon.
"""

import io
import json
import sys
import zipfile

MAX_ROWS = 5001
MAX_COLUMNS = 64
LARGEST_UNPACKED = 64 << 20
MAX_PARTS = 200
SAID = 3  # see common/apart.py


class InvalidWorkbook(Exception):
    """Why a workbook is not read, for people."""


def rows_of(content: bytes) -> list[list[str]]:
    """Raises InvalidWorkbook, or what the libraries raise for what is no workbook."""
    from openpyxl import load_workbook

    with zipfile.ZipFile(io.BytesIO(content)) as packed:
        parts = packed.infolist()
        if len(parts) > MAX_PARTS or sum(p.file_size for p in parts) > LARGEST_UNPACKED:
            raise InvalidWorkbook("The workbook unpacks to too much.")
        if any(p.flag_bits & 1 for p in parts):
            raise InvalidWorkbook("The workbook is encrypted: save it without a password.")
    book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
    if not book.worksheets:
        raise InvalidWorkbook("The workbook has no sheet.")
    rows = book.worksheets[0].iter_rows(
        values_only=True, max_row=MAX_ROWS, max_col=MAX_COLUMNS
    )  # a sheet may say that it has a million columns
    return [["" if cell is None else f"{cell}" for cell in row] for row in rows]


def main() -> int:
    try:
        found = rows_of(sys.stdin.buffer.read())
    except InvalidWorkbook as why:
        print(why, file=sys.stderr)
        return SAID
    json.dump(found, sys.stdout)
    return 0


if __name__ == "__main__":
    sys.exit(main())
