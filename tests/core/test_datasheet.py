"""Electronic data sheets: bits by hand, a memory there and back, and what is no sheet."""

from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.datasheet.bits import BitReader, BitWriter
from yoke_core.datasheet.sheet import PAGE, DataSheet, SheetError, read_sheet, write_sheet
from yoke_core.datasheet.templates import BASIC, BRIDGE_SENSOR, STRAIN_GAUGE, TEMPLATES

CELL = DataSheet(
    17, 4025, "B", 3, 2207, BRIDGE_SENSOR,
    {
        "measurand": "N", "lowest": 0.0, "highest": 25e3, "output_at_lowest": 0.0,
        "output_at_highest": 2e-3, "bridge": "full", "resistance_ohm": 350.0, "response_s": None,
        "excitation_v": 5.0, "least_excitation_v": 1.0, "most_excitation_v": 10.0,
        "calibrated_on": date(2026, 3, 14), "calibrated_by": "LAB", "calibration_days": 365.0,
        "place": None,
    },
    "LC-2207",
)  # fmt: skip
GAUGE = DataSheet(
    17, 2, "", 0, 817, STRAIN_GAUGE,
    {
        "lowest": -0.05, "highest": 0.05, "bridge": "quarter", "resistance_ohm": 350.0,
        "gauge_factor": 2.08, "transverse_sensitivity": 0.004, "grid_area_mm2": 16.8,
        "excitation_v": 2.5, "least_excitation_v": None, "most_excitation_v": None,
        "calibrated_on": None, "calibrated_by": None, "calibration_days": None, "place": None,
    },
    "lot 0817-1",
)  # fmt: skip


def close(one, other):
    return one == pytest.approx(other, rel=1e-6) if isinstance(other, float) else one == other


@pytest.mark.parametrize("sheet", [CELL, GAUGE])
def test_what_is_written_is_read_back(sheet):
    memory = write_sheet(sheet)
    found = read_sheet(memory)
    assert replace(found, values={}) == replace(sheet, values={})
    for name, value in sheet.values.items():
        assert close(found.values[name], value), name


def test_the_basic_part_lies_where_the_standard_puts_it():
    """64 bits, lowest first: manufacturer 14, model 15, letter 5, version 6, serial 24."""
    assert sum(f.bits for f in BASIC) == 64
    basic = int.from_bytes(write_sheet(CELL)[1:9], "little")
    assert basic & 0x3FFF == 17
    assert basic >> 14 & 0x7FFF == 4025
    assert basic >> 29 & 0x1F == 2  # B
    assert basic >> 34 & 0x3F == 3
    assert basic >> 40 == 2207


def test_every_page_adds_up_to_nothing():
    memory = write_sheet(CELL)
    assert all(sum(memory[i : i + PAGE]) % 256 == 0 for i in range(0, len(memory), PAGE))


@given(st.integers(0, 127), st.integers(1, 255))
def test_any_changed_byte_is_noticed(place, by):
    memory = bytearray(write_sheet(CELL))
    memory[place] = (memory[place] + by) % 256
    with pytest.raises(SheetError, match=f"Page {place // PAGE + 1} .* wrong checksum"):
        read_sheet(bytes(memory))


