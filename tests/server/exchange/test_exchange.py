"""Runs as files that others read: what stands in them, and how much memory they take."""

import io
import re
import tracemalloc

import numpy as np
import pyarrow.parquet as pq
import pytest
from asgiref.sync import async_to_sync
from yoke_server.exchange.formats.csv import SIGNS, csv_parts
from yoke_server.exchange.formats.parquet import parquet_parts
from yoke_server.exchange.rows import exported
from yoke_server.record.recorder.stream.block_order import Missing
from yoke_server.setups.models import Balance
from yoke_server.setups.services import keep_revision

from tests.problems import code_of
from tests.recorded import FULL, PER_BLOCK, begin, block, record, stream_of

BLOCKS = 12


def counts():
    found = np.zeros((BLOCKS * PER_BLOCK, 8), np.int32)
    found[:, 0] = np.linspace(0, 0.2 * FULL, len(found))
    found[5, 0] = FULL
    found[:, 1] = 1000
    return found


@pytest.fixture
def run(setup):
    Balance.objects.create(setup=setup, channel_key=setup.channels.get(name="F").key, zero=0.0)
    keep_revision(None, setup, "zeroed")
    every = counts()
    parts = [block(i, every[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(BLOCKS)]
    parts[4] = Missing(4, 4)
    return record(setup, parts)


def fetched(client, run, ending):
    answer = client.get(f"/api/runs/{run.pk}/streams/{run.streams.first().pk}/files/{ending}")
    assert answer.status_code == 200
    assert "attachment" in answer["Content-Disposition"]

    async def gather():
        return b"".join([part async for part in answer.streaming_content])

    return async_to_sync(gather)()


def test_a_csv_says_where_it_comes_from_and_gives_each_sample(as_role, run):
    text = fetched(as_role("reviewer"), run, "csv").decode()
    comments = [line for line in text.splitlines() if line.startswith("#")]
    assert any("Tube coupons" in c for c in comments)
    assert any(run.seal in c for c in comments)
    assert any("samples are missing" in c for c in comments)
    names, units, *rows = text.splitlines()[len(comments) :]
    assert (names, units) == ("time,F,e clip,SG1", "s,kN,mm,µm/m")
    assert len(rows) == run.streams.first().samples
    assert rows[5].split(",")[1] == ""  # it clipped, and has no value
    times = np.array([float(r.split(",")[0]) for r in rows])
    assert times[-1] == pytest.approx((BLOCKS * PER_BLOCK - 1) * 1e-3, abs=1e-5)
    assert np.diff(times).max() == pytest.approx(PER_BLOCK * 1e-3 + 1e-3, abs=1e-5)  # the gap
    force = float(rows[-1].split(",")[1])
    assert force == pytest.approx(0.2 * 8e-3 / 2e-3 * 25, rel=1e-5)


def test_a_decimal_comma_has_semicolons(as_role, run):
    text = fetched(as_role("reviewer"), run, "csv?decimal=comma").decode()
    row = text.splitlines()[-1].split(";")
    assert len(row) == 4
    assert float(row[1].replace(",", ".")) == pytest.approx(20, rel=1e-4)


def test_a_parquet_keeps_units_and_scaling_beside_the_numbers(as_role, run):
    table = pq.read_table(io.BytesIO(fetched(as_role("reviewer"), run, "parquet")))
    assert table.column_names == ["time", "F", "e clip", "SG1"]
    field = table.schema.field("F")
    assert field.metadata[b"unit"] == b"kN"
    assert b"rated_output" in field.metadata[b"chain"]
    force = table.column("F").to_numpy()
    assert np.isinf(force[5])
    assert force[-1] == pytest.approx(20, rel=1e-5)
    assert run.seal.encode() in table.schema.metadata[b"source"]


def test_an_open_run_is_no_file_yet(as_role, setup):
    run = begin(setup)
    stream_of(run)
    answer = as_role("reviewer").get(
        f"/api/runs/{run.pk}/streams/{run.streams.first().pk}/files/csv"
    )
    assert (answer.status_code, code_of(answer)) == (409, "being-recorded")


@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_a_stream_of_another_run_is_not_found(as_role, run, ending):
    answer = as_role("reviewer").get(f"/api/runs/{run.pk + 1}/streams/1/files/{ending}")
    assert answer.status_code == 404


@pytest.mark.parametrize(
    "parts", [lambda of: csv_parts(of, SIGNS["point"]), parquet_parts], ids=["csv", "parquet"]
)
def test_memory_does_not_grow_with_the_run(setup, parts):
    def peak(blocks):
        samples = [block(i, np.zeros((5000, 8), np.int32)) for i in range(blocks)]
        run = record(setup, samples, number=blocks)
        of = exported(run.pk, run.streams.first().pk)
        tracemalloc.start()
        size = sum(len(part) for part in parts(of))
        used = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        return used, size

    peak(2)  # what is loaded once is not counted
    (short, small), (long, large) = peak(40), peak(160)
    assert large > 3.5 * small
    assert long < 1.3 * short


def test_no_cell_of_a_table_is_computed_by_a_spreadsheet(as_role, run):
    """Names and comments, also where a separator cuts a comment into cells."""
    channel = run.setup.channels.first()
    document = run.revision.document
    document["channels"][0]["name"] = "=1+1"
    document["channels"][0]["sensor_name"] = "cell, =HYPERLINK(1)"
    document["name"] = "@sum(a1)"
    run.revision.save()
    run.setup.name = "pull,\t+cmd|' /C calc'!A0; -2"
    run.setup.save()
    text = fetched(as_role("reviewer"), run, "csv").decode()
    *_, names, units = [line for line in text.splitlines() if not line[:1].isdigit()]
    head = text[: text.index(units)]
    for cell in re.split(r"[,;\t\n]", head):
        assert cell.strip(' #"')[:1] not in ("=", "+", "-", "@"), cell
    assert channel and "'=1+1" in names


def test_formats_and_options_that_there_are_not_are_refused(as_role, run):
    client, of = as_role("reviewer"), f"/api/runs/{run.pk}/streams/{run.streams.first().pk}/files"
    offered = client.get("/api/formats").json()
    assert [f["title"] for f in offered] == ["CSV", "CSV, comma", "Parquet"]
    unknown = client.get(f"{of}/xyz")
    assert (unknown.status_code, unknown.json()["hint"]) == (404, "Choose csv, parquet.")
    wrong = client.get(f"{of}/csv?decimal=dot")
    assert (wrong.status_code, wrong.json()["field"]) == (422, "decimal")
