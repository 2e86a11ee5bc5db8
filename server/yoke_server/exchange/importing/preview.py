"""A file before a run is made of it: its lines, columns and time base, each with its reason."""

from dataclasses import dataclass

from yoke_core.errors import TableError
from yoke_core.table.shape import COMMENT, Shape, fields_of, guess_shape, shape_by
from yoke_core.table.time_base import TimeBase

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.exchange.importing.choices import MAX_COLUMNS, Choices
from yoke_server.exchange.importing.columns import ColumnPreview, Columns
from yoke_server.exchange.importing.complete import complete
from yoke_server.exchange.importing.guess import split_name
from yoke_server.exchange.importing.rows import Batch, Doubts, Figures, encoding_of
from yoke_server.exchange.importing.storage import bytes_at, on_disk
from yoke_server.exchange.importing.times import check_base, rate_step, seconds_of, why_not
from yoke_server.exchange.models import FileState, ImportedFile
from yoke_server.setups.document import FrozenChannel

HEAD_BYTES = 64 << 10
HEAD_LINES = 400
LOOKED_AT = 16 << 20  # bytes; beyond, the figures are checked while the run is made
SHOWN = 12  # first lines


@dataclass(slots=True)
class ImportPreview:
    """Everything that the preview shows. ``problem`` says why no run can be made like this."""

    shape: Shape
    encoding: str
    lines: list[tuple[int, str]]
    names: list[str]
    choices: Choices
    columns: list[ColumnPreview]
    doubts: Doubts
    rows: int
    whole: bool  # whether all of the file was looked at
    time_reason: str
    time_doubtful: bool
    compared_with: int | None  # a run
    rate_hz: float | None = None
    duration_s: float | None = None
    gaps: int = 0
    chosen: bool = False  # the way of writing, by a person
    problem: str = ""
    problem_line: int | None = None


def preview_of(file: ImportedFile, chosen: Choices) -> ImportPreview:
    """Raises a problem where no table can be found in the file."""
    if file.state == FileState.COMING:
        raise Problem(
            409,
            f"{file.name} is not here yet.",
            code=ProblemType.OUT_OF_ORDER,
            hint="Send the rest of it.",
        )
    head = bytes_at(file, 0, HEAD_BYTES)
    encoding = encoding_of(head)
    lines = head.decode(encoding, errors="replace").splitlines()[:HEAD_LINES]
    shape = _shape(lines, chosen)
    if shape.columns > MAX_COLUMNS:
        words = f"{file.name} has {shape.columns} columns; {MAX_COLUMNS} can be imported."
        raise Problem(422, words, hint="Take columns out of it first.")
    names, units = _titles(lines, shape)
    most = _whole_lines(file)
    with on_disk(file, shape.separator, most) as path:
        figures = Figures(path, shape, list(range(shape.columns)), encoding)
        batches = list(figures.batches())
    if not sum(len(b.lines) for b in batches):
        raise Problem(422, f"{file.name} has no rows of figures.", hint="Choose another file.")
    columns = Columns(file, shape, (names, units), batches, chosen)
    time, reason, doubtful = columns.time()
    if time.column is not None and time.column >= shape.columns:
        words = f"{file.name} has {shape.columns} columns, none at place {time.column + 1}."
        raise Problem(422, words, field="time", hint="Choose another column for the time.")
    found = columns.all(time)
    choices = chosen.model_copy(
        update={
            "separator": shape.separator,
            "decimal": shape.decimal,
            "time": time,
            "columns": [c.guess.choice for c in found],
        }
    )
    preview = ImportPreview(
        shape,
        encoding,
        _shown(lines, head.endswith(b"\n") or len(head) == file.size),
        names,
        choices,
        found,
        _of_included(figures.doubts, choices),
        sum(len(b.lines) for b in batches),
        most == file.size,
        reason,
        doubtful,
        columns.other.run.pk if columns.other else None,
    )
    preview.chosen = bool(chosen.separator and chosen.decimal)
    _measure(preview, batches, columns.channels)
    if shape.doubt and not preview.chosen:
        preview.problem = f"Nobody can tell how it is written: {shape.doubt}."
    return preview


def _shape(lines: list[str], chosen: Choices) -> Shape:
    try:
        if chosen.separator and chosen.decimal:
            return shape_by(lines, chosen.separator, chosen.decimal)
        return guess_shape(lines)
    except TableError as error:
        raise Problem(422, str(error), field="separator", hint=error.hint) from None


def _titles(lines: list[str], shape: Shape) -> tuple[list[str], list[str]]:
    """Names and units of the columns, from their lines or from brackets in the names."""

    def fields(number: int | None) -> list[str]:
        text = lines[number - 1].lstrip(COMMENT).strip() if number else ""
        found = [_printable(f) for f in fields_of(text, shape.separator)] if number else []
        return (found + [""] * shape.columns)[: shape.columns]

    names, units = fields(shape.names_line), fields(shape.units_line)
    split = [split_name(name) for name in names]
    return [n for n, _ in split], [u or b for u, (_, b) in zip(units, split, strict=True)]


def _printable(text: str) -> str:
    """Without what no name may hold, as a byte order mark."""
    return "".join(c for c in text if c.isprintable()).strip()


def _whole_lines(file: ImportedFile) -> int:
    """How much of the file is looked at: all, or up to the end of a line."""
    if file.size <= LOOKED_AT:
        return file.size
    tail = bytes_at(file, LOOKED_AT - HEAD_BYTES, HEAD_BYTES)
    return LOOKED_AT - HEAD_BYTES + tail.rfind(b"\n") + 1


def _shown(lines: list[str], last_is_whole: bool) -> list[tuple[int, str]]:
    kept = lines if last_is_whole else lines[:-1]
    return [(i, text[:200]) for i, text in enumerate(kept[:SHOWN], start=1)]


def _of_included(doubts: Doubts, choices: Choices) -> Doubts:
    """Doubts of columns that are left out are of no use to anybody."""
    time = choices.time
    taken = {c.place for c in choices.columns or [] if c.take}
    taken |= {time.column} if time and time.column is not None else set()
    first = [d for d in doubts.first if d.column is None or d.column in taken]
    return Doubts(first, len(first) if len(first) < len(doubts.first) else doubts.count)


def _measure(preview: ImportPreview, batches: list[Batch], channels: list[FrozenChannel]) -> None:
    """Rate, duration and gaps of what would be made, or why nothing can."""
    columns = [c for c in preview.choices.columns or [] if c.take]
    if problem := why_not(columns, channels):
        preview.problem = problem
        return
    taken = [c.place for c in columns]
    time = preview.choices.time
    assert time is not None
    places = ([] if time.column is None else [time.column]) + taken
    used = [Batch(b.values[:, places], b.lines) for b in batches]
    base = TimeBase()
    try:
        for batch in complete(used, preview.choices.doubtful):
            base.push(*seconds_of(batch, time))
        check_base(base)
    except (TableError, Problem) as error:
        preview.problem = f"{error} {error.hint}"
        preview.problem_line = getattr(error, "line", None)
        return
    first, last = base.found_segments[0], base.found_segments[-1]
    preview.rate_hz = 1 / rate_step(base)
    preview.gaps = sum(s.is_gap for s in base.found_segments)
    preview.duration_s = last.end - first.start + rate_step(base)
