import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.errors import RosetteError
from yoke_core.rosette.series import principal_strains
from yoke_core.rosette.state import Isotropic, Rosette, rosette_state

STEEL = Isotropic(205e9, 0.29)
LAYOUTS = [(0, 45, 90), (0, 60, 120), (0, 30, 100), (37, 82, 127), (-90, 45, 0)]


def read(angle, strain_1, strain_2, direction, transverse=0.0):
    """What a grid reads, by rotating the strain tensor into its direction."""
    c, s = np.cos(angle - direction), np.sin(angle - direction)
    turn = np.array([[c, s], [-s, c]])
    along, across = np.diag(turn @ np.diag([strain_1, strain_2]) @ turn.T)
    return (along + transverse * across) / (1 - transverse * 0.285)


@settings(deadline=None)  # the first call may have to compile
@given(
    st.sampled_from(LAYOUTS),
    st.floats(-2e-3, 2e-3),
    st.floats(1e-5, 2e-3),
    st.floats(-89, 89),
    st.sampled_from([0.0, 0.004, -0.02]),
)
def test_principal_strains_are_those_of_the_rotated_tensor(layout, low, apart, degrees, transverse):
    angles = tuple(np.deg2rad(layout))
    direction = np.deg2rad(degrees)
    grids = tuple(read(a - angles[0], low + apart, low, direction, transverse) for a in angles)
    found = rosette_state(Rosette(angles, transverse), STEEL, grids)
    assert found.strain_1 == pytest.approx(low + apart, abs=1e-12)
    assert found.strain_2 == pytest.approx(low, abs=1e-12)
    assert found.angle == pytest.approx(direction, abs=1e-6)
    over_time = principal_strains(
        Rosette(angles, transverse), *(np.full(3, g, np.float32) for g in grids)
    )
    assert over_time.first == pytest.approx(low + apart, abs=1e-9)
    assert over_time.angle == pytest.approx(direction, abs=2e-3)


def test_uniaxial_stress_is_found_again():
    strain = 200e6 / STEEL.modulus
    grids = tuple(read(a, strain, -0.29 * strain, 0.3) for a in Rosette().angles)
    found = rosette_state(Rosette(), STEEL, grids)
    assert found.stress_1 == pytest.approx(200e6)
    assert found.stress_2 == pytest.approx(0, abs=1)
    assert found.von_mises == pytest.approx(200e6)
    assert found.shear_stress == pytest.approx(100e6)
    assert found.shear_strain == pytest.approx(strain * 1.29)
    assert found.biaxiality == pytest.approx(0, abs=1e-8)


def test_the_largest_shear_stress_is_that_of_three_principal_stresses():
    """Both 120 MPa: none in the plane, 60 MPa across it (third principal stress 0)."""
    strain = 120e6 * (1 - 0.29) / STEEL.modulus
    even = rosette_state(Rosette(), STEEL, (strain,) * 3)
    assert (even.stress_1, even.stress_2) == (pytest.approx(120e6), pytest.approx(120e6))
    assert even.shear_stress == pytest.approx(60e6)
    pressed = rosette_state(Rosette(), STEEL, (-strain,) * 3)
    assert pressed.shear_stress == pytest.approx(60e6)


def test_there_is_no_direction_without_a_difference():
    even = np.full(3, 4e-4, np.float32)
    assert rosette_state(Rosette(), STEEL, (4e-4, 4e-4, 4e-4)).angle is None
    assert rosette_state(Rosette(), STEEL, (4e-4, 4e-4, 4.02e-4)).angle is not None
    over_time = principal_strains(Rosette(), even, even, even)
    assert np.isnan(over_time.angle).all()
    assert over_time.first == pytest.approx(4e-4)


def test_pure_shear_and_rest():
    grids = tuple(read(a, 1e-3, -1e-3, 0.0) for a in Rosette().angles)
    assert rosette_state(Rosette(), STEEL, grids).biaxiality == pytest.approx(-1)
    assert rosette_state(Rosette(), STEEL, (0.0, 0.0, 0.0)).biaxiality is None


def test_a_dead_grid_is_named_and_leaves_no_number():
    with pytest.raises(RosetteError, match="Grid b has no number"):
        rosette_state(Rosette(), STEEL, (1e-4, float("nan"), 0.0))
    a, b, c = np.zeros((3, 4), np.float32)
    a[:] = 1e-4
    b[1], c[2] = np.nan, np.inf
    found = principal_strains(Rosette(), a, b, c)
    for row in (found.first, found.second, found.angle):
        assert np.isfinite(row).tolist() == [True, False, False, True]


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Rosette((0.0, 1.0)), "three grids, not 2"),
        (lambda: Rosette((0.0, 1.0, np.pi)), "Grids a and c lie in the same direction"),
        (lambda: Rosette((0.0, 0.05, 1.0)), "Grids a and b"),
        (lambda: Isotropic(0, 0.3), "modulus must be above zero"),
        (lambda: Isotropic(1e9, 0.6), "between 0 and 0.5"),
        (
            lambda: principal_strains(Rosette(), *(np.zeros(n, np.float32) for n in (3, 3, 2))),
            "not measured at the same instants",
        ),
    ],
)
def test_rosettes_without_sense_are_refused(make, words):
    with pytest.raises(RosetteError, match=words):
        make()
