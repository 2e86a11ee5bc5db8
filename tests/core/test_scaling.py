import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.bridge.circuit import BridgeStrain, Circuit, resting_bridge
from yoke_core.errors import ScalingError
from yoke_core.scaling.curve import Polynomial, Table
from yoke_core.scaling.likely import likely_figure
from yoke_core.scaling.line import Line, rated_output, two_points
from yoke_core.scaling.loop import LoopCurrent, loop_span
from yoke_core.scaling.platinum import PlatinumThermometer
from yoke_core.signals.bank import ChainBank
from yoke_core.signals.chain import SignalChain

# IEC 60751, table of a Pt100.
PT100 = [
    (-200, 18.52),
    (-100, 60.26),
    (-50, 80.31),
    (0, 100.0),
    (50, 119.40),
    (100, 138.51),
    (400, 247.09),
    (850, 390.48),
]


def test_lines_pass_through_what_states_them():
    assert rated_output(2e-3, 25e3).apply([2e-3, -1e-3, 0]) == pytest.approx([25e3, -12.5e3, 0])
    assert rated_output(-2e-3, 25e3).apply(-1e-3) == pytest.approx(12.5e3)
    line = two_points(1e-4, 10.0, 3e-4, -30.0)
    assert line.apply([1e-4, 2e-4, 3e-4]) == pytest.approx([10, -10, -30])


def test_a_loop_has_a_number_only_between_its_faults():
    chain = SignalChain((LoopCurrent(50.0), loop_span(-0.05, 0.05)))
    volts = np.array([3.5e-3, 4e-3, 12e-3, 20e-3, 21.1e-3]) * 50
    assert chain.apply(volts) == pytest.approx([np.nan, -0.05, 0, 0.05, np.nan], nan_ok=True)


@pytest.mark.parametrize(("celsius", "ohm"), PT100)
def test_platinum_reads_the_points_of_the_table(celsius, ohm):
    assert PlatinumThermometer().apply(ohm) == pytest.approx(celsius + 273.15, abs=0.02)


def test_platinum_open_or_shorted_has_no_number():
    found = PlatinumThermometer().apply([1e9, 0.2, 395, np.inf])
    assert np.isnan(found[:3]).all()
    assert found[3] == np.inf


def test_a_table_goes_through_its_points_and_on_beyond_them():
    table = Table((0.0, 1.0, 3.0), (0.0, 10.0, 14.0))
    assert table.apply([-1, 0.5, 1, 2, 4, np.inf]).tolist() == [-10, 5, 10, 12, 16, np.inf]
    assert table.direction == 1
    assert Table((0.0, 1.0, 2.0), (0.0, 5.0, 1.0)).direction == 0


def test_a_polynomial_says_nothing_beyond_its_range():
    square = Polynomial((1.0, 0.0, 2.0), -1.0, 2.0)
    assert square.apply([-1, 0, 2]).tolist() == [3, 1, 9]
    assert np.isnan(square.apply([-1.1, 2.1])).all()
    assert square.direction == 0
    assert Polynomial((1.0, 0.0, 2.0), 0.0, 2.0).direction == 1


@pytest.mark.parametrize(
    ("make", "argument", "words"),
    [
        (lambda: rated_output(0, 1), "rated_output", "must not be zero"),
        (lambda: rated_output(1, -5), "capacity", "capacity must be above zero"),
        (lambda: two_points(1, 0, 1, 5), "signal_2", "same signal"),
        (lambda: two_points(1, 5, 2, 5), "value_2", "same value"),
        (lambda: LoopCurrent(0), "resistor_ohm", "resistor ohm must be above zero"),
        (lambda: loop_span(3, 3), "at_20_ma", "same at 4 and at 20 mA"),
        (lambda: Table((0.0, 0.0), (1.0, 2.0)), "points", "Point 2 has no higher signal"),
        (lambda: Table((0.0,), (1.0,)), "points", "2 to 200 points"),
        (lambda: Polynomial((1.0, 0.0), 0, 1), "coefficients", "not all of them zero"),
        (lambda: Polynomial((1.0, 2.0), 1, 1), "highest", "ends before it begins"),
    ],
)
def test_scaling_without_sense_is_refused(make, argument, words):
    with pytest.raises(ScalingError, match=words) as caught:
        make()
    assert caught.value.argument == argument


