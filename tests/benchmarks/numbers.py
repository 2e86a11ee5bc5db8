"""The core over ten million samples, against numpy passes over the same memory."""

from collections.abc import Callable

import numpy as np
from yoke_core.fatigue.rainflow import rainflow
from yoke_core.fatigue.turning import turning_points
from yoke_core.rosette.series import principal_strains
from yoke_core.rosette.state import Rosette

from tests.benchmarks.measure import ROUNDS, Row, timed

SAMPLES = 10**7
GATE = 10e-6  # of the strain-like signal


def bests(*actions: Callable[[], object]) -> list[float]:
    """The best time of each, taken in turns so that all meet the same machine."""
    for action in actions:
        action()  # compiled, and its memory there
    rounds = [[timed(action) for action in actions] for _ in range(ROUNDS)]
    return [min(times) for times in zip(*rounds, strict=True)]


def measure() -> list[Row]:
    dice = np.random.default_rng(1)
    t = np.arange(SAMPLES) / 1000
    wave = 300e-6 * np.sin(2 * np.pi * 6 * t) + 20e-6 * np.sin(2 * np.pi * 0.3 * t)
    strain = (wave + 1e-6 * dice.normal(size=SAMPLES)).astype(np.float32)
    noise = dice.normal(size=SAMPLES).astype(np.float32)
    grids = [dice.normal(0, 1e-4, SAMPLES).astype(np.float32) for _ in range(3)]
    of_rosette = [*grids, *grids]  # as much as goes in and comes out
    diff, turning, counting, noisy = bests(
        lambda: np.diff(strain),
        lambda: turning_points(strain, GATE),
        lambda: rainflow(strain, gate=GATE),
        lambda: rainflow(noise),
    )
    copy, rosette = bests(
        lambda: [g.copy() for g in of_rosette], lambda: principal_strains(Rosette(), *grids)
    )
    return [
        _row("turning points, strain-like", turning, diff, 2),
        _row("rainflow, strain-like", counting, diff, 2.5),
        _row("rainflow, white noise", noisy, diff, 9.5),
        _row("rosette", rosette, copy, 1.3, "a copy of the same memory"),
    ]


def _row(name: str, ours: float, floor: float, most: float, of: str = "numpy diff") -> Row:
    words = f"{name}, 10^7 samples"
    return Row(
        words,
        ours * 1e3,
        floor * 1e3,
        "ms",
        f"ratio at most {most:g} of {of}",
        ours <= most * floor,
    )
