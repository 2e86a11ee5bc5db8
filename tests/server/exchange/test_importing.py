"""Files from elsewhere, imported as runs: sent in parts, previewed, made a run or nothing."""

import io
from pathlib import Path

import numpy as np
import pyarrow.parquet as pq
import pytest
from pypdf import PdfReader
from yoke_rig.prediction import lines
from yoke_server.derive.computing import derive_stale
from yoke_server.derive.inputs import whole
from yoke_server.exchange.formats.parquet import parquet_parts
from yoke_server.exchange.importing import complete, rows, storage
from yoke_server.exchange.importing import run as making
from yoke_server.exchange.importing.guess import Seen
from yoke_server.exchange.importing.rows import Batch
from yoke_server.exchange.models import FilePart, ImportedFile
from yoke_server.exchange.rows import exported
from yoke_server.exchange.tasks import import_run
from yoke_server.ledger.models import Entry
from yoke_server.record.models import Run
from yoke_server.record.queries import document_of, times_of
from yoke_server.record.samples import read
from yoke_server.record.streams import streams_of
from yoke_server.record.tasks import make as make_readings
from yoke_server.report.models import Report
from yoke_server.report.tasks import make
from yoke_server.setups.freezing import freeze

from tests import copied
from tests.problems import code_of

JSON = "application/json"
EXAMPLE = Path(__file__).parents[3] / "docs" / "examples" / "fk12_crown_r4.txt"


@pytest.fixture
def fork(setup):
    return copied.fork()


@pytest.fixture
def client(fork, as_role):
    return as_role("engineer")


def sent(client, setup, text, name="table.txt", part=None):
    """A file in the database; gives its address."""
    data = text if isinstance(text, bytes) else text.encode()
    told = client.post(
        f"/api/setups/{setup.pk}/files", {"name": name, "size": len(data)}, content_type=JSON
    )
    assert told.status_code == 201, told.content
    address = f"/api/files/{told.json()['key']}"
    part = part or storage.LARGEST_PART
    for at in range(0, len(data), part):
        answer = client.put(
            f"{address}/parts/{at}", data[at : at + part], content_type="application/octet-stream"
        )
        assert answer.status_code == 200, answer.content
    return address


def looked(client, address, **choices):
    answer = client.post(f"{address}/preview", choices, content_type=JSON)
    assert answer.status_code == 200, answer.content
    return answer.json()


def made(client, address, choices):
    """The run that the worker makes."""
    answer = client.post(f"{address}/run", choices, content_type=JSON)
    assert answer.status_code == 202, answer.content
    import_run(address.rpartition("/")[2])
    return Run.objects.get(pk=client.get(address).json()["run_id"])


def by_name(preview, name):
    place = next(c["place"] for c in preview["columns"] if c["heading"] == name)
    choice = next(c for c in preview["choices"]["columns"] if c["place"] == place)
    return preview["columns"][place] | choice


def test_the_example_is_what_its_maker_writes():
    assert EXAMPLE.read_text(encoding="utf-8").splitlines() == lines()