def chains():
    zero, turned, tare = Line(1.0, -3e-4), Line(-1.0), Line(1.0, -2.5)
    return [
        SignalChain((zero, rated_output(2e-3, 25e3), tare)),
        SignalChain((zero, turned, BridgeStrain(2.08))),
        SignalChain((zero, Table((-1e-2, 0.0, 1e-2), (-1.0, 0.0, 3.0)))),
        SignalChain((zero, turned, Polynomial((0.0, 5.0, 40.0), -1.0, 1.0), tare)),
    ]


def bridges():
    """Of every circuit one, with leads, between two lines."""
    for circuit in Circuit:
        rest = resting_bridge(circuit, 2 if circuit is Circuit.QUARTER else 3, 0.8, 350.0, 350.0)
        bridge = BridgeStrain(2.08, circuit, rest=rest)
        yield SignalChain((Line(-1.0, 2e-4), bridge, Line(1.0, -1e-5)))


FAR = st.sampled_from([np.inf, -np.inf, np.nan, 0.0, 0.5, -0.5, 3.0, 1e300, -1e300])


def test_an_interval_that_leaves_a_polynomials_range_has_no_extremes():
    """However well its other end reads: a guard must not be told that all is well."""
    turning = SignalChain((Polynomial((0.0, 0.0, 1.0), -1.0, 1.0),))
    rising = SignalChain((Polynomial((0.0, 5.0), -1.0, 1.0),))
    for chain in (turning, rising):
        low, high = chain.extremes([-0.5, -0.5, -3.0], [0.5, 1.5, 3.0])
        assert np.isfinite(low).tolist() == [True, chain is rising, False]
        assert np.isfinite(high).tolist() == [True, False, False]


@given(st.lists(st.floats(-0.01, 0.01) | FAR, min_size=1, max_size=20), st.randoms())
@settings(deadline=None)  # the first one compiles
def test_many_channels_at_once_read_what_each_chain_does(signals, dice):
    """Whatever is to be read: clipped, missing, beyond what any strain gives."""
    made = [*chains()[:2], *bridges(), *chains()[2:]]
    rows = dice.sample(range(20), len(made))
    signal = np.zeros((20, len(signals)))
    signal[rows] = signals
    found = ChainBank(made, rows).apply(signal)
    for row, chain in zip(found, made, strict=True):
        with np.errstate(over="ignore", invalid="ignore"):
            wanted = chain.apply(signals)
        np.testing.assert_allclose(row, wanted, rtol=1e-12, atol=1e-12)


def test_a_bank_may_be_empty():
    assert ChainBank([], []).apply(np.zeros((8, 3))).shape == (0, 3)


def test_a_chain_knows_its_way_and_steepness():
    force, strain, _, bent = chains()
    assert (force.direction, strain.direction, bent.direction) == (1, -1, 0)
    assert force.steepness(0.0, 1e-6) == pytest.approx(25e3 / 2e-3)
    assert strain.line is None


@given(st.lists(st.floats(-0.9, 0.9), min_size=2, max_size=9))
def test_extremes_of_an_interval_are_those_of_all_signals_in_it(signals):
    for chain in [
        SignalChain((Table((-1.0, 0.2, 1.0), (0.0, 5.0, -2.0)), Line(-2.0))),
        chains()[3],
    ]:
        low, high = chain.extremes(min(signals), max(signals))
        run = chain.apply(np.linspace(min(signals), max(signals), 4001))
        assert low == pytest.approx(run.min(), abs=1e-2)
        assert high == pytest.approx(run.max(), abs=1e-2)
        assert low <= run.min() + 1e-12
        assert high >= run.max() - 1e-12


@pytest.mark.parametrize(
    ("value", "range_", "meant"),
    [
        (2.0, (0.2e-3, 6e-3), 2e-3),  # mV taken for V
        (-0.02, (0.2e-3, 6e-3), -2e-3),
        (2e-6, (0.2e-3, 6e-3), 2e-3),
        (2e-3, (0.2e-3, 6e-3), None),
        (208.0, (1.6, 4.5), 2.08),
        (0.0, (1.6, 4.5), None),
        (float("nan"), (1.6, 4.5), None),
        (9.0, (1.6, 4.5), None),  # no shift of its point is in character
    ],
)
def test_a_figure_out_of_character_is_named_with_the_likely_one(value, range_, meant):
    found = likely_figure(value, *range_)
    assert found == (pytest.approx(meant, rel=1e-12) if meant else None)
