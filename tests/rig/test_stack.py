"""Loads that a person puts on, and cells that do not tell the very truth."""

import numpy as np
import pytest
from yoke_rig.room import REFERENCE_C
from yoke_rig.stack import Cell, Stack, fork_cells
from yoke_rig.state import STEP, State


def resting(seconds, felt=()):
    n = round(seconds / STEP)
    return State(np.zeros(n), np.zeros(n), STEP * np.arange(n), {k: np.zeros(n) for k in felt})


def loads(cell, *values, seconds=4.0):
    """What a cell reads at the end of each load."""
    stack, found = Stack({"cell": cell}), []
    for value in values:
        stack.put("cell", value)
        found.append(float(stack.on(resting(seconds)).of("cell")[-1]))
    return found


def test_a_load_settles_and_is_felt_by_all_in_series():
    stack = Stack(fork_cells())
    stack.put("reference cell", 5e3)
    state = stack.on(resting(4.0))
    force = state.of("force")
    assert force[0] == pytest.approx(5e3 * (1 - np.exp(-STEP / 0.25)))
    assert force[-1] == pytest.approx(5e3, rel=1e-6)
    for cell in ("axle cell", "reference cell"):
        assert state.of(cell)[-1] == pytest.approx(5e3, rel=1e-3)
        assert state.of(cell)[-1] != force[-1]
    stack.put("axle cell", 0.0)
    assert abs(stack.on(resting(4.0)).of("force")[-1]) < 1e-2


def test_a_cell_is_bent_and_lags_behind_falling_loads():
    bent = loads(Cell("force", 10e3, bend=1e-4), 5e3, 10e3)
    assert bent == pytest.approx([5e3 + 1.0, 10e3], abs=1e-2)
    up, _, down = loads(Cell("force", 10e3, loop=2e-4), 5e3, 10e3, 5e3)
    assert down - up == pytest.approx(2.0, abs=1e-2)


def test_it_creeps_under_a_load_that_stays():
    at_once, later = loads(Cell("force", 10e3, creep=1e-4), 10e3, 10e3, seconds=20.0)
    assert 10e3 < at_once < later < 10e3 + 1.0


def test_a_gauge_block_is_felt_by_what_it_lies_under_and_a_reset_takes_all_away():
    stack = Stack()
    stack.put("extension", 0.01)
    assert stack.on(resting(4.0, ["extension"])).of("extension")[-1] == pytest.approx(
        0.01, rel=1e-6
    )
    assert (stack.on(resting(1.0)).force == 0).all()
    stack.reset()
    assert (stack.on(resting(1.0, ["extension"])).of("extension") == 0).all()


def test_a_cell_reads_otherwise_in_each_position_and_more_where_it_is_warm():
    turned = Stack({"cell": Cell("force", 10e3, turns=1e-4)})
    turned.put("cell", 10e3)
    read = []
    for degrees in (0.0, 90.0, 180.0):
        turned.turn("cell", degrees)
        read.append(float(turned.on(resting(6.0)).of("cell")[-1]))
    assert read == pytest.approx([10e3 + 1.0, 10e3, 10e3 - 1.0], abs=1e-3)
    with pytest.raises(ValueError, match="can be turned"):
        turned.turn("gauge", 90.0)
    warm = Cell("force", 10e3, warms=1e-5)
    load = np.full(3, 10e3)
    np.testing.assert_allclose(
        warm.feels(load, REFERENCE_C + np.array([0, 2, -2])) - load, [0, 0.2, -0.2], atol=1e-9
    )


def test_weights_on_an_arm_are_felt_by_the_torque_sensor_alone():
    stack = Stack(fork_cells())
    assert (stack.on(resting(0.1)).of("torque cell") == 0).all()
    stack.put("torque cell", 150.0)
    state = stack.on(resting(6.0))
    assert state.of("torque cell")[-1] == pytest.approx(150.0, rel=1e-3)
    assert (state.of("force") == 0).all()