def test_the_prediction_of_the_fork_becomes_a_run(client, fork):
    address = sent(client, fork, EXAMPLE.read_bytes(), EXAMPLE.name, part=50_000)
    preview = looked(client, address)
    assert (preview["choices"]["separator"], preview["choices"]["decimal"]) == (";", ",")
    assert (preview["names_line"], preview["units_line"], preview["first_line"]) == (6, 7, 8)
    assert preview["choices"]["time"]["unit"] == "ms" and preview["time_doubtful"]
    strain = by_name(preview, "CR_00")
    assert (strain["quantity"], strain["unit"], strain["take"]) == ("strain", "µm/m", True)
    assert "line 7 says ue" in strain["reason"]
    axle = next(c for c in document_channels(fork) if c.name == "F axle")
    assert by_name(preview, "F_AX")["pairs_with"] == axle.key
    assert by_name(preview, "FLAG")["role"] == "left out"
    assert [(d["line"], d["column"], d["why"]) for d in preview["doubts"]] == [
        (1074, 2, "text in figures")
    ]
    assert preview["gaps"] == 1 and preview["rate_hz"] == pytest.approx(100)

    run = made(client, address, preview["choices"])
    (times,) = streams_of(run.pk)
    assert times.samples == 1600 and run.state == "kept" and run.number == 1
    assert times.gaps == [(pytest.approx(10.66), pytest.approx(10.67))]
    document = document_of(run)
    force = whole(run, next(c for c in document.channels if c.key == axle.key).key)
    assert force.max() == pytest.approx(2400)
    strains = whole(run, next(c for c in document.channels if c.name == "CR_00").key)
    assert strains.max() == pytest.approx(802.4e-6)
    assert not FilePart.objects.exists()
    assert "Imported fk12_crown_r4.txt" in Entry.objects.latest("id").action
    assert run.revision.document["channels"] != run.document["channels"]


def document_channels(setup):
    return freeze(setup).channels


def test_bridged_fields_lie_on_a_line_and_the_run_says_so(client, fork):
    address = sent(client, fork, "t;F\ns;kN\n0;0\n1;x\n2;\n3;6\n4;8\n")
    preview = looked(client, address, doubtful="bridge")
    assert preview["doubt_count"] == 2 and preview["gaps"] == 0
    run = made(client, address, preview["choices"])
    values = whole(run, document_of(run).channels[0].key)
    np.testing.assert_allclose(values, [0, 2e3, 4e3, 6e3, 8e3])
    assert "bridged" in run.notes


def test_a_run_that_was_imported_is_derived_reported_and_sent_on(client, fork):
    address = sent(client, fork, EXAMPLE.read_bytes(), EXAMPLE.name)
    choices = looked(client, address)["choices"]
    keys = {c.name: c.key for c in document_channels(fork)}
    for column, name in zip(choices["columns"][1:4], ("R1a", "R1b", "R1c"), strict=True):
        column["pairs_with"] = keys[name]
    run = made(client, address, choices)
    derive_stale(fork.pk)
    (found,) = client.get(f"/api/runs/{run.pk}/derivations").json()
    first = next(r for r in found["results"] if r["symbol"] == "ε1")
    assert first["value"] == pytest.approx(969.2e-6, rel=1e-3)
    assert client.get(f"/api/setups/{fork.pk}/series").json() == []  # nobody measured it here
    report = client.post(f"/api/runs/{run.pk}/report").json()
    make(report["id"])
    text = "".join(p.extract_text() for p in PdfReader(io.BytesIO(Report.objects.get().pdf)).pages)
    assert "fk12_crown_r4" in text
    (stream,) = client.get(f"/api/setups/{fork.pk}/runs").json()["items"][0]["streams"]
    make_readings(run.pk)
    answer = client.get(f"/api/runs/{run.pk}/streams/{stream['id']}/files/csv")
    assert answer.status_code == 200


def test_a_bridge_spans_batches_but_not_for_ever(monkeypatch):
    """Rows of a column that ends half way do not gather in memory."""
    monkeypatch.setattr(complete, "MAX_BRIDGE", 6)
    rows = [0.0, 1.0, np.nan, np.nan, 4.0, 5.0, *[np.nan] * 9, 15.0, np.nan, 17.0]
    whole_rows = [Batch(np.array([[v]]), np.array([i])) for i, v in enumerate(rows)]
    found = list(complete.complete(whole_rows, "bridge"))
    assert [int(n) for b in found for n in b.lines] == [0, 1, 2, 3, 4, 5, 15, 16, 17]
    values = np.concatenate([b.values[:, 0] for b in found])
    np.testing.assert_allclose(values, [0, 1, 2, 3, 4, 5, 15, 16, 17])


def test_peaks_of_temperatures_are_compared_from_the_same_zero():
    seen = Seen(10, 10, 18.0, 24.0)
    assert seen.peak_si("°C") == pytest.approx(297.15)
    assert seen.peak_si("K") == 24


