"""Writing a row of samples with its envelope and checksum in one transaction."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import psycopg
from django.db import connection, transaction

from yoke_server.common.db.statement import bytes_array, run, text_array
from yoke_server.record.envelopes import EnvelopeValues

ENVELOPE_COLUMNS = "record_enveloperow (stream_id, level, first_pair, pairs, data)"
ENVELOPE_COPY = f"COPY {ENVELOPE_COLUMNS} FROM STDIN (FORMAT BINARY)"
ENVELOPE_TYPES = ["int8", "int2", "int8", "int4", "bytea"]
SEGMENT_SQL = """
INSERT INTO record_segment (stream_id, first_sample, cause, device_ns, bench_ns, rate_hz,
acquisition, missing_blocks) VALUES (%s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT DO NOTHING
"""
# A block, only where the one before it ends, with the envelope rows that it filled and what the
# run has reached with it: one way there and back.
ROW_SQL = f"""
WITH block AS (
    INSERT INTO record_block (stream_id, first_sample, samples, last_sequence, device_ns, checksum,
    chain, data)
    SELECT $1::int8, $2::int8, $3::int4, $4::int8, $5::int8, $6::int8, $7::bytea, $8::bytea
    WHERE $2::int8 = coalesce((SELECT first_sample + samples FROM record_block
        WHERE stream_id = $1::int8 ORDER BY first_sample DESC LIMIT 1), 0)
    RETURNING 1
), envelope AS (
    INSERT INTO {ENVELOPE_COLUMNS}
    SELECT $1::int8, row.* FROM block,
        unnest($9::int2[], $10::int8[], $11::int4[], $12::bytea[]) row
), progress AS (
    UPDATE record_runprogress SET reached = reached || $13::jsonb FROM block
    WHERE run_id = $14::int8 AND $13::text <> '{{}}'
)
SELECT 1 FROM block
"""  # noqa: S608
END_SQL = """
SELECT coalesce((SELECT first_sample + samples FROM record_block WHERE stream_id = $1
ORDER BY first_sample DESC LIMIT 1), 0)
"""

# stream, first sample, samples, last sequence, device time, checksum, chain, data
BlockValues = tuple[int, int, int, int, int, int, bytes, bytes | memoryview]
# stream, first sample, cause, device time, bench time, rate, acquisition, missing blocks
SegmentValues = tuple[int, int, str, int, int, float, int, int]


@dataclass(frozen=True, slots=True)
class Samples:
    """What a row of one stream adds to the database, together or not at all.

    progress : what the run has reached with it, as a JSON object; merged with what was before
    computed : whether it can be made again, so that a run does not end without it
    """

    stream_id: int
    run_id: int
    block: BlockValues
    envelope: list[EnvelopeValues] = field(default_factory=list)
    segments: list[SegmentValues] = field(default_factory=list)
    arrived: float = 0.0  # monotonic time of its oldest sample
    progress: str = ""
    computed: bool = False

    @property
    def first_sample(self) -> int:
        return self.block[1]

    @property
    def nbytes(self) -> int:
        rows = sum(len(row[-1]) for row in self.envelope)
        return rows + len(self.block[-1]) + 200


def copy_rows(statement: str, types: list[str], rows: Sequence[tuple[object, ...]]) -> None:
    """Insert rows through psycopg's binary COPY: the fast way for what arrives all day."""
    if not rows:
        return
    connection.ensure_connection()
    with connection.connection.cursor() as cursor, cursor.copy(statement) as copy:
        copy.set_types(types)
        for row in rows:
            copy.write_row(row)


def add_row(row: Samples) -> bool:
    """Add a row in a transaction; False, and nothing added, where it does not follow the last."""
    if not row.segments:
        return _add_block(row)
    with transaction.atomic():
        if not _add_block(row):
            return False
        with connection.cursor() as cursor:
            cursor.executemany(SEGMENT_SQL, row.segments)
    return True


def _add_block(row: Samples) -> bool:
    rows = row.envelope
    done = run(
        ROW_SQL,
        *row.block,
        text_array([level for _, level, _, _, _ in rows]),
        text_array([first for _, _, first, _, _ in rows]),
        text_array([pairs for _, _, _, pairs, _ in rows]),
        bytes_array([data for _, _, _, _, data in rows]),
        row.progress or "{}",
        row.run_id,
    )
    return bool(done.ntuples)


def end_of(stream_id: int) -> int:
    """Samples of a stream that are stored."""
    return int(run(END_SQL, stream_id).get_value(0, 0) or 0)


class RowsMissing(Exception):
    """A row was to be added, and those before it are not there."""


def write_samples(
    rows: Sequence[Samples],
    add: Callable[[Samples], bool] = add_row,
    end: Callable[[int], int] = end_of,
) -> None:
    """Add rows in order, each in a transaction of its own; those that are there stay as they are.

    Raises RowsMissing for one that follows none.
    """
    for row in rows:
        if not add(row) and end(row.stream_id) < row.first_sample + row.block[2]:
            raise RowsMissing(f"the samples before {row.first_sample} are missing")


def add_envelope_rows(rows: Sequence[EnvelopeValues]) -> None:
    """Envelope rows by themselves: those that were not full when a run ended."""
    copy_rows(ENVELOPE_COPY, ENVELOPE_TYPES, rows)


def wait_for_disk(yes: bool) -> None:
    """Whether this connection's commits wait for the disk.

    For samples they do not: a crash of the server loses what it has not flushed, which the
    writer keeps and writes again.
    """
    with connection.cursor() as cursor:
        cursor.execute(f"SET synchronous_commit = {'on' if yes else 'off'}")


def put_on_disk() -> None:
    """All that was committed before, by whomever, is on the disk when this returns.

    A commit that waits for the disk takes along what did not; an empty message makes it one.
    """
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET LOCAL synchronous_commit = on")
        cursor.execute("SELECT pg_logical_emit_message(true, 'yoke', '')")


def log_positions() -> tuple[int, int]:
    """Bytes of the server's log so far: written into it, and flushed to its disk."""
    found = run(
        "SELECT pg_current_wal_insert_lsn() - '0/0'::pg_lsn, "
        "pg_current_wal_flush_lsn() - '0/0'::pg_lsn"
    )
    return int(found.get_value(0, 0) or 0), int(found.get_value(0, 1) or 0)


LASTING = ("22", "23", "42")  # SQLSTATE classes: data, integrity, syntax or missing object


def will_pass(error: Exception) -> bool:
    """Whether the database may take the same later: it is away, full or busy, not unwilling."""
    cause = error if isinstance(error, psycopg.Error) else error.__cause__
    state = getattr(cause, "sqlstate", None) or ""
    return not state.startswith(LASTING)
