"""Nodes of the signal graph: closed forms, and the same samples for any division into blocks."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.lib.stride_tricks import sliding_window_view
from yoke_core.errors import SignalError
from yoke_core.rosette.state import Isotropic, Rosette, rosette_state
from yoke_core.signals.filter_design import Band, Family, FilterDesign, MainsDesign
from yoke_core.signals.graph import MAX_DEPTH, Measured, SignalGraph, compute
from yoke_core.signals.nodes.change import Delay, Integral, PeakHold, Rate
from yoke_core.signals.nodes.filters import Filter
from yoke_core.signals.nodes.pointwise import Constant, Pointwise
from yoke_core.signals.nodes.rosette import RosetteQuantity
from yoke_core.signals.nodes.table import LookupTable
from yoke_core.signals.nodes.windows import MAX_SAMPLES, STATISTICS, Window

RATE = 100.0
X, Y, Z = Measured("x"), Measured("y"), Measured("z")
STEEL = Isotropic(205e9, 0.29)


def of(node, *signals, rate=RATE, starts=(0,)):
    """A node of up to three measured signals."""
    readings = dict(zip("xyz", map(np.asarray, signals), strict=False))
    return compute(SignalGraph({"out": node}), readings, rate, starts)["out"]


def brute(statistic, x, width):
    """Windows one by one."""
    figures = {
        "mean": np.mean,
        "rms": lambda w, axis: np.sqrt(np.mean(w**2, axis=axis)),
        "deviation": lambda w, axis: np.std(w, axis=axis, ddof=1),
        "lowest": np.min,
        "highest": np.max,
    }
    return figures[statistic](sliding_window_view(x, width), axis=1)


@pytest.mark.parametrize("statistic", STATISTICS)
@pytest.mark.parametrize("width", [2, 3, 7, 50, 99])
def test_a_window_is_what_it_is_one_by_one(statistic, width):
    x = 1e6 + np.random.default_rng(width).normal(size=500)
    found = of(Window(statistic, width / RATE, (X,)), x)
    assert np.isnan(found[: width - 1]).all()
    assert found[width - 1 :] == pytest.approx(brute(statistic, x, width), rel=1e-9, abs=1e-9)


def test_a_windows_figures_do_not_drift():
    """A large value that has left the window leaves nothing behind."""
    x = np.ones(10_000)
    x[100] = 1e12
    found = of(Window("mean", 0.5, (X,)), x)
    assert (found[200:] == 1.0).all()


def test_what_is_not_known_empties_a_window_and_a_clipped_sample_is_the_highest():
    x = np.arange(20.0)
    x[8] = math.nan
    assert np.isnan(of(Window("mean", 0.03, (X,)), x)[8:11]).all()
    assert of(Window("mean", 0.03, (X,)), x)[11] == 10.0
    x[8] = math.inf
    assert (of(Window("highest", 0.03, (X,)), x)[8:11] == math.inf).all()
    assert np.isnan(of(Window("rms", 0.03, (X,)), x)[8:11]).all()


@pytest.mark.parametrize("seconds", [0.0, 0.001, (MAX_SAMPLES + 1) / RATE])
def test_a_window_has_a_size_that_fits_its_rate(seconds):
    with pytest.raises(SignalError, match="samples at 100 Hz"):
        Window("mean", seconds, (X,)).start(RATE)


def test_the_integral_of_a_rate_is_the_signal():
    t = np.arange(1000) / RATE
    x = np.sin(t)
    found = of(Integral((Rate(1 / RATE, (X,)),)), x)
    assert np.isnan(found).all()  # the first rate is not known, so no area is
    rate = of(Rate(1 / RATE, (X,)), x)[1:]
    area = of(Integral((X,)), rate)
    middle = (x[1:] + x[:-1]) / 2
    assert area == pytest.approx(middle - middle[0], abs=1e-12)


def test_a_rate_is_the_mean_slope_and_a_delay_what_was():
    x = 3.0 * np.arange(50) / RATE
    assert of(Rate(0.1, (X,)), x)[10:] == pytest.approx(3.0)
    assert np.isnan(of(Rate(0.1, (X,)), x)[:10]).all()
    assert (of(Delay(0.05, (X,)), x)[5:] == x[:-5]).all()


def test_a_gap_is_not_bridged():
    x = np.ones(40)
    starts = (0, 20)
    assert np.isnan(of(Rate(0.05, (X,)), x, starts=starts)[20:25]).all()
    assert np.isnan(of(Integral((X,)), x, starts=starts)[20:]).all()
    assert np.isnan(of(Window("mean", 0.1, (X,)), x, starts=starts)[20:29]).all()
    assert of(PeakHold((X,)), x, starts=starts)[-1] == 1.0


def test_a_peak_is_held_over_what_is_not_known():
    assert of(PeakHold((X,)), [math.nan, 2.0, 1.0, math.nan, 3.0])[1:].tolist() == [2, 2, 2, 3]


@pytest.mark.parametrize(
    ("operation", "values", "result"),
    [
        ("add", (2.0, 3.0), 5.0),
        ("divide", (1.0, 4.0), 0.25),
        ("divide", (1.0, 0.0), math.nan),
        ("power", (2.0, 3.0), 8.0),
        ("sqrt", (-1.0,), math.nan),
        ("log", (0.0,), -math.inf),
        ("atan2", (1.0, 1.0), math.pi / 4),
        ("above", (2.0, 1.0), 1.0),
        ("above", (math.inf, 1.0), 1.0),
        ("above", (math.nan, 1.0), math.nan),
        ("and", (1.0, 0.0), 0.0),
        ("or", (1.0, 0.0), 1.0),
        ("not", (1.0,), 0.0),
        ("if", (1.0, 2.0, 3.0), 2.0),
        ("if", (math.nan, 2.0, 3.0), math.nan),
        ("while", (2.0, 1.0), 2.0),
        ("while", (2.0, 0.0), math.nan),
        ("while", (2.0, math.nan), math.nan),
    ],
)
def test_what_happens_at_an_instant(operation, values, result):
    node = Pointwise(operation, (X, Y, Z)[: len(values)])
    assert of(node, *([v] for v in values)) == pytest.approx([result], nan_ok=True)


def test_a_constant_is_as_long_as_what_it_meets():
    sum_of = Pointwise("add", (Window("mean", 0.02, (Constant(3.0),)), X))
    assert of(sum_of, [1.0, 1.0, 1.0])[1:].tolist() == [4.0, 4.0]


def test_a_table_gives_nothing_beyond_its_ends():
    table = LookupTable(((0.0, 1.0), (10.0, 3.0)), (X,))
    assert of(table, [-1.0, 5.0, 11.0, math.nan]) == pytest.approx(
        [math.nan, 2.0, math.nan, math.nan], nan_ok=True
    )
    for points in (((0.0, 1.0),), ((1.0, 0.0), (1.0, 2.0))):
        with pytest.raises(SignalError, match="further along"):
            LookupTable(points, (X,))


@pytest.mark.parametrize(
    ("quantity", "field"),
    [
        ("strain 1", "strain_1"),
        ("strain 2", "strain_2"),
        ("shear strain", "shear_strain"),
        ("angle", "angle"),
        ("stress 1", "stress_1"),
        ("stress 2", "stress_2"),
        ("von Mises", "von_mises"),
    ],
)
def test_a_rosettes_quantities_are_those_of_the_rosette(quantity, field):
    grids = (834e-6, 785e-6, -169e-6)
    state = rosette_state(Rosette(), STEEL, grids)
    node = RosetteQuantity(quantity, Rosette(), STEEL, (X, Y, Z))
    found = of(node, *([g, math.inf] for g in grids))
    assert found[0] == pytest.approx(getattr(state, field), rel=1e-5)
    assert math.isnan(found[1])


def test_windows_together_are_bounded_before_any_is_made():
    windows = {f"w{i}": Window("mean", 10.0 + i, (X,)) for i in range(40)}
    SignalGraph(windows).require_memory(1000.0)
    with pytest.raises(SignalError, match="Together the windows hold"):
        SignalGraph(windows).start(100_000.0 / 20)


def test_equal_nodes_are_computed_once():
    filtered = Filter(FilterDesign(Band.LOW, (5.0,)), (X,))
    again = Filter(FilterDesign(Band.LOW, (5.0,)), (Measured("x"),))
    graph = SignalGraph({"a": Pointwise("add", (filtered, again)), "b": again})
    assert len(graph.order) == 3
    assert graph.keys == {"x"}


def test_signals_are_not_nested_without_end():
    node = X
    for _ in range(MAX_DEPTH + 1):
        node = Pointwise("negative", (node,))
    with pytest.raises(SignalError, match="more than 200 deep"):
        SignalGraph({"out": node})


NODES = [
    Filter(FilterDesign(Band.LOW, (10.0,), 4), (X,)),
    Filter(FilterDesign(Band.HIGH, (10.0,), 3, Family.BESSEL), (X,)),
    Filter(FilterDesign(Band.BETWEEN, (5.0, 20.0), 2), (X,)),
    Filter(MainsDesign(16.0), (X,)),
    *(Window(statistic, 0.07, (X,)) for statistic in STATISTICS),
    Rate(0.05, (X,)),
    Integral((X,)),
    PeakHold((X,)),
    Delay(0.03, (X,)),
    LookupTable(((-1.0, 0.0), (1.0, 5.0)), (X,)),
    RosetteQuantity("von Mises", Rosette(), STEEL, (X, Y, Z)),
    Pointwise("while", (Pointwise("divide", (X, Y)), Pointwise("above", (Z, Constant(0.0))))),
    Window("mean", 0.04, (Filter(FilterDesign(Band.LOW, (30.0,), 1), (Rate(0.02, (X,)),)),)),
]
SAMPLE = st.one_of(
    st.floats(-1.0, 1.0, width=32), st.sampled_from([math.nan, math.inf, -math.inf, 0.0])
)


@pytest.mark.parametrize("node", NODES, ids=lambda n: type(n).__name__)
@settings(max_examples=40, deadline=None)
@given(data=st.data())
def test_any_division_into_blocks_gives_the_same_samples(node, data):
    calm = st.floats(-1.0, 1.0, width=32)
    length = data.draw(st.integers(1, 120))
    signals = [
        np.array(data.draw(st.lists(s, min_size=length, max_size=length)))
        for s in (data.draw(st.sampled_from([SAMPLE, calm])), calm, SAMPLE)
    ]
    gap = data.draw(st.integers(0, length))
    cuts = data.draw(st.sets(st.integers(0, length), max_size=8)) | {0, length, gap}
    graph = SignalGraph({"out": node})
    readings = dict(zip("xyz", signals, strict=True))
    whole = compute(graph, readings, RATE, starts=(0, gap) if gap < length else (0,))["out"]
    process, edges, parts = graph.start(RATE), sorted(cuts), []
    for a, b in itertools.pairwise(edges):
        block = {key: values[a:b] for key, values in readings.items()}
        parts.append(process.push(block, follows=a not in (0, gap))["out"])
    np.testing.assert_array_equal(np.concatenate(parts), whole)


@pytest.mark.parametrize("node", NODES, ids=lambda n: type(n).__name__)
@settings(max_examples=20, deadline=None)
@given(data=st.data())
def test_after_its_memory_a_part_is_what_the_whole_is_there(node, data):
    graph = SignalGraph({"out": node})
    memory = graph.memory_samples(RATE)
    if math.isinf(memory):
        assert isinstance(node, Integral | PeakHold)
        return
    dice = np.random.default_rng(data.draw(st.integers(0, 10**6)))
    readings = {key: dice.uniform(-1.0, 1.0, 600) for key in "xyz"}
    begin = data.draw(st.integers(0, 599 - int(memory)))
    whole = compute(graph, readings, RATE)["out"]
    part = compute(graph, {k: v[begin:] for k, v in readings.items()}, RATE)["out"]
    known = int(memory)
    np.testing.assert_allclose(part[known:], whole[begin + known :], rtol=1e-7, atol=1e-8)
