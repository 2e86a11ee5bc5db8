"""Rosette and cycles of recorded runs, against what the counts were made of."""

import numpy as np
import pytest
from yoke_server.derive.computing import derive_stale
from yoke_server.kinds.inputs.conditioning import BridgeConditioning
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.setups.services import keep_revision

from tests.recorded import FULL, PER_BLOCK, block, record

JSON = "application/json"
BLOCKS = 20
K, NU, E = 2.08, 0.29, 205e9


@pytest.fixture
def rosette(setup):
    """The demo's first three inputs as the grids of a rosette at 0, 45 and 90 degrees."""
    gauge = setup.channels.get(name="SG1")
    rows = setup.channels.filter(input__device__label="A1")
    for i, row in enumerate(rows):
        row.grid = Grid(rosette="R1", angle=i * np.pi / 4)
        name = f"R1{'abc'[i]}"
        row.name, row.quantity, row.unit = name, "strain", gauge.unit
        row.sensor, row.wiring, row.scaling = gauge.sensor, gauge.wiring, gauge.scaling
        row.conditioning = BridgeConditioning(range_mv_v=8.0)
        row.save()
    setup.channels.exclude(name__startswith="R1").delete()
    keep_revision(None, setup, "three grids")
    return setup


def counts_of(*strains):
    """Counts of quarter bridges with 0.77 ohm of lead on either side of their grids."""
    lead = 0.768 / 350
    counts = np.zeros((BLOCKS * PER_BLOCK, 8), np.int32)
    for i, strain in enumerate(strains):
        t = K * strain
        ratio = 0.5 - (1 + lead) / (2 + 2 * lead + t)
        counts[:, i] = np.rint(ratio / 8e-3 * FULL)
    return counts


