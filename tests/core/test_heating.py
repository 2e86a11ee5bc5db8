"""Self-heating of a grid by hand."""

import pytest
from yoke_core.bridge.heating import CARRIES, Substrate, heat_density, heating
from yoke_core.errors import CoreError

AREA = 6e-3 * 2.8e-3  # m²


def test_half_the_excitation_heats_each_arm():
    # 5 V: 2.5 V across 350 ohm are 17.86 mW, on 16.8 mm² 1.063 kW/m².
    assert heat_density(5.0, 350.0, AREA) == pytest.approx(2.5**2 / 350 / AREA)
    assert heat_density(5.0, 350.0, AREA) == pytest.approx(1063, abs=1)


@pytest.mark.parametrize(
    ("ground", "ohm", "well", "best"),
    [
        (Substrate.STEEL, 350.0, True, 5.0),
        (Substrate.STEEL, 120.0, False, 2.5),  # 3.1 kW/m² at 5 V
        (Substrate.COMPOSITE, 350.0, False, 2.5),
        (Substrate.PLASTIC, 350.0, True, 1.0),  # 43 W/m² at 1 V
        (Substrate.PLASTIC, 120.0, False, 0.0),  # 124 W/m² at 1 V: none fits
    ],
)
def test_the_highest_excitation_that_the_part_carries(ground, ohm, well, best):
    found = heating(1.0 if ground is Substrate.PLASTIC else 5.0, ohm, AREA, ground, (1.0, 2.5, 5.0))
    assert (found.passed, found.best_v) == (well, best)
    assert found.carries_w_m2 == CARRIES[ground]


@pytest.mark.parametrize("value", [0.0, -1.0, float("nan")])
@pytest.mark.parametrize("name", ["excitation", "resistance", "area"])
def test_what_is_not_above_zero_is_named(name, value):
    arguments = {"excitation": 5.0, "resistance": 350.0, "area": AREA} | {name: value}
    with pytest.raises(CoreError, match=name):
        heat_density(**arguments)
