"""Every parser of what strangers send: mutated valid files end in a problem, and soon.

Readers that run apart are called here as they are, many times; through their process a few.
"""

import copy
import io
import json
import time
import zipfile
from contextlib import suppress

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from openpyxl import Workbook
from PIL import Image
from yoke_core.datasheet.sheet import SheetError, read_sheet
from yoke_rig.amplifier import Amplifier
from yoke_rig.state import State
from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.blocks import read_block
from yoke_server.bench.text_file.reading import read_bench_file
from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks import isolated_reader as apart
from yoke_server.common.tasks.isolated_reader import read_apart
from yoke_server.ledger.models import Entry
from yoke_server.sensors import small_picture, workbook
from yoke_server.sensors.tables import read_table
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup
from yoke_server.setups.revisions.services import make_setup

SOON = 5.0  # s, on any computer
MANY = settings(
    max_examples=150,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
MUTATIONS = st.lists(
    st.tuples(
        st.floats(0, 1),
        st.sampled_from(["change", "remove", "insert", "repeat", "cut"]),
        st.binary(min_size=1, max_size=6),
    ),
    min_size=1,
    max_size=6,
)


def mutated(content, mutations):
    """A file with bytes changed, lost, put in or repeated somewhere."""
    found = bytearray(content)
    for where, how, data in mutations:
        at = int(where * len(found))
        match how:
            case "change":
                found[at : at + len(data)] = data
            case "remove":
                del found[at : at + 7 * len(data)]
            case "insert":
                found[at:at] = data
            case "repeat":
                found[at:at] = found[max(0, at - 64) : at] * len(data)
            case "cut":
                del found[max(at, 1) :]
    return bytes(found)


def refused_or_read(read, content, *refusals):
    """Whatever it is, the reader says so in its own way, and soon."""
    begin = time.monotonic()
    with suppress(*refusals):
        read(content)
    assert time.monotonic() - begin < SOON


HEAD = ["kind", "name", "serial", "rated_output", "capacity"]
ROW = ["load cell", "Load cell 5 kN", "LC-9", "2", "5000"]


def xlsx(rows=(HEAD, ROW)):
    book = Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def repacked(change):
    """The workbook with its sheet's XML changed: it unpacks well and says nonsense."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(xlsx())) as old,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for name in old.namelist():
            data = old.read(name)
            new.writestr(name, change(data) if name.endswith("sheet1.xml") else data)
    return out.getvalue()


def picture(kind):
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(out, kind)
    return out.getvalue()


BENCH = b"""yoke_bench: 1
bench: Shed
devices:
  - label: A1
    driver: bridge amplifier
    address: 127.0.0.1
    port: 5025
"""


@MANY
@given(MUTATIONS)
def test_mutated_bench_files(mutations):
    refused_or_read(
        lambda c: read_bench_file(c.decode("utf-8", "replace")), mutated(BENCH, mutations), Problem
    )


@MANY
@given(MUTATIONS, st.sampled_from([",", ";", "\t"]))
def test_mutated_tables(mutations, separator):
    text = "\r\n".join(separator.join(row) for row in (HEAD, ROW))
    refused_or_read(lambda c: read_table(c or b"x"), mutated(text.encode(), mutations), Problem)


# Apart: whatever is raised there is one sentence here; no signal, no endless work.


@MANY
@given(MUTATIONS)
def test_mutated_workbooks(mutations):
    refused_or_read(workbook.rows_of, mutated(xlsx(), mutations), Exception)


@MANY
@given(MUTATIONS)
def test_workbooks_of_mutated_sheets(mutations):
    content = repacked(lambda data: mutated(data, mutations))
    refused_or_read(workbook.rows_of, content, Exception)


@MANY
@given(MUTATIONS, st.sampled_from(["JPEG", "PNG", "WEBP"]))
def test_mutated_pictures(mutations, kind):
    refused_or_read(small_picture.fitted, mutated(picture(kind), mutations), Exception)


BILLION = (
    b"""<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "ha">
"""
    + b"".join(b'<!ENTITY %c "%s">' % (98 + i, b"&%c;" % (97 + i) * 10) for i in range(9))
    + (
        b"]><worksheet><sheetData><row><c t='inlineStr'><is><t>&j;</t></is></c></row></sheetData>"
        b"</worksheet>"
    )
)


def million_columns(data):
    return data.replace(b'<dimension ref="A1:E2"', b'<dimension ref="A1:XFD1048576"')


def encrypted():
    content = bytearray(xlsx())
    at = content.rfind(b"PK\x01\x02")
    content[at + 8] |= 1  # the flag of a part in the directory
    return bytes(content)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (xlsx()[:500], "no workbook"),
        (encrypted(), "encrypted"),
        (repacked(lambda data: BILLION), "no workbook|takes too long|holds no table"),
        (repacked(lambda data: b"<worksheet>"), "no workbook|no table"),
        (repacked(lambda data: b"\0" * (65 << 20)), "unpacks to too much"),
    ],
    ids=["cut", "encrypted", "entities", "broken", "bomb"],
)
def test_workbooks_that_are_none_are_refused_in_a_sentence(content, words):
    with pytest.raises(Problem, match=words) as caught:
        read_table(content)
    assert (caught.value.status, caught.value.field) == (422, "file")


def test_a_sheet_that_says_it_has_a_million_columns_is_read_as_it_is():
    assert read_table(repacked(million_columns)) == [dict(zip(HEAD, ROW, strict=True))]


def test_who_takes_too_long_or_too_much_ends_alone(monkeypatch, tmp_path):
    monkeypatch.setattr(apart, "HERE", tmp_path)
    monkeypatch.setattr(apart, "SECONDS", 1.0)
    (tmp_path / "slow.py").write_text("while True: pass")
    (tmp_path / "huge.py").write_text("x = bytearray(4 << 30)")
    (tmp_path / "dies.py").write_text("import os; os.kill(os.getpid(), 11)")
    (tmp_path / "secret.py").write_text("import os; print(sorted(os.environ))")
    for reader in ("slow", "huge", "dies"):
        with pytest.raises(Problem) as caught:
            read_apart(reader, b"", what="table", hint="Send it in parts.")
        assert caught.value.status == 422
    told = read_apart("secret", b"", what="table", hint="").decode()
    assert "SECRET" not in told
    assert "DATABASE" not in told


def test_nothing_that_is_wrong_in_a_table_reaches_the_database(as_role):
    client = as_role("engineer")
    rows = [
        ["load cell", "NUL\0here", "LC-9", "2", "5000"],
        ["load cell", "x" * 500, "LC-9", "2", "5000"],
        ["load cell", "one", "LC-9" * 40, "2", "5000"],
        ["load cell", "one", "LC-9", "2e400", "5000"],
    ]
    for row in rows:
        text = "\r\n".join(",".join(r) for r in (HEAD, row)).encode()
        answer = client.post(
            "/api/library/import?dry=false", text, content_type="application/octet-stream"
        )
        assert answer.status_code == 422, answer.content
        assert "Line 2" in answer.json()["title"]
    twice = "\r\n".join(",".join(r) for r in (HEAD, ROW, ROW)).encode()
    answer = client.post(
        "/api/library/import?dry=false", twice, content_type="application/octet-stream"
    )
    assert answer.status_code == 422
    assert answer.json()["title"].startswith("Line 3, serial: LC-9 stands in the file twice")


# Setups


def put(document, path, value):
    """A deep copy with one leaf replaced."""
    changed = copy.deepcopy(document)
    at = changed
    for part in path[:-1]:
        at = at[part]
    at[path[-1]] = value
    return changed


@pytest.fixture
def document(setup):
    return json.loads(freeze(setup).model_dump_json())


BAD = [
    (("stops",), [{"kind": "motion_end"}] * 13, "more than 12"),
    (("channels", 0, "unit"), "furlong", "furlong is no unit of force"),
    (("channels", 0, "unit"), "mm", "mm is no unit of force"),
    (("channels", 0, "quantity"), "luck", "no quantity luck"),
    (("channels", 0, "decimals"), 99, "at most 6"),
    (("channels", 0, "decimals"), -1, "at least 0"),
    (("channels", 0, "name"), "x" * 99, "more than 30"),
    (("channels", 0, "name"), "nul\0", "cannot be printed"),
    (("channels", 0, "input_number"), 10**30, "at most 512"),
    (("channels", 1, "name"), "F", "Two channels have the name F"),
    (("channels", 1, "input_number"), 1, "Two channels have the input A1.1"),
    (("channels", 0, "scaling"), {"kind": "platinum", "nominal_ohm": 100.0}, "cannot be scaled"),
    (("channels", 0, "scaling", "capacity"), float("inf"), "apacity"),
    (("channels", 0, "scaling", "capacity"), 1e300, "apacity"),
    (("rates_hz", "A1"), 1e9, "samples at"),
    (("run_name_pattern",), "{operator}", "knows no"),
    (("run_name_pattern",), "x" * 99, "more than 60"),
    (("specimen", "specimen"), "y" * 99, "more than 30"),
    (("schema_version",), 99, "no setup of a version"),
    (("channels",), "none", "channels"),
    (("motion",), None, "otion"),
]


@pytest.mark.django_db
@pytest.mark.parametrize(("path", "value", "words"), BAD)
def test_a_setup_from_a_file_passes_the_doors_of_one_that_is_made_here(
    engineer, setup, document, path, value, words
):
    before = Setup.objects.count()
    with pytest.raises(Problem, match=words) as caught:
        make_setup(
            engineer,
            setup.project_id,
            bench_id=setup.bench_id,
            name="copy",
            document=put(document, path, value),
        )
    assert caught.value.status == 422
    assert Setup.objects.count() == before


LEAVES = st.one_of(
    st.none(),
    st.integers(-(10**40), 10**40),
    st.floats(),
    st.text(max_size=40),
    st.just([]),
    st.just({}),
    st.just({"kind": "none"}),
)


def paths(node, at=()):
    """Of everything within plain data."""
    children = node.items() if isinstance(node, dict) else enumerate(node)
    for key, value in children:
        yield (*at, key)
        if isinstance(value, dict | list):
            yield from paths(value, (*at, key))


@pytest.mark.django_db
@MANY
@given(st.data())
def test_mutated_setups_are_refused_or_can_be_opened(engineer, as_role, setup, document, data):
    path = data.draw(st.sampled_from(list(paths(document))))
    changed = put(document, path, data.draw(LEAVES))
    name = f"copy {Setup.objects.count()}"
    try:
        made = make_setup(
            engineer, setup.project_id, bench_id=setup.bench_id, name=name, document=changed
        )
    except Problem as refused:
        made, status = None, refused.status
    if made is None:
        assert status in (409, 422)
        return
    client = as_role("engineer")
    assert client.get(f"/api/setups/{made.pk}").status_code == 200, path
    assert client.delete(f"/api/setups/{made.pk}").status_code == 204


@pytest.mark.django_db
def test_a_setup_is_deleted_with_what_it_was_but_the_ledger_keeps_its_word(as_role, setup):
    client = as_role("engineer")
    copied = client.post(f"/api/setups/{setup.pk}/duplicate").json()
    made = next(s for s in copied["setups"] if s["id"] != setup.pk)
    assert client.delete(f"/api/setups/{made['id']}").status_code == 204
    assert client.get(f"/api/setups/{made['id']}").status_code == 404
    said = list(Entry.objects.values_list("action", flat=True))
    assert any(action.startswith("Duplicated") for action in said)
    assert said[-1].startswith("Deleted the setup")


# Devices


@MANY
@given(MUTATIONS)
def test_mutated_data_sheets(mutations):
    memory = Amplifier().sheets[0]
    refused_or_read(read_sheet, mutated(memory, mutations), SheetError)


@MANY
@given(MUTATIONS)
def test_mutated_blocks_of_a_device(mutations):
    import numpy as np

    amplifier = Amplifier()
    zeros = np.zeros(50)
    block = amplifier.next_block(State(zeros, zeros, zeros, {"gauge": zeros, "extension": zeros}))
    stream = io.BytesIO(mutated(block.encode(), mutations))

    def fill(view):
        data = stream.read(len(view))
        if len(data) < len(view):
            raise DriverError("the link ended")
        view[:] = data

    refused_or_read(lambda c: read_block(fill), b"", DriverError)
