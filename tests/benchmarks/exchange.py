"""Runs as files, against pyarrow's own writers on the same numbers."""

import io
from typing import Any

import numpy as np

from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, interleaved
from tests.benchmarks.views import LongRun

RATE, SAMPLES, BLOCK = 10_000.0, 2_000_000, 25_000


def measure() -> list[Row]:
    """Whole files from the database; the floor has its numbers in memory already."""
    import pyarrow as pa
    import pyarrow.csv as pa_csv
    import pyarrow.parquet as pq
    from yoke_server.exchange.formats.csv import SIGNS, csv_parts
    from yoke_server.exchange.formats.parquet import parquet_parts
    from yoke_server.exchange.rows import columns, exported

    setup = fresh_setup(RATE)
    long = LongRun(setup, 1, RATE)
    long.record(SAMPLES, BLOCK)
    long.close()
    of = exported(long.run.pk, long.run.streams.get().pk)
    names = ["time", *(c.name for c in of.channels)]
    parts = [
        pa.Table.from_arrays(
            [pa.array(seconds), *(pa.array(r.astype(np.float32)) for r in readings)], names
        )
        for seconds, *readings in columns(of)
    ]

    def whole(made: Any) -> int:
        return sum(len(part) for part in made)

    def bare_csv() -> None:
        file = io.BytesIO()
        with pa_csv.CSVWriter(file, parts[0].schema) as writer:
            for part in parts:
                writer.write_table(part)

    def bare_parquet() -> None:
        options = {"compression": "NONE", "use_dictionary": False}
        with pq.ParquetWriter(io.BytesIO(), parts[0].schema, **options) as writer:
            for part in parts:
                writer.write_table(part)

    rows = []
    for words, ours, floor, most in (
        ("CSV", lambda: whole(csv_parts(of, SIGNS["point"])), bare_csv, 0.6),
        ("Parquet", lambda: whole(parquet_parts(of)), bare_parquet, 1.2),
    ):
        best, bare = interleaved(ours, floor, rounds=5)
        rows.append(
            Row(
                f"{words} of {SAMPLES} x {len(names) - 1} samples, from the database, against "
                "pyarrow's writer",
                best,
                bare,
                "s",
                f"ratio at most {most}",
                best <= most * bare,
            )
        )
    return rows
