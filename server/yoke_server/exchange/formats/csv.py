"""A stream of a run as CSV (RFC 4180), with a comment header and a row of units."""

import csv
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from yoke_server.exchange.formats.base import Format, Options, Variant
from yoke_server.exchange.rows import Exported, columns, header_lines

# A cell that a spreadsheet would compute, also in the middle of a comment that it cuts into cells.
FORMULA, SAFE = re.compile(r"((?:^|[,;\t])\s*)([=+\-@])"), r"\1'\2"
TIME_DECIMALS = 7
FINER = 3  # decimals more than the channel is shown with


@dataclass(frozen=True, slots=True)
class Signs:
    """How numbers are written."""

    point: str = "."
    separator: str = ","


SIGNS = {"point": Signs(), "comma": Signs(",", ";")}


class Csv(Format):
    name: ClassVar = "csv"
    ending: ClassVar = ".csv"
    media_type: ClassVar = "text/csv"
    options: ClassVar = {"decimal": tuple(SIGNS)}
    variants: ClassVar = (Variant("CSV", {}), Variant("CSV, comma", {"decimal": "comma"}))

    def write(self, of: Exported, options: Options) -> Iterator[bytes]:
        return csv_parts(of, SIGNS[options["decimal"]])


def csv_parts(of: Exported, signs: Signs) -> Iterator[bytes]:
    """The file in parts; its memory does not grow with the run."""
    import numpy as np
    from yoke_core.table.text import table_text

    yield _head(of, signs).encode()
    decimals = [min(12, c.decimals + FINER) for c in of.channels]
    places = np.array([TIME_DECIMALS, *decimals], np.int64)
    for table in columns(of):
        yield table_text(np.column_stack(table), places, signs.point, signs.separator)


def _head(of: Exported, signs: Signs) -> str:
    text = io.StringIO()
    for line in header_lines(of):
        text.write(f"# {FORMULA.sub(SAFE, line)}\n")
    writer = csv.writer(text, delimiter=signs.separator, lineterminator="\n")
    writer.writerow(["time", *(_plain(c.name) for c in of.channels)])
    writer.writerow(["s", *(c.unit for c in of.channels)])
    return text.getvalue()


def _plain(name: str) -> str:
    """A name that no spreadsheet takes for a formula."""
    return FORMULA.sub(SAFE, name)
