"""Tables in text files: how they are written, and whether their times lie evenly."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.errors import TableError
from yoke_core.table.shape import Shape, fields_of, guess_shape, is_number, shape_by
from yoke_core.table.time_base import TimeBase


@pytest.mark.parametrize(
    ("text", "shape"),
    [
        ("# a\nt;F\n-;N\n0;1,5\n1;2,5", Shape(";", ",", 2, 3, 4, 2)),
        ("t,F\n0.0,1.5\n0.1,2.5", Shape(",", ".", 1, None, 2, 2)),
        ("0\t1\n1\t2", Shape("\t", ".", None, None, 1, 2)),
        ("time  force\n0.0   1.5\n0.1   2.5", Shape(" ", ".", 1, None, 2, 2)),
        ("# t;F\n0;1,5\n1;2,5", Shape(";", ",", 1, None, 2, 2)),
        ('"t","F, axle"\n0.5,1.5\n1.5,2.5', Shape(",", ".", None, None, 2, 2)),
        ("a;b;c\n1;;x\n2;3;x\n4;5;y", Shape(";", ".", 1, None, 2, 3)),
        ("t F\n0,0 1,5\n0,1 2,5", Shape(" ", ",", 1, None, 2, 2)),
        ("t|F\n0,0|1,5\n0,1|2,5", Shape("|", ",", 1, None, 2, 2)),
        ("0,0 1,5\n0,1 2,5", Shape(" ", ",", None, None, 1, 2)),
        ("Rate;100\nSpecimen;3\nt;F\n0;1\n1;2\n2;4", Shape(";", ".", 3, None, 4, 2)),
        ("F\n1,25\n1,50\n1,75", Shape(";", ",", 1, None, 2, 1)),
    ],
)
def test_a_shape_is_what_makes_most_numbers(text, shape):
    assert guess_shape(text.splitlines()) == shape


def test_a_separator_that_nobody_can_tell_is_doubted():
    """One column of decimal commas, or two of whole numbers?"""
    shape = guess_shape(["1,25", "1,50", "1,75"])
    assert "would make" in shape.doubt
    assert guess_shape(["t,F", "0.0,1.5", "0.1,2.5"]).doubt == ""


@given(
    st.lists(st.lists(st.floats(-1e6, 1e6), min_size=3, max_size=3), min_size=2, max_size=20),
    st.sampled_from([(";", ","), (";", "."), ("\t", ","), (",", "."), ("|", ".")]),
)
def test_what_is_written_is_read(table, signs):
    separator, decimal = signs
    rows = [separator.join(f"{v:.3f}" for v in row).replace(".", decimal) for row in table]
    shape = guess_shape([separator.join(["time", "left", "right"]), *rows])
    assert (shape.separator, shape.decimal, shape.first_line) == (separator, decimal, 2)
    read = [[float(f.replace(decimal, ".")) for f in fields_of(r, separator)] for r in rows]
    np.testing.assert_allclose(read, table, atol=6e-4)


@pytest.mark.parametrize("text", ["", "words only\nand more", "# 1;2\n# 3;4"])
def test_no_numbers_is_a_sentence(text):
    with pytest.raises(TableError, match="row of numbers"):
        guess_shape(text.splitlines())


def test_a_chosen_way_of_writing_is_tried_and_told():
    with pytest.raises(TableError, match="cannot be the same"):
        shape_by(["1,5"], ",", ",")
    with pytest.raises(TableError, match="no line"):
        shape_by(["a;b"], ";", ".")


@pytest.mark.parametrize(
    ("field", "yes"),
    [("1", 1), ("-1.5e-3", 1), (".5", 1), ("5.", 1), ("1,5", 0), ("nan", 0), ("", 0), ("1 0", 0)],
)
def test_numbers_are_plain_ones(field, yes):
    assert is_number(field, ".") == bool(yes)


def based(times, pieces=1):
    base, times = TimeBase(), np.asarray(times, dtype=float)
    for part in np.array_split(np.arange(times.size), pieces):
        base.push(times[part], part.astype(np.int64) + 8)
    return base


@settings(deadline=None)  # the first one compiles
@given(st.lists(st.integers(4, 30), min_size=1, max_size=6), st.integers(1, 9))
def test_segments_are_the_same_however_the_rows_come(lengths, pieces):
    times, at = [], 0.0
    for length in lengths:
        times += [at + 0.01 * i for i in range(length)]
        at = times[-1] + 0.05
    base = based(times, pieces)
    assert base.rows == len(times)
    assert [s.rows for s in base.found_segments] == lengths
    assert [s.first for s in base.found_segments] == [sum(lengths[:i]) for i in range(len(lengths))]
    assert base.found_segments[0].step == pytest.approx(0.01)


@pytest.mark.parametrize(
    ("times", "words", "line"),
    [
        ([0, 1, 2, 1.5, 3], "runs back", 11),
        ([0, 1, 1, 2], "stands still", 10),
    ],
)
def test_times_that_cannot_be_name_their_line(times, words, line):
    with pytest.raises(TableError, match=words) as caught:
        based(times)
    assert caught.value.line == line


def places(base):
    """Where each row lies by the pieces, of which none reaches into the next one."""
    pieces = list(base.segments())
    assert [s.first for s in pieces] == [0, *np.cumsum([s.rows for s in pieces])[:-1]]
    for s, after in pairwise(pieces):
        assert s.start + s.rows * s.step <= after.start * (1 + 1e-12)
    return np.concatenate([s.start + np.arange(s.rows) * s.step for s in pieces])


@settings(deadline=None)
@given(
    st.lists(st.floats(0.5, 1.6), min_size=3, max_size=400),
    st.integers(1, 9),
    st.sampled_from([1e-4, 0.01, 3.0]),
)
def test_uneven_times_stay_where_they_are(steps, pieces, unit):
    times = np.cumsum(steps) * unit * 1.00031415  # not what looks rounded to a power of ten
    base = based(times, pieces)
    assert base.rows == len(times)
    usual = np.median(np.diff(np.array_split(times, pieces)[0])) if pieces == 1 else None
    off = 0.11 * (usual or np.diff(times).max())
    assert np.abs(places(base) - times).max() <= max(off, 1e-9)


def test_a_step_that_drifts_is_followed():
    """By 40 % over the file: laid out evenly, rows would lie 150 steps off."""
    step = np.linspace(0.01, 0.014, 4000)
    times = np.cumsum(step)
    base = based(times)
    assert np.abs(places(base) - times).max() < 0.11 * 0.012
    assert len(base.found_segments) < 200
    assert not any(s.is_gap for s in base.found_segments)
    assert np.abs(times[0] + np.arange(4000) * 0.012 - times).max() > 100 * 0.012


def test_more_steps_than_can_be_kept_are_refused():
    times = np.cumsum(np.random.default_rng(1).uniform(0.5, 1.5, 60_000))
    with pytest.raises(TableError, match="more than 10000 times"):
        based(times)


@pytest.mark.parametrize("decimals", [2, 3, 4])
def test_times_written_to_some_decimals_are_even(decimals):
    base = based(np.round(100 + np.arange(5000) / 60, decimals))
    assert len(base.found_segments) == 1
    assert base.found_segments[0].step == pytest.approx(1 / 60, rel=1e-4)


def test_rounded_times_are_even():
    base = based(np.round(np.arange(3000) / 3000, 4))
    assert len(base.found_segments) == 1
    assert base.found_segments[0].step == pytest.approx(1 / 3000, rel=1e-3)
