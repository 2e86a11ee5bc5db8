"""Hot writes: blocks, envelope rows and segments, that may be repeated without harm."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import psycopg
from django.db import connection, transaction

from yoke_server.common.statement import bytes_array, run, text_array
from yoke_server.record.envelopes import EnvelopeValues

ENVELOPE_COLUMNS = "record_enveloperow (stream_id, level, first_pair, pairs, data)"
ENVELOPE_COPY = f"COPY {ENVELOPE_COLUMNS} FROM STDIN (FORMAT BINARY)"
ENVELOPE_TYPES = ["int8", "int2", "int8", "int4", "bytea"]
SEGMENT_SQL = """
INSERT INTO record_segment (stream_id, first_sample, cause, device_ns, bench_ns, rate_hz,
acquisition, missing_blocks) VALUES (%s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT DO NOTHING
"""
# A block and the envelope rows that it filled: one way there and back.
STRETCH_SQL = f"""
WITH block AS (
    INSERT INTO record_block (stream_id, first_sample, samples, last_sequence, device_ns, checksum,
    chain, data) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
)
INSERT INTO {ENVELOPE_COLUMNS}
SELECT $1, row.* FROM unnest($9::int2[], $10::int8[], $11::int4[], $12::bytea[]) row
"""  # noqa: S608
REACHED_SQL = """
SELECT coalesce((SELECT first_sample + samples FROM record_block WHERE stream_id = %s
ORDER BY first_sample DESC LIMIT 1), 0)
"""

# stream, first sample, samples, last sequence, device time, checksum, chain, data
BlockValues = tuple[int, int, int, int, int, int, bytes, bytes | memoryview]
# stream, first sample, cause, device time, bench time, rate, acquisition, missing blocks
SegmentValues = tuple[int, int, str, int, int, float, int, int]


@dataclass(frozen=True, slots=True)
class Samples:
    """What a stretch of one stream adds to the database, together or not at all."""

    stream_id: int
    run_id: int
    block: BlockValues
    envelope: list[EnvelopeValues] = field(default_factory=list)
    segments: list[SegmentValues] = field(default_factory=list)
    arrived: float = 0.0  # monotonic time of its oldest sample

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


def write_samples(work: Sequence[Samples]) -> None:
    """Stretches that are not in the database yet, in order, each a transaction of its own."""
    for stretch in work:
        if stretch.segments:
            with transaction.atomic():
                with connection.cursor() as cursor:
                    cursor.executemany(SEGMENT_SQL, stretch.segments)
                _write_block(stretch)
        else:
            _write_block(stretch)


def _write_block(stretch: Samples) -> None:
    rows = stretch.envelope
    run(
        STRETCH_SQL,
        *stretch.block,
        text_array([level for _, level, _, _, _ in rows]),
        text_array([first for _, _, first, _, _ in rows]),
        text_array([pairs for _, _, _, pairs, _ in rows]),
        bytes_array([data for _, _, _, _, data in rows]),
    )


def write_last_rows(rows: Sequence[EnvelopeValues]) -> None:
    """The envelope rows that were not full when a run ended."""
    copy_rows(ENVELOPE_COPY, ENVELOPE_TYPES, rows)


def write_again(work: Sequence[Samples]) -> None:
    """The same for stretches some of which may be there: only what is missing is added.

    A stream's blocks are written in order by one writer, so those up to the last stored one
    are there, and with them, from the same transaction, their rows.
    """
    reached: dict[int, int] = {}
    for stream_id in {w.stream_id for w in work}:
        with connection.cursor() as cursor:
            cursor.execute(REACHED_SQL, [stream_id])
            reached[stream_id] = cursor.fetchone()[0]
    write_samples([w for w in work if w.block[1] >= reached[w.stream_id]])


def wait_for_disk(yes: bool) -> None:
    """Whether this connection's commits wait for the disk.

    For samples they do not: a crash of the server loses at most its last half second, which
    the writer keeps and writes again.
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


LASTING = ("22", "23", "42")  # SQLSTATE classes: data, integrity, syntax or missing object


def will_pass(error: Exception) -> bool:
    """Whether the database may take the same later: it is away, full or busy, not unwilling."""
    cause = error if isinstance(error, psycopg.Error) else error.__cause__
    state = getattr(cause, "sqlstate", None) or ""
    return not state.startswith(LASTING)