BAD = {
    "time running back": ("t;F\ns;N\n0;1\n1;2\n0,5;3\n", "runs back in line 5"),
    "no unit": ("a;b\n0;1\n1;2\n2;4\n", "No column is taken"),
    "one row": ("t;F\ns;N\n0;1\n", "fewer than two"),
}


def test_uneven_times_are_kept_as_they_are(client, fork):
    """Each row at its own time, however it lies to the others."""
    times = [0.0, 1.0, 2.0, 2.3, 3.0, 4.0, 4.4, 5.0]
    rows = "".join(f"{t:.1f};{i}\n".replace(".", ",") for i, t in enumerate(times))
    address = sent(client, fork, f"t;F\ns;N\n{rows}")
    preview = looked(client, address)
    assert (preview["problem"], preview["gaps"]) == ("", 0)
    run = made(client, address, preview["choices"])
    stream = run.streams.get()
    placed = times_of(run, stream).seconds_of(np.arange(len(times)))
    assert placed == pytest.approx(times, abs=0.102)  # to what they are rounded to
    assert {s.cause for s in stream.segments.all()} == {"start", "clock"}


def test_each_digit_of_a_file_is_kept(client, fork):
    numbers = [12345.6789, 12345.6790, 12345.6791]
    address = sent(
        client, fork, "t;F\ns;N\n" + "".join(f"{i};{n}\n" for i, n in enumerate(numbers))
    )
    run = made(client, address, looked(client, address)["choices"])
    stream = run.streams.get()
    assert run.document["channels"][0]["signal"] == "value" and stream.sample_bytes == 8
    assert list(read(stream, [0], 0, 3)[0]) == numbers
    table = pq.read_table(io.BytesIO(b"".join(parquet_parts(exported(run.pk, stream.pk)))))
    assert table.column("F").to_pylist() == numbers


def test_a_point_among_decimal_commas_is_no_number(client, fork):
    address = sent(client, fork, "t;F\ns;N\n0,0;1,5\n0,1;1.001\n0,2;2,5\n0,3;3,5\n")
    (doubt,) = looked(client, address)["doubts"]
    assert (doubt["line"], doubt["text"]) == (4, "1.001")
    assert doubt["why"] == "a point where decimal signs are commas"


@pytest.mark.parametrize(
    ("written", "quantity", "unit"),
    [
        ("Nm", "torque", "N m"),
        ("N·m", "torque", "N m"),
        ("N/mm²", "stress", "MPa"),
        ("MPa", "stress", "MPa"),
        ("bar", "pressure", "bar"),
        ("m/s²", "acceleration", "m/s²"),
        ("1/min", "speed", "rpm"),
        ("kNm", "torque", "kN m"),
        ("kPa", "pressure", "kPa"),
    ],
)
def test_what_people_write_as_units_is_known(client, fork, written, quantity, unit):
    address = sent(client, fork, f"t;X\ns;{written}\n0;1\n1;2\n2;4\n")
    choice = by_name(looked(client, address), "X")
    found = next(c for c in looked(client, address)["choices"]["columns"] if c["name"] == "X")
    assert (found["quantity"], found["unit"]) == (quantity, unit), choice


def test_a_separator_that_nobody_can_tell_is_asked_for(client, fork):
    address = sent(client, fork, "0,25\n1,50\n2,75\n3,25\n")
    preview = looked(client, address)
    assert "would make" in preview["separator_doubt"]
    assert preview["problem"].startswith("Nobody can tell how it is written")
    chosen = {
        "separator": preview["choices"]["separator"],
        "decimal": preview["choices"]["decimal"],
    }
    assert looked(client, address, **chosen)["separator_doubt"] == ""


