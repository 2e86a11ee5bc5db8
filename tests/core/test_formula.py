"""The language of formulas: dimensions of parts, errors with their place, proposals that mend."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.formula.checking import check
from yoke_core.formula.completion import suggestions
from yoke_core.formula.definitions import Definition, check_together
from yoke_core.formula.dimension import FREQUENCY, NONE, STRESS, TIME, Dimension
from yoke_core.formula.errors import FormulaError
from yoke_core.formula.functions import FUNCTIONS
from yoke_core.formula.names import Channel, NamedRosette, Names, Unit
from yoke_core.formula.texts import with_keys, with_names
from yoke_core.rosette.state import Rosette
from yoke_core.signals.graph import SignalGraph, compute

FORCE, LENGTH, KELVIN = Dimension.of(m=1, kg=1, s=-2), Dimension.of(m=1), Dimension.of(K=1)
UNITS = {
    u.name: u
    for u in (
        Unit("kN", 1e3, FORCE),
        Unit("N", 1.0, FORCE),
        Unit("mm", 1e-3, LENGTH),
        Unit("µm/m", 1e-6, NONE),
        Unit("%", 1e-2, NONE),
        Unit("MPa", 1e6, STRESS),
        Unit("GPa", 1e9, STRESS),
        Unit("s", 1.0, TIME),
        Unit("ms", 1e-3, TIME),
        Unit("Hz", 1.0, FREQUENCY),
        Unit("rpm", 0.10472, FREQUENCY),
        Unit("°C", 1.0, KELVIN, 273.15),
        Unit("K", 1.0, KELVIN),
        Unit("N m", 1.0, FORCE * LENGTH),
    )
}
CHANNELS = [
    Channel("f", "F axle", UNITS["kN"]),
    Channel("u", "u axle", UNITS["mm"]),
    Channel("b", "B1", UNITS["µm/m"]),
    Channel("t", "T crown", UNITS["°C"]),
    *(Channel(g, f"R1{g}", UNITS["µm/m"]) for g in "xyz"),
]
ROSETTES = [NamedRosette("r", "R1", Rosette(), ("x", "y", "z"))]
NAMES = Names(list(UNITS.values()), CHANNELS, ROSETTES)
READINGS = {"f": 2000.0, "u": 5e-3, "b": 800e-6, "t": 293.15, "x": 8e-4, "y": 3e-4, "z": -2e-4}


def value(text, rate=100.0):
    """Of a formula after five seconds in which nothing changes."""
    node = check(text, NAMES).result.node
    readings = {key: np.full(round(5 * rate), v) for key, v in READINGS.items()}
    return compute(SignalGraph({"out": node}), readings, rate)["out"][-1]


@pytest.mark.parametrize(
    ("text", "result", "unit"),
    [
        ("F axle + 3 kN", 5000.0, "kN"),
        ("F axle + 3 N", 2003.0, "kN"),
        ("F axle − u axle * 2 kN/mm", -8000.0, "kN"),
        ("-F axle ^ 2 / 1 kN", -4000.0, "kN"),
        ("2 * F axle / u axle", 8e5, "kN/mm"),
        ("F axle * u axle", 10.0, "N m"),
        ("(B1 - mean(B1, last 2 s)) * 205 GPa", 0.0, "MPa"),
        ("B1 * 205 GPa", 164e6, "MPa"),
        ("sqrt(F axle * F axle)", 2000.0, "kN"),
        ("F axle ^ 0.5 * F axle ^ 0.5", 2000.0, "kN"),
        ("rate(u axle, over 1 s)", 0.0, "mm/s"),
        ("integral(F axle)", 9980.0, "kN·s"),
        ("max(F axle, 3 kN, 1 kN)", 3000.0, "kN"),
        ("if(F axle above 1 kN and not B1 below 0 µm/m, u axle, 0 mm)", 5e-3, "mm"),
        ("u axle while F axle above 3 kN", math.nan, "mm"),
        ("T crown - 20 °C", 0.0, "K"),
        ("T crown + 5 K", 298.15, "°C"),
        ("mean(T crown, last 100 ms)", 293.15, "°C"),
        ("2 * T crown", 586.3, "K"),
        ("-T crown", -293.15, "K"),
        ("F axle / u axle / (1 s)", 4e5, "kN/mm/s"),
        ("rate(B1, over 1 s)", 0.0, "µm/m/s"),
        ("u axle / (u axle / (1 s))", 1.0, "s"),
        ("sin(B1 * 1000)", math.sin(0.8), ""),
        ("B1 + 0.1 %", 1800e-6, "µm/m"),
        ("table(u axle, 0 mm, 0 kN, 10 mm, 4 kN)", 2000.0, "kN"),
        ("lowpass(F axle, to 20 Hz, order 2, bessel)", 2000.0, "kN"),
        ("mains(B1, at 16 Hz)", 800e-6, "µm/m"),
        ("strain1(R1)", 8e-4, "µm/m"),
        ("mises(R1, modulus 205 GPa, poisson 0.3)", 1.624e8, "MPa"),
        ('"F axle" + {f}', 4000.0, "kN"),
    ],
)
def test_what_a_formula_gives_and_in_what(text, result, unit):
    assert check(text, NAMES).result.unit == unit
    assert value(text) == pytest.approx(result, rel=1e-3, abs=1e-9, nan_ok=True)


@pytest.mark.parametrize(
    ("text", "at", "words", "mended"),
    [
        ("F axle + 3", "3", "3 has no unit, F axle is in kN", "F axle + 3 kN"),
        ("F axle above 2 kN", "F axle above 2 kN", "true or false", "if(F axle above 2 kN, 1, 0)"),
        ("u axle while F axle above 2.3", "2.3", "has no unit", "u axle while F axle above 2.3 kN"),
        ("max(F axle, 3)", "3", "3 has no unit", "max(F axle, 3 kN)"),
        ("mean(B1, last 2)", "2", "2 has no unit", "mean(B1, last 2 s)"),
        ("mean(B1, last)", "last", "value is missing", "mean(B1, last 2 s)"),
        ("men(B1, last 2 s)", "men", "no function men", "mean(B1, last 2 s)"),
        ("(F axle", "", "not closed", "(F axle)"),
        ("2 * R1", "R1", "is a rosette of three channels", "2 * strain1(R1)"),
    ],
)
def test_a_proposal_mends_what_is_wrong(text, at, words, mended):
    with pytest.raises(FormulaError, match=words) as caught:
        check(text, NAMES)
    first, last = caught.value.place
    assert at is None or text[first:last] == at
    if mended:
        assert f"{text[:first]}{caught.value.proposal}{text[last:]}" == mended
        check(mended, NAMES)


@pytest.mark.parametrize(
    ("text", "at", "words"),
    [
        ("", "", "empty"),
        ("   ", "   ", "empty"),
        ("3 kN", "3 kN", "names no channel"),
        ("F axle u axle", "u axle", "cannot stand here"),
        ("F axle +", "", "ends too early"),
        ("F axle)", ")", "cannot stand here"),
        ("F axle + u axle", "u axle", "do not go together"),
        ("F axle § 2", "§", "has no meaning"),
        ("speed * 2", "speed", "no channel, unit or function"),
        ("{gone} * 2", "{gone}", "was removed"),
        ('"gone" * 2', '"gone"', "no channel gone"),
        ("F axle ^ u axle", "u axle", "power is a number"),
        ("F axle and B1", "F axle", "a value, not true or false"),
        ("(B1 above 0 %) + 1", "B1 above 0 %", "true or false, not a value"),
        ("T crown + T crown", "T crown + T crown", "Two temperatures"),
        ("sin(F axle)", "F axle", "takes a number without unit"),
        ("mean(B1)", "mean(B1)", "“last” is missing"),
        ("mean(B1, last 2 kN)", "2 kN", "written as 2 s"),
        ("mean(B1, last -2 s)", "last -2 s", "above zero"),
        ("mean(B1, last 2 s, last 3 s)", "last 3 s", "given already"),
        ("mean(B1, over 2 s)", "over 2 s", "knows no “over”"),
        ("mean(B1, F axle, last 2 s)", "mean(B1, F axle, last 2 s)", "takes 1 signal, not 2"),
        ("lowpass(B1, to 20 Hz, order 9)", None, "order 9"),
        ("lowpass(B1, to 20 rpm)", "20 rpm", "written as 20 Hz"),
        ("lowpass(B1, to 20 Hz, order 2.5)", None, "order 0"),
        ("lowpass(B1, to 20 Hz, bessel 3)", "3", "stands alone"),
        ("bandpass(B1, from 20 Hz, to 1 Hz)", None, "lower one first"),
        ("table(u axle, 5 mm, 0 kN, 5 mm, 2 kN)", None, "further along"),
        ("table(u axle, 0 mm, F axle, 5 mm, 2 kN)", None, "pairs of numbers"),
        ("strain1(B1)", "strain1(B1)", "one rosette by its name"),
        ("if(F axle, B1, B1)", "F axle", "a value, not true or false"),
        ("F axle * 1e999", "1e999", "too large"),
        ("B1" + "+B1" * 300, None, "more than 400 parts"),
        ("(" * 60 + "F axle" + ")" * 60, None, "More than 50 parentheses"),
        ("F axle" + " " * 10_000, None, "10006 characters"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(text, at, words):
    with pytest.raises(FormulaError, match=words) as caught:
        check(text, NAMES)
    first, last = caught.value.place
    assert at is None or text[first:last] == at
    assert str(caught.value).endswith(".")


@given(st.text(alphabet='F axlemn(){}",+-*/^<>0123456789. skN\n§°µ', max_size=60))
def test_whatever_is_typed_is_a_formula_or_an_error_with_a_place(text):
    try:
        found = check(text, NAMES)
    except FormulaError as error:
        first, last = error.place
        assert 0 <= first <= last <= len(text)
    else:
        assert found.result.place[1] <= len(text)


def test_each_part_has_its_unit():
    parts = check("creep(F axle)".replace("creep", "abs") + " / u axle", NAMES).parts
    assert [(p.text, p.unit) for p in parts] == [
        ("F axle", "kN"),
        ("abs(F axle)", "kN"),
        ("u axle", "mm"),
    ]


@pytest.mark.parametrize("function", [f for f in FUNCTIONS.values()], ids=lambda f: f.name)
def test_each_function_is_written_as_it_says(function):
    text = function.usage.replace(", ...", "").replace("signal", "u axle").replace("rosette", "R1")
    text = text.replace("number", "B1").replace("(y, x)", "(u axle, u axle)")
    text = text.replace(", x, y, x, y", ", 0 mm, 0 kN, 9 mm, 2 kN")
    assert not math.isnan(value(text, rate=1000.0))


def test_a_channel_with_another_name_keeps_its_place():
    stored = with_keys('F axle + mean("F axle", last 2 s) * strain1(R1)', NAMES)
    assert stored == "{f} + mean({f}, last 2 s) * strain1({r})"
    others = Names(NAMES.units, [Channel("f", "last load", UNITS["kN"]), *CHANNELS[1:]], ROSETTES)
    shown = with_names(stored, others)
    assert shown == '"last load" + mean("last load", last 2 s) * strain1(R1)'
    assert with_keys(shown, others) == stored
    assert with_names("{gone} + 1", NAMES) == "{gone} + 1"


def test_the_longest_name_is_taken_and_a_shorter_one_stands_in_quotes():
    both = [Channel("a", "F", UNITS["kN"]), Channel("b", "F axle", UNITS["mm"])]
    names = Names(NAMES.units, both)
    assert check("F axle", names).result.unit == "mm"
    assert with_names("{a} + {b}", names) == '"F" + F axle'
    assert check('"F" + 2 kN', names).result.unit == "kN"


def test_computed_channels_may_name_each_other_in_any_order():
    definitions = [
        Definition("c2", "twice", "2 * bending"),
        Definition("c1", "bending", "(B1 - mean(B1, last 1 s)) * 205 GPa"),
    ]
    found = check_together(definitions, NAMES)
    assert (found["c2"].result.unit, found["c1"].result.unit) == ("MPa", "MPa")
    assert SignalGraph({"out": found["c2"].result.node}).keys == {"b"}


@pytest.mark.parametrize(
    "texts", [("a + F axle",), ("b", "a"), ("b", "c + F axle", "a")], ids=["itself", "two", "three"]
)
def test_a_circle_is_named(texts):
    definitions = [Definition(k, k, t) for k, t in zip("abc", texts, strict=False)]
    with pytest.raises(FormulaError, match=r"is computed from \w itself"):
        check_together(definitions, NAMES)


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("F a", "F axle"),
        ("2 * f a", "F axle"),
        ("F axle + 2 k", "kN"),
        ("F axle + 2 ", "kN"),
        ("low", "lowpass(signal, to 20 Hz, order 4)"),
        ("mean(B1, la", "last 2 s"),
        ("stra", "strain1(rosette)"),
        ("2 * (", "F axle"),
    ],
)
def test_what_may_follow_is_suggested(typed, first):
    found = suggestions(typed, NAMES)
    assert first in [s.text for s in found]
    suggested = next(s for s in found if s.text == first)
    assert suggested.text.lower().startswith(typed[suggested.begins :].lower().strip())