def run_of(setup, *strains, change=lambda counts: None):
    counts = counts_of(*strains)
    change(counts)
    return record(
        setup, [block(i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(BLOCKS)]
    )


RAMP = np.linspace(0, 1, BLOCKS * PER_BLOCK)


def grids(strain_1=700e-6, strain_2=-400e-6, direction=0.541):
    """A load that rises: the strains of three grids, in a fixed direction of the principal."""
    middle, radius = (strain_1 + strain_2) / 2, (strain_1 - strain_2) / 2
    return [RAMP * (middle + radius * np.cos(2 * (a - direction))) for a in np.deg2rad([0, 45, 90])]


def derivations(client, run):
    derive_stale(run.setup_id)
    return client.get(f"/api/runs/{run.pk}/derivations").json()


def values(state):
    return {r["symbol"]: r["value"] for r in state["results"]}


def test_a_rosette_is_recognised_and_computed_at_its_highest_load(as_role, rosette):
    (state,) = derivations(as_role("reviewer"), run_of(rosette, *grids()))
    assert state["recipe"]["parameters"]["name"] == "R1"
    found = values(state)
    assert found["ε1"] == pytest.approx(700e-6, rel=1e-3)
    assert found["ε2"] == pytest.approx(-400e-6, rel=1e-3)
    assert found["φ"] == pytest.approx(0.541, abs=2e-3)
    s1, s2 = (E / (1 - NU**2) * (a + NU * b) for a, b in ((7e-4, -4e-4), (-4e-4, 7e-4)))
    assert found["σ1"] == pytest.approx(s1, rel=1e-3)
    assert found["σv"] == pytest.approx(np.sqrt(s1**2 - s1 * s2 + s2**2), rel=1e-3)
    assert found["σ2/σ1"] == pytest.approx(s2 / s1, rel=2e-3)
    assert state["details"]["grids"] == ["R1a", "R1b", "R1c"]
    assert state["details"]["time_s"] == pytest.approx(1.999, abs=2e-3)


def test_a_dead_grid_says_so(as_role, rosette):
    def kill(counts):
        counts[:, 1] = FULL

    (state,) = derivations(as_role("reviewer"), run_of(rosette, *grids(), change=kill))
    assert "No instant has a number of all three grids" in state["problem"]["title"]


def test_what_makes_no_rosette_is_refused(as_role, rosette, setup):
    run = run_of(rosette, *grids())
    client = as_role("engineer")
    (state,) = derivations(client, run)
    url = f"/api/recipes/{state['recipe']['id']}"
    good = state["recipe"]["parameters"]
    a, b, _ = good["grids"]
    for changes, field in [
        ({"grids": [a, b]}, "parameters.grids"),
        ({"grids": [a, b, b]}, "grids"),
        ({"angles_deg": [0.0, 45.0, 180.0]}, "angles"),
        ({"modulus_pa": 0.0}, "parameters.modulus_pa"),
        ({"poisson_ratio": 0.6}, "parameters.poisson_ratio"),
    ]:
        refused = client.patch(url, {"parameters": good | changes}, content_type=JSON)
        assert (refused.status_code, refused.json()["field"]) == (422, field)
        assert refused.json()["hint"]


def test_cycles_of_a_sine_and_the_life_they_leave(as_role, rosette):
    """Ten periods of 500 um/m amplitude about 200 um/m."""
    strain = 200e-6 + 500e-6 * np.sin(2 * np.pi * 10 * RAMP)
    run = run_of(rosette, strain, 0 * RAMP, 0 * RAMP)
    client = as_role("engineer")
    derivations(client, run)
    key = rosette.channels.get(name="R1a").key
    parameters = {"kind": "cycles", "channel": key, "gate": 20e-6, "curve_exponent": -0.12}
    url = f"/api/setups/{rosette.pk}/recipes"
    made = client.post(url, {"parameters": parameters}, content_type=JSON)
    assert made.status_code == 201
    _, state = derivations(client, run)
    found = values(state)
    assert found["n"] == pytest.approx(10, abs=0.5)
    assert found["Δmax"] == pytest.approx(1000e-6, rel=0.01)
    per_cycle = 1 / (0.5 * (E * 500e-6 / 900e6) ** (1 / -0.12))
    assert found["Repeats"] == pytest.approx(1 / (9.5 * per_cycle), rel=0.1)
    assert sum(map(sum, state["details"]["counts"])) == pytest.approx(found["n"])
    assert sum(map(sum, state["details"]["damage"])) == pytest.approx(1)
    for changes, field in [
        ({"curve_exponent": 0.12}, "curve_exponent"),
        ({"channel": "nobody"}, ""),
        ({"gate": -1.0}, "parameters.gate"),
    ]:
        refused = client.post(url, {"parameters": parameters | changes}, content_type=JSON)
        assert refused.status_code in (409, 422)
        assert refused.json().get("field", "") == field


def test_cycles_of_a_force_cost_life_once_its_section_is_known(as_role, setup):
    force = np.rint(1e-3 * np.sin(2 * np.pi * 5 * RAMP) / 8e-3 * FULL).astype(np.int32)

    def pull(counts):
        counts[:, 0] = force

    run = run_of(setup, 0 * RAMP, change=pull)
    client = as_role("engineer")
    parameters = {"kind": "cycles", "channel": setup.channels.get(name="F").key, "gate": 100.0}
    body = {"parameters": parameters}
    made = client.post(f"/api/setups/{setup.pk}/recipes", body, content_type=JSON).json()
    state = derivations(client, run)[-1]
    assert values(state)["Δmax"] == pytest.approx(25e3, rel=0.01)
    assert values(state)["Repeats"] is None
    assert state["results"][0]["note"] == "give the section that the force acts on"
    parameters |= {"section_m2": 50e-6}
    client.patch(f"/api/recipes/{made['id']}", {"parameters": parameters}, content_type=JSON)
    found = values(derivations(client, run)[-1])
    to_failure = 0.5 * (12.5e3 / 50e-6 / 900e6) ** -10
    assert found["Repeats"] == pytest.approx(to_failure / 5, rel=0.2)


def test_a_history_without_a_reversal_says_so(as_role, rosette):
    run = run_of(rosette, 0 * RAMP, 0 * RAMP, 0 * RAMP)
    client = as_role("engineer")
    key = rosette.channels.get(name="R1a").key
    body = {"parameters": {"kind": "cycles", "channel": key}}
    client.post(f"/api/setups/{rosette.pk}/recipes", body, content_type=JSON)
    state = derivations(client, run)[-1]
    assert "no reversal" in state["problem"]["title"]
    client.delete(f"/api/recipes/{state['recipe']['id']}")
    assert len(client.get(f"/api/runs/{run.pk}/derivations").json()) == 0


# Statistics and spectra


def added(client, setup, **parameters):
    """A recipe of the setup; the answer to it."""
    return client.post(f"/api/setups/{setup.pk}/recipes", {"parameters": parameters}, JSON)


def one(client, run, kind):
    found = derivations(client, run)
    return next(s for s in found if s["recipe"]["parameters"]["kind"] == kind)


T = np.arange(BLOCKS * PER_BLOCK) / 1000
HUM = 4e-6 * np.sin(2 * np.pi * 50 * T)


@pytest.fixture
def rising(rosette):
    """Grid a rises to 700 µm/m with hum on it, grid b follows it, grid c is still."""
    return run_of(rosette, 700e-6 * RAMP + HUM, 350e-6 * RAMP, 0 * RAMP)


def key_of(setup, name):
    return setup.channels.get(name=name).key


def test_statistics_of_a_stretch_that_another_channel_bounds(as_role, rosette, rising):
    client = as_role("engineer")
    a, b = (key_of(rosette, f"R1{grid}") for grid in "ab")
    while_rising = {"kind": "rising", "lead": b, "from_share": 0.2, "to_share": 0.6}
    answer = added(
        client, rosette, kind="statistics", channel=a, stretch=while_rising, above=200e-6
    )
    assert answer.status_code == 201, answer.content
    state = one(client, rising, "statistics")
    found = values(state)
    assert found["min"] == pytest.approx(140e-6, abs=6e-6)
    assert found["max"] == pytest.approx(420e-6, abs=6e-6)
    assert found["mean"] == pytest.approx(280e-6, rel=2e-3)
    assert found["pp"] == pytest.approx(found["max"] - found["min"])
    assert found["t"] == pytest.approx(0.4 * T[-1], abs=2e-3)
    assert found["t>"] == pytest.approx((420 - 200) / 700 * T[-1], abs=0.02)
    assert state["details"]["from_s"] == pytest.approx(0.2 * T[-1], abs=2e-3)


def test_what_lies_outside_its_limits_is_said(as_role, rosette, rising):
    client = as_role("engineer")
    a = key_of(rosette, "R1a")
    limits = [{"figure": "highest", "highest": 600e-6}, {"figure": "lowest", "lowest": -1e-4}]
    added(client, rosette, kind="statistics", channel=a, limits=limits)
    state = one(client, rising, "statistics")
    assert state["details"]["outside"] == ["Highest of R1a lies above 600 µm/m."]


@pytest.mark.parametrize(
    ("stretch", "words"),
    [
        ({"kind": "between", "from_s": 50.0, "to_s": 60.0}, "no samples in this stretch"),
        ({"kind": "rising", "lead": "R1c"}, "never rises above nothing"),
        ({"kind": "rising", "lead": "R1b", "from_share": 2.0, "to_share": 3.0}, "never comes to"),
    ],
)
def test_a_stretch_that_the_run_has_not_says_so(as_role, rosette, rising, stretch, words):
    client = as_role("engineer")
    stretch = {k: key_of(rosette, v) if k == "lead" else v for k, v in stretch.items()}
    added(client, rosette, kind="statistics", channel=key_of(rosette, "R1a"), stretch=stretch)
    assert words in one(client, rising, "statistics")["problem"]["title"]


def test_a_spectrum_finds_the_hum_and_how_much_it_makes(as_role, rosette, rising):
    client = as_role("engineer")
    a = key_of(rosette, "R1a")
    answer = added(
        client, rosette, kind="spectrum", channel=a, window="flat_top", resolution_hz=2.0,
        band_from_hz=40.0, band_to_hz=60.0,
    )  # fmt: skip
    assert answer.status_code == 201, answer.content
    state = one(client, rising, "spectrum")
    found = values(state)
    near = min(state["details"]["peaks"], key=lambda p: abs(p["hz"] - 50))
    assert near["hz"] == 50.0
    assert near["value"] == pytest.approx(4e-6, rel=0.01)
    assert found["RMS"] == pytest.approx(4e-6 / np.sqrt(2), rel=0.05)
    assert state["details"]["parts"] == 7


def test_a_stretch_shorter_than_a_part_has_no_spectrum(as_role, rosette, rising):
    client = as_role("engineer")
    short = {"kind": "between", "from_s": 0.0, "to_s": 0.2}
    a = key_of(rosette, "R1a")
    added(client, rosette, kind="spectrum", channel=a, stretch=short)
    assert "long enough and whole" in one(client, rising, "spectrum")["problem"]["title"]
