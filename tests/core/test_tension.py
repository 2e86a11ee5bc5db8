import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.errors import TensionError
from yoke_core.tension.results import TensionRecipe, tension_results
from yoke_core.tension.specimen import Specimen

E = 70e9
RECIPE = TensionRecipe(60e6, 180e6)


def ramberg_osgood(strength=300e6, proof=250e6, exponent=20, n=4000):
    """strain = s/E + 0.002 (s/proof)^n: by its making Rp0.2 is exactly ``proof``."""
    stress = np.linspace(0, strength, n)
    return stress, stress / E + 0.002 * (stress / proof) ** exponent


def with_break(stress, strain, ductility=0.05):
    """Stress falls linearly by 10 % while strain goes on, then the piece parts."""
    u = np.linspace(0, 1, 500)[1:]
    stress = np.concatenate([stress, stress[-1] * (1 - 0.1 * u), [0.0, 0.0]])
    end = strain[-1] + ductility
    strain = np.concatenate([strain, strain[-1] + ductility * u, [end - 0.003] * 2])
    return stress, strain


def test_results_of_a_closed_form_curve():
    stress, strain = with_break(*ramberg_osgood())
    found = tension_results(stress, strain, TensionRecipe(20e6, 90e6))
    at_peak = 300e6 / E + 0.002 * 1.2**20
    assert found.modulus.slope == pytest.approx(E, rel=1e-6)
    assert found.proof.stress == pytest.approx(250e6, rel=1e-4)
    assert found.strength.stress == pytest.approx(300e6)
    assert found.total_at_strength == pytest.approx(at_peak, rel=1e-4)
    assert found.plastic_at_strength == pytest.approx(0.002 * 1.2**20, rel=1e-4)
    assert found.fracture.stress == pytest.approx(270e6)
    assert found.elongation_after_break == pytest.approx(at_peak + 0.05 - 270e6 / E, rel=1e-4)
    assert found.notes == ()


@given(toe=st.floats(-0.01, 0.01))
def test_a_toe_shifts_nothing_but_the_origin(toe):
    stress, strain = with_break(*ramberg_osgood())
    plain, shifted = (tension_results(stress, s, RECIPE) for s in (strain, strain + toe))
    assert shifted.modulus.origin - plain.modulus.origin == pytest.approx(toe, abs=1e-9)
    assert shifted.proof.stress == pytest.approx(plain.proof.stress, rel=1e-6)
    assert shifted.elongation_after_break == pytest.approx(plain.elongation_after_break, abs=1e-9)


def test_noise_moves_the_modulus_little():
    random = np.random.default_rng(3)
    stress, strain = with_break(*ramberg_osgood())
    noisy = tension_results(
        stress + random.normal(0, 0.2e6, stress.size), strain, TensionRecipe(20e6, 90e6)
    )
    assert noisy.modulus.slope == pytest.approx(E, rel=2e-3)
    assert noisy.proof.stress == pytest.approx(250e6, rel=5e-3)


def test_a_run_without_yield_says_so():
    stress = np.linspace(0, 200e6, 500)
    found = tension_results(stress, stress / E, RECIPE)
    assert found.proof is None
    assert found.fracture is None
    assert found.elongation_after_break is None
    assert "never crosses the 0.2 % offset line" in found.notes[0]
    assert "did not part" in found.notes[1]


def necked(fall, ductility=0.12, n=3000):
    """The force falls by a share of its strength while the piece necks, then it parts."""
    stress, strain = ramberg_osgood()
    u = np.linspace(0, 1, n)[1:]
    stress = np.concatenate([stress, stress[-1] * (1 - fall * u), [2e6, 0.0, 0.0]])
    return stress, np.concatenate(
        [strain, strain[-1] + ductility * u, [strain[-1] + ductility] * 3]
    )


@pytest.mark.parametrize("fall", [0.1, 0.45, 0.7, 0.85])
def test_the_break_is_the_break_however_far_the_force_fell_before(fall):
    stress, strain = necked(fall)
    found = tension_results(stress, strain, TensionRecipe(20e6, 90e6))
    at_break = (1 - fall) * 300e6
    assert found.fracture.stress == pytest.approx(at_break)
    total = 300e6 / E + 0.002 * 1.2**20 + 0.12
    assert found.elongation_after_break == pytest.approx(total - at_break / E, rel=1e-6)


