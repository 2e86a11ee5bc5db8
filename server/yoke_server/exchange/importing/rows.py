"""Reading the numbers of a file in batches, with the fields that are not numbers."""

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from yoke_core.errors import TableError
from yoke_core.table.shape import COMMENT, Shape

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

BOM = b"\xef\xbb\xbf"
BATCH_BYTES = 4 << 20
MAX_DOUBTS = 50  # that are told one by one
MAX_VALUE = 3e38  # what a stored sample can be
NUMBER = r"^[+-]?(\d+({sign}\d*)?|{sign}\d+)([eE][+-]?\d+)?$"
OTHER_SIGN = {".": ",", ",": "."}


@dataclass(frozen=True, slots=True)
class Doubt:
    """A field of a line that is no number, or (``column`` None) a line that is no row."""

    line: int
    column: int | None
    text: str
    why: str


@dataclass(slots=True)
class Doubts:
    """The first of them one by one, and how many there are."""

    first: list[Doubt] = field(default_factory=list)
    count: int = 0

    def add(self, doubt: Doubt) -> None:
        self.count += 1
        if len(self.first) < MAX_DOUBTS:
            self.first.append(doubt)


@dataclass(frozen=True, slots=True)
class Batch:
    """Consecutive rows: ``values`` (rows, columns), NaN where no number is; their lines."""

    values: "Array"
    lines: "NDArray[np.int64]"


def encoding_of(head: bytes) -> str:
    """UTF-8 where it can be that, else the western letters of old programs."""
    try:
        head[: head.rfind(b"\n") + 1 or len(head)].decode("utf-8")
    except UnicodeDecodeError:
        return "latin-1"
    return "utf-8-sig" if head.startswith(BOM) else "utf-8"


class Figures:
    """Reads the rows of some columns of a file on disk, in order, once; ``doubts`` grows."""

    def __init__(self, path: str, shape: Shape, columns: list[int], encoding: str) -> None:
        self.doubts = Doubts()
        self._path = path
        self._shape = shape
        self._columns = columns
        self._encoding = encoding
        self._left_out: list[int] = []  # lines that are no rows
        self._line = shape.first_line

    def batches(self) -> Iterator[Batch]:
        """Raise `TableError` where the file stops being text."""
        import pyarrow as pa

        try:
            for batch in self._reader():
                if batch.num_rows:
                    yield self._numbers(batch)
        except (pa.ArrowInvalid, UnicodeDecodeError) as error:
            why = str(error).split("\n")[0][:120]
            raise TableError(
                f"The file cannot be read beyond line {self._line}: {why}",
                "Mend it there, or write it anew as UTF-8 text.",
                line=self._line,
            ) from None

    def _reader(self) -> Any:
        import pyarrow as pa
        import pyarrow.csv as pv

        names = [f"f{i}" for i in range(self._shape.columns)]
        return pv.open_csv(
            self._path,
            pv.ReadOptions(
                skip_rows=self._shape.first_line - 1,
                column_names=names,
                block_size=BATCH_BYTES,
                use_threads=False,
                encoding=self._encoding.removesuffix("-sig"),
            ),
            pv.ParseOptions(
                delimiter=self._shape.separator,
                ignore_empty_lines=False,
                invalid_row_handler=self._no_row,
            ),
            pv.ConvertOptions(
                include_columns=[names[i] for i in self._columns],
                column_types=dict.fromkeys(names, pa.string()),
                strings_can_be_null=False,
            ),
        )

    def _no_row(self, row: Any) -> str:
        self._left_out.append(row.number)
        if row.text.strip() and not row.text.startswith(COMMENT):
            why = f"it has {row.actual_columns} columns, the others {row.expected_columns}"
            self.doubts.add(Doubt(row.number, None, row.text[:60], why))
        return "skip"

    def _lines(self, rows: int) -> "NDArray[np.int64]":
        """The lines in which the next rows stand."""
        import numpy as np

        del self._left_out[: bisect_left(self._left_out, self._line)]  # those are passed
        over = list(self._left_out)  # the reader works ahead in a thread of its own
        lines = np.arange(self._line, self._line + rows + len(over))
        lines = lines[~np.isin(lines, over)][:rows]
        self._line = int(lines[-1]) + 1
        return lines

    def _numbers(self, batch: Any) -> Batch:
        import numpy as np

        lines = self._lines(batch.num_rows)
        values = np.empty((batch.num_rows, len(self._columns)))
        for i, (place, column) in enumerate(zip(self._columns, batch.columns, strict=True)):
            values[:, i] = self._column(column, place, lines)
        return Batch(values, lines)

    def _column(self, column: Any, place: int, lines: "NDArray[np.int64]") -> "Array":
        import numpy as np
        import pyarrow as pa
        import pyarrow.compute as pc

        decimal = self._shape.decimal
        written = pc.utf8_trim_whitespace(column)
        text = pc.replace_substring(written, ",", ".") if decimal == "," else written
        mixed = pc.any(pc.match_substring(written, OTHER_SIGN[decimal])).as_py()
        try:
            found = pc.cast(text, pa.float64()).to_numpy(zero_copy_only=False)
            if not mixed and (np.abs(found) < MAX_VALUE).all():
                return np.asarray(found)
        except pa.ArrowInvalid:
            pass
        pattern = NUMBER.format(sign="\\." if decimal == "." else ",")
        good = pc.fill_null(pc.match_substring_regex(written, pattern), False)
        numbers = pc.cast(pc.if_else(good, text, None), pa.float64())
        values = np.array(pc.fill_null(numbers, np.nan).to_numpy(zero_copy_only=False))
        values[~(np.abs(values) < MAX_VALUE)] = np.nan
        for row in np.flatnonzero(np.isnan(values)):
            words = (column[int(row)].as_py() or "")[:40].strip()
            why = _why_none(words, decimal, good=good[int(row)].as_py())
            self.doubts.add(Doubt(int(lines[row]), place, words, why))
            if len(self.doubts.first) == MAX_DOUBTS:
                self.doubts.count += int(np.isnan(values[row + 1 :]).sum())
                break
        return values


def _why_none(words: str, decimal: str, *, good: bool) -> str:
    """The reason why a field is not a number."""
    if not words:
        return "it is empty"
    if good:
        return "the number is too large"
    other = OTHER_SIGN[decimal]
    if other in words and all(c.isdigit() or c in "+-eE.," for c in words):
        names = {".": "a point", ",": "a comma"}
        return f"{names[other]} where decimal signs are {names[decimal].removeprefix('a ')}s"
    return "text in figures"
