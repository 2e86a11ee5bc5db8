"""Force histories from files and spectra: what they come to, and what they are refused for."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import welch
from yoke_core.errors import LoadingError
from yoke_core.loading.history import read_history
from yoke_core.loading.random_force import random_force


@given(
    st.lists(st.floats(-1e5, 1e5), min_size=2, max_size=60),
    st.sampled_from([";", "\t", ","]),
    st.sampled_from([("N", 1.0), ("kN", 1e3)]),
)
def test_what_was_written_is_read(forces, separator, unit):
    name, factor = unit
    lines = [f"time (s){separator}force ({name})"]
    lines += [f"{0.25 * i!r}{separator}{force / factor!r}" for i, force in enumerate(forces)]
    found = read_history("\n".join(lines), 100)
    assert found.rate_hz == pytest.approx(4.0)
    np.testing.assert_allclose(found.forces, forces, rtol=1e-12, atol=1e-300)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("time (s)\n0\n1", "no two columns"),
        ("time; force\n0;1\n1;2", "does not say that the first column is in s"),
        ("time (s); force (mm)\n0;1\n1;2", "“mm” is no unit of force"),
        ("time (s); force (kN)\n0;1\n1;high", "Line 3 is not two numbers: “1;high”"),
        ("time (s); force (kN)\n0;1\n\n1;2\n2", "Line 5 is not two numbers"),
        ("time (s); force (kN)\n0;1\n1;nan", "Line 3 has no finite number"),
        ("time (s); force (kN)\n0;1\n1;2\n2;3\n5;4", "A gap at line 5: 3 s after"),
        ("time (s); force (kN)\n0;1\n1;2\n2;3\n2;4", "A step back at line 5"),
        ("time (s); force (kN)\n2;1\n1;2\n0;2", "do not rise"),
        ("time (s); force (kN)\n0;1", "fewer than two"),
        ("time (s); force (kN)\n" + "\n".join(f"{i};0" for i in range(101)), "more than 100"),
    ],
)
def test_a_history_that_cannot_be_played_says_where(text, words):
    with pytest.raises(LoadingError, match=words):
        read_history(text, 100)


def test_a_random_force_has_the_spectrum_that_was_asked_for():
    spectrum = [(2.0, 400.0), (6.0, 100.0), (10.0, 100.0)]
    force = random_force(200.0, spectrum, 100_000, 100.0, seed=7)
    at, found = welch(force, 100.0, nperseg=2000)
    inside = (at > 2.5) & (at < 9.5)
    wanted = np.interp(at[inside], *zip(*spectrum, strict=True))
    assert np.median(found[inside] / wanted) == pytest.approx(1.0, abs=0.1)
    assert np.allclose(found[(at > 11) | ((at > 0.2) & (at < 1.5))], 0, atol=1.0)
    # by Parseval: the area under the density
    assert force.var() == pytest.approx(4 * 250 + 4 * 100, rel=0.01)
    peaks = np.abs(force - 200) / force.std()
    assert np.mean(peaks < 1) == pytest.approx(0.683, abs=0.02)  # normally distributed


def test_the_same_seed_gives_the_same_force():
    first, again, other = (
        random_force(0.0, [(1.0, 1.0), (2.0, 1.0)], 1000, 20.0, seed) for seed in (1, 1, 2)
    )
    np.testing.assert_array_equal(first, again)
    assert not np.allclose(first, other)


@pytest.mark.parametrize(
    "spectrum", [[(1.0, 1.0)], [(2.0, 1.0), (1.0, 1.0)], [(1.0, -1.0), (2.0, 1.0)],
                 [(1.0, 1.0), (6.0, 1.0)], [(0.0, 1.0), (2.0, 1.0)]],
)  # fmt: skip
def test_a_spectrum_that_is_none_is_refused(spectrum):
    with pytest.raises(LoadingError):
        random_force(0.0, spectrum, 1000, 20.0, 1)