def test_a_force_that_only_falls_while_it_necks_has_not_broken_the_piece():
    stress, strain = necked(0.6)
    found = tension_results(stress[:-3], strain[:-3], TensionRecipe(20e6, 90e6))
    assert found.fracture is None
    assert "suddenly" in found.notes[-1]


@pytest.mark.parametrize("places", [[1500], [3990], [2000, 2001], [1200, 4200]])
@pytest.mark.parametrize("value", [0.0, 900e6, -50e6])
def test_dropouts_are_left_out_and_named(places, value):
    stress, strain = with_break(*ramberg_osgood())
    well = tension_results(stress, strain, TensionRecipe(20e6, 90e6))
    stress = stress.copy()
    stress[places] = value
    found = tension_results(stress, strain, TensionRecipe(20e6, 90e6))
    assert found.proof.stress == pytest.approx(well.proof.stress, rel=1e-4)
    assert found.strength.stress == pytest.approx(well.strength.stress, rel=1e-3)
    assert found.elongation_after_break == pytest.approx(well.elongation_after_break, rel=1e-6)
    (note,) = found.notes
    assert f"Left out: {len(places)} sample" in note


def test_there_is_no_proof_strength_without_a_crossing():
    """A fit range in the plastic part: the curve lies beyond the offset line from its start."""
    strain = np.linspace(0, 0.02, 2000)
    soft = 180e6 * np.sqrt(strain / 0.02)  # no straight part at all
    found = tension_results(soft, strain, TensionRecipe(100e6, 170e6, offset=1e-5))
    assert found.proof is None
    assert any("No proof strength" in n for n in found.notes)
    assert any("not straight" in n for n in found.notes)


def test_a_line_that_is_none_gives_no_proof_strength():
    random = np.random.default_rng(1)
    stress, strain = with_break(*ramberg_osgood())
    loose = strain + random.normal(0, 6e-4, strain.size)  # the knives slip
    found = tension_results(stress, loose, TensionRecipe(20e6, 90e6))
    assert found.modulus.correlation < 0.95
    assert found.proof is None
    assert any("no straight elastic line" in n for n in found.notes)


def test_a_fit_range_above_the_proof_strength_is_told():
    stress, strain = with_break(*ramberg_osgood())
    found = tension_results(stress, strain, TensionRecipe(20e6, 255e6))
    assert any("above the proof strength" in n for n in found.notes) or found.proof is None


def test_missing_samples_are_left_out():
    stress, strain = with_break(*ramberg_osgood())
    stress[100:140] = np.nan
    assert tension_results(stress, strain, RECIPE).strength.stress == pytest.approx(300e6)


@pytest.mark.parametrize(
    ("stress", "strain", "words"),
    [
        (np.zeros(100), np.zeros(100), "no tension"),
        (-np.ones(100), np.ones(100), "no tension"),
        (np.ones(10), np.ones(9), "number of samples"),
        (np.linspace(0, 50e6, 100), np.linspace(0, 1e-3, 100), "Only 0 samples"),
        (np.linspace(0, 300e6, 100), np.linspace(0, -4e-3, 100), "does not rise"),
    ],
    ids=["no force", "compression", "lengths", "below the fit range", "wrong sign"],
)
def test_runs_without_an_answer_are_refused(stress, strain, words):
    with pytest.raises(TensionError, match=words):
        tension_results(stress, strain, RECIPE)


@pytest.mark.parametrize(
    ("values", "argument"),
    [((180e6, 60e6), "fit_upper"), ((0, 60e6), "fit_lower"), ((60e6, 180e6, 0.0), "offset")],
)
def test_recipes_without_sense_are_refused(values, argument):
    with pytest.raises(TensionError) as caught:
        TensionRecipe(*values)
    assert caught.value.argument == argument


@pytest.mark.parametrize("name", ["section", "gauge_length"])
@pytest.mark.parametrize("value", [0.0, -1e-3])
def test_specimens_need_sizes(name, value):
    sizes = {"section": 37.5e-6, "gauge_length": 50e-3, name: value}
    with pytest.raises(TensionError, match="above zero") as caught:
        Specimen(**sizes)
    assert caught.value.argument == name


def test_stress_and_strain_of_a_coupon():
    coupon = Specimen(37.5e-6, 50e-3)
    assert coupon.stress(11.25e3) == pytest.approx(300e6)
    assert coupon.strain(0.1e-3) == pytest.approx(0.002)