@pytest.mark.parametrize("case", BAD)
def test_a_table_that_cannot_be_says_why_and_makes_nothing(client, fork, case):
    text, words = BAD[case]
    address = sent(client, fork, text)
    preview = looked(client, address)
    assert words in preview["problem"]
    answer = client.post(f"{address}/run", preview["choices"], content_type=JSON)
    assert answer.status_code == 422 and words in answer.json()["title"]
    assert not Run.objects.exists()


def test_two_times_a_rate_and_columns_that_differ_are_told(client, fork):
    text = "t;time;F\ns;ms;N\n0;0;1\n1;1000;2\n2;2000;3\n3;4\n4;4000;5\n"
    preview = looked(client, sent(client, fork, text))
    assert "time could be the time too" in preview["time_reason"] and preview["time_doubtful"]
    assert by_name(preview, "time")["role"] == "left out" and preview["problem"] == ""
    assert [(d["line"], d["column"]) for d in preview["doubts"]] == [(6, None)]
    plain = looked(
        client, sent(client, fork, "F [kN]\n1\n2\n3\n"), time={"column": None, "rate_hz": 50.0}
    )
    assert plain["rate_hz"] == 50 and plain["duration_s"] == pytest.approx(0.06)
    assert by_name(plain, "F")["unit"] == "kN"


def test_old_code_pages_blanks_and_figures_out_of_reach(client, fork):
    text = "t  u\ns  µm\n0  1.5\n1  2.5\n2  1e300\n3  4\n".encode("cp1252")
    preview = looked(client, sent(client, fork, text))
    assert (by_name(preview, "u")["unit"], preview["encoding"]) == ("µm", "latin-1")
    assert [d["why"] for d in preview["doubts"]] == ["the number is too large"]


def test_marks_odd_letters_and_stray_bytes_keep_nothing_from_being_told(client, fork):
    marked = "\ufefft\u200b;F\u0000\ns;N\n0;1\n1;2\n".encode()
    preview = looked(client, sent(client, fork, marked))
    assert [c["heading"] for c in preview["columns"]] == ["t", "F"] and preview["problem"] == ""
    many = ";".join("1" * 300)
    wide = client.post(f"{sent(client, fork, many)}/preview", {}, content_type=JSON)
    assert wide.status_code == 422 and "300 columns" in wide.json()["title"]
    late = b"t;F\ns;N\n" + b"".join(b"%d;%d\n" % (i, i) for i in range(20_000)) + b"9;\xff\xfe\n"
    broken = client.post(f"{sent(client, fork, late)}/preview", {}, content_type=JSON)
    assert broken.status_code in (200, 422), broken.content
    for junk in (bytes(range(256)) * 40, b'"' * 5000 + b"1,2\n", b"1\n" * 3, b"\x00" * 900):
        answer = client.post(f"{sent(client, fork, junk)}/preview", {}, content_type=JSON)
        assert answer.status_code in (200, 422), answer.content
        assert answer.status_code == 200 or answer.json()["title"]


def test_what_is_sent_back_unchanged_stays_a_guess(client, fork):
    address = sent(client, fork, EXAMPLE.read_bytes(), EXAMPLE.name)
    first = looked(client, address)
    again = looked(client, address, **first["choices"])
    assert [c["doubtful"] for c in again["columns"]] == [c["doubtful"] for c in first["columns"]]
    assert again["time_reason"] == first["time_reason"] and again["time_doubtful"]
    beyond = {"time": {"column": 40, "unit": "s"}}
    answer = client.post(f"{address}/preview", beyond, content_type=JSON)
    assert answer.status_code == 422 and "none at place 41" in answer.json()["title"]
    first["choices"]["time"]["unit"] = "s"
    assert looked(client, address, **first["choices"])["time_reason"] == "chosen"


def test_a_run_is_made_once_however_often_it_is_asked_for(client, fork):
    address = sent(client, fork, "t;F\ns;N\n0;1\n1;2\n", "a name that is " + 100 * "x" + ".txt")
    run = made(client, address, looked(client, address)["choices"])
    import_run(address.rpartition("/")[2])
    assert Run.objects.get() == run and len(run.name) == 80