def test_a_blank_memory_holds_nothing_and_a_strange_template_is_named():
    assert read_sheet(b"\xff" * 128) is None
    assert read_sheet(bytes(128)) is None
    assert read_sheet(b"") is None
    writer = BitWriter()
    for field in BASIC:
        writer.put(1, field.bits)
    writer.put(0, 2)
    writer.put(25, 8)
    page = writer.to_bytes().ljust(PAGE - 1, b"\0")
    with pytest.raises(SheetError, match="follows template 25"):
        read_sheet(bytes([-sum(page) % 256]) + page)
    with pytest.raises(SheetError, match="ends too early"):
        read_sheet(write_sheet(CELL)[:PAGE])
    with pytest.raises(SheetError, match="whole pages"):
        read_sheet(write_sheet(CELL)[:40])


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"resistance_ohm": 0.5}, "resistance ohm 0.5"),
        ({"resistance_ohm": 1e6}, "resistance ohm"),
        ({"excitation_v": 100.0}, "excitation v"),
        ({"calibrated_on": date(1990, 1, 1)}, "calibrated on"),
        ({"measurand": "furlong"}, "measurand furlong"),
        ({"highest": "much"}, "highest much"),
        ({"highest": float("nan")}, "highest nan"),
        ({"highest": float("inf")}, "highest inf"),
        ({"resistance_ohm": 1.0 + 0.1 * (2**18 - 1)}, "resistance ohm"),
        ({"place": 2047.0}, "place 2047"),
        ({"calibration_days": 4095.0}, "calibration days"),
        ({"calibration_days": 365.4}, "calibration days 365.4"),
        ({"calibrated_by": "L-B"}, "calibrated by L-B"),
        ({"calibrated_by": "LABO"}, "calibrated by LABO"),
        ({"calibrated_on": "2026-03-14"}, "calibrated on"),
        ({"bridge": "number 3"}, "bridge"),
    ],
)
def test_what_does_not_fit_is_named(values, words):
    with pytest.raises(SheetError, match=words):
        write_sheet(replace(CELL, values={**CELL.values, **values}))


@pytest.mark.parametrize(
    "basic", [{"serial": 2**24 - 1}, {"manufacturer": 2**14 - 1}, {"version_letter": "@"}]
)
def test_a_basic_code_that_means_nothing_is_refused(basic):
    with pytest.raises(SheetError, match=next(iter(basic)).replace("_", " ")):
        write_sheet(replace(CELL, **basic))


@pytest.mark.parametrize("text", ["Zelle-µ", "x" * 41, "line\nbreak"])
def test_a_text_that_a_sheet_cannot_hold_is_refused(text):
    with pytest.raises(SheetError, match="cannot be written"):
        write_sheet(replace(CELL, text=text))


@given(st.sampled_from([CELL, GAUGE]), st.data())
def test_what_is_taken_comes_back_as_it_was_or_is_refused(sheet, data):
    """Any value of any field, but for the steps that a field has."""
    field = data.draw(st.sampled_from(TEMPLATES[sheet.template]))
    drawn = st.one_of(
        st.none(),
        st.floats(0, 1e6),
        st.integers(0, 5000).map(float),
        st.text("ABZ,./_@ -", max_size=4),
        st.dates(date(1990, 1, 1), date(2190, 1, 1)),
    )
    value = data.draw(drawn)
    if field.name == "precision":
        return
    changed = replace(sheet, values={**sheet.values, field.name: value})
    try:
        found = read_sheet(write_sheet(changed)).values[field.name]
    except SheetError:
        return
    if isinstance(value, str):
        assert found == value.strip()
    elif isinstance(value, float):
        assert found == pytest.approx(value, rel=0.2, abs=0.06)
    else:
        assert found == value


def test_what_is_not_told_reads_as_not_told():
    bare = DataSheet(None, None, None, None, None, STRAIN_GAUGE, {})
    found = read_sheet(write_sheet(bare))
    assert replace(found, values={}) == replace(bare, values={})
    assert set(found.values.values()) == {None}


@given(
    st.lists(st.integers(1, 40).flatmap(lambda b: st.tuples(st.integers(0, 2**b - 1), st.just(b))))
)
def test_bits_come_back_as_they_were_put(fields):
    writer = BitWriter()
    for value, bits in fields:
        writer.put(value, bits)
    reader = BitReader(writer.to_bytes())
    assert [reader.take(bits) for _, bits in fields] == [value for value, _ in fields]


def test_every_template_fits_into_the_usual_memory():
    for fields in TEMPLATES.values():
        assert 64 + 10 + sum(f.bits for f in fields) + 3 + 41 * 7 <= 8 * 124