def test_parts_come_once_in_order_and_only_from_their_owner(client, fork, as_role):
    data = b"t;F\ns;N\n0;1\n1;2\n"
    told = client.post(
        f"/api/setups/{fork.pk}/files", {"name": "a.txt", "size": len(data)}, content_type=JSON
    ).json()
    address = f"/api/files/{told['key']}"
    octets = {"content_type": "application/octet-stream"}
    assert client.post(f"{address}/preview", {}, content_type=JSON).status_code == 409
    assert client.put(f"{address}/parts/0", data[:5], **octets).json()["received"] == 5
    assert client.put(f"{address}/parts/0", data[:5], **octets).json()["received"] == 5
    late = client.put(f"{address}/parts/9", data[9:], **octets)
    assert late.status_code == 409 and code_of(late) == "out-of-order"
    assert client.put(f"{address}/parts/5", data[5:] + b"x", **octets).status_code == 409
    assert client.put(f"{address}/parts/5", data[5:], **octets).json()["state"] == "here"
    assert as_role("technician").get(address).status_code == 404
    assert as_role("reviewer").get(address).status_code == 403
    assert client.delete(address).status_code == 204
    assert not ImportedFile.objects.exists()


@pytest.mark.parametrize(("size", "words"), [(0, "is empty"), (3 << 30, "larger than 2 GB")])
def test_a_file_of_no_or_too_great_a_size_does_not_begin(client, fork, size, words):
    answer = client.post(
        f"/api/setups/{fork.pk}/files", {"name": "a.txt", "size": size}, content_type=JSON
    )
    assert answer.status_code == 422 and words in answer.json()["title"]


def test_a_failure_half_way_leaves_nothing(client, fork, monkeypatch):
    """The worker breaks after the first rows: no run, and the file can be tried again."""
    monkeypatch.setattr(rows, "BATCH_BYTES", 4096)
    text = "t;F\ns;N\n" + "".join(f"{i};{i}\n" for i in range(5000))
    address = sent(client, fork, text)
    preview = looked(client, address)
    assert client.post(f"{address}/run", preview["choices"], content_type=JSON).status_code == 202
    count = iter(range(100))

    def breaking(work):
        if next(count) == 2:
            raise RuntimeError("the power is gone")
        return store(work)

    store = making.write_samples
    monkeypatch.setattr(making, "write_samples", breaking)
    with pytest.raises(RuntimeError):
        import_run(address.rpartition("/")[2])
    assert not Run.objects.exists() and FilePart.objects.exists()
    monkeypatch.setattr(making, "write_samples", store)
    import_run(address.rpartition("/")[2])
    run = Run.objects.get()
    values = whole(run, document_of(run).channels[0].key)
    np.testing.assert_array_equal(values, np.arange(5000.0))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"pairs_with": "F axle"}, "same channel"),
        ({"pairs_with": "R1a"}, "measures something else"),
        ({"pairs_with": "nobody"}, "measures something else"),
        ({"name": "F"}, "Two columns are named F"),
        ({"unit": "mm"}, "no unit of its quantity"),
        ({"quantity": "x"}, "no unit of its quantity"),
    ],
)
def test_choices_that_cannot_be_are_told_at_once(client, fork, change, words):
    address = sent(client, fork, "t;F;G\ns;kN;kN\n0;1;1\n1;2;2\n")
    choices = looked(client, address)["choices"]
    keys = {c.name: c.key for c in document_channels(fork)}
    choices["columns"][1]["pairs_with"] = keys["F axle"]
    choices["columns"][2] |= change
    if "pairs_with" in change:
        choices["columns"][2]["pairs_with"] = keys.get(change["pairs_with"], "nobody")
    assert words in looked(client, address, **choices)["problem"]
    answer = client.post(f"{address}/run", choices, content_type=JSON)
    assert answer.status_code == 422 and words in answer.json()["title"]
