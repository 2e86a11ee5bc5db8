"""Each fault that the rig can show against its diagnosis; core and rig share no code."""

from itertools import combinations

import numpy as np
import pytest
from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.causes import Cause, Kind, Sensor
from yoke_core.wiring.check import check
from yoke_core.wiring.findings import What
from yoke_core.wiring.probe import PinReadings, Probe, insulation_ohm, leak_position
from yoke_core.wiring.samples import facts_of_samples
from yoke_core.wiring.wiring_case import WiringError, wiring_case
from yoke_rig.amplifier import Amplifier, InputSettings
from yoke_rig.faults import read_faults
from yoke_rig.network import Cable, Wiring
from yoke_rig.plugs import Plug
from yoke_rig.world import CouponWorld

RANGE = 8e-3
STEPS, BLOCKS, SETTLING = 50, 10, 3
# circuit, wires, mode of the amplifier, ohm, and what the rig has plugged in.
SENSORS = {
    "quarter, 3-wire": (Circuit.QUARTER, 3, "QUARTER", 350.0,
                        Plug(Wiring.QUARTER_3, "gauge", 350.0, 1.5e-4, 2.08, Cable(0.77))),
    "quarter, 2-wire": (Circuit.QUARTER, 2, "QUARTER", 120.0,
                        Plug(Wiring.QUARTER_2, "gauge", 120.0, 0.4e-4, 2.05, Cable(0.31))),
    "half, 3-wire": (Circuit.HALF_BENDING, 3, "HALF", 350.0,
                     Plug(Wiring.HALF_3, "gauge", 350.0, -0.8e-4, 2.05, Cable(0.77))),
    "half, 5-wire": (Circuit.HALF_POISSON, 5, "HALF", 350.0,
                     Plug(Wiring.HALF_5, "gauge", 350.0, -0.8e-4, 2.05, Cable(1.5))),
    "full, 6-wire": (Circuit.FULL_AXIAL, 6, "FULL", 350.0,
                     Plug(Wiring.FULL_6, "force", 350.0, -1.3e-5, 8e-8, Cable(0.77))),
    "full, 4-wire": (Circuit.FULL_AXIAL, 4, "FULL", 350.0,
                     Plug(Wiring.FULL_4, "force", 350.0, -1.3e-5, 8e-8, Cable(0.39))),
}  # fmt: skip
COMMON = {
    "nothing": {(Kind.NOTHING,)},
    "resistance 0.343": {(Kind.RESISTANCE_OFF,)},
    "torn 1": {(Kind.OPEN_ARM, 1)},
    "leak 0.5 0.7": {(Kind.SHORTED,)},
    "leak 2e7 0.7": {(Kind.POOR_INSULATION,)},
    "offset 9e-3": {(Kind.CLIPPED,)},
    "hum 3e-5": {(Kind.HUM,)},
    "drift 2e-6": {(Kind.DRIFT,)},
    "flat": {(Kind.FLAT,)},
}


def broken(*pins):
    return {f"broken {p}": {(Kind.BROKEN_CORE, p)} for p in pins}


def swapped(*pairs):
    return {f"swapped {a} {b}": {(Kind.SWAPPED, a, b)} for a, b in pairs}


def arms(*numbers):
    return {f"arm {a} 1.03": {(Kind.ARM_OFF, a)} for a in numbers}


def others(**wires):
    return {f"other {n}": {(Kind.OTHER_CIRCUIT, c)} for c, n in wires.items()}


ALL = ((1, 3), (1, 4), (3, 6), (4, 6))
FAULTS = {
    "quarter, 3-wire": COMMON | broken(1, 4, 5) | swapped((1, 4), (1, 5))
    | {"arm 1 1.03": {(Kind.RESISTANCE_OFF,)}} | others(half_bending=2, full_axial=6),
    "quarter, 2-wire": COMMON | broken(1, 5) | {"arm 1 0.97": {(Kind.RESISTANCE_OFF,)}}
    | others(half_bending=2, full_axial=4),
    "half, 3-wire": COMMON | broken(1, 4, 6) | swapped((1, 4), (4, 6)) | arms(1, 2)
    | {"torn 2": {(Kind.OPEN_ARM, 2)}} | others(quarter=1, full_axial=6),
    "half, 5-wire": COMMON | broken(1, 2, 4, 5, 6) | swapped((1, 4), (4, 6), (2, 5)) | arms(1, 2)
    | {"torn 2": {(Kind.OPEN_ARM, 2)}} | others(quarter=1, full_axial=6),
    "full, 6-wire": COMMON | broken(1, 2, 3, 4, 5, 6) | swapped((1, 6), (3, 4), (2, 5), *ALL)
    | arms(1, 2, 3, 4) | {f"torn {a}": {(Kind.OPEN_ARM, a)} for a in (2, 3, 4)}
    | others(quarter=1, half_bending=2),
    "full, 4-wire": COMMON | broken(1, 3, 4, 6) | swapped((1, 6), (3, 4), *ALL)
    | arms(1, 2, 3, 4) | {f"torn {a}": {(Kind.OPEN_ARM, a)} for a in (2, 3, 4)}
    | others(quarter=1, half_bending=2),
}  # fmt: skip


@pytest.fixture(scope="module")
def world():
    """What an unloaded coupon feels, block after block."""
    made = CouponWorld(seed=3)
    return [made.advance(STEPS) for _ in range(BLOCKS + SETTLING)]


def verdict(name, faults, world, *, seed=5, core_ohm=None, rest_known=True):
    circuit, wires, mode, ohm, plug = SENSORS[name]
    settings = InputSettings()
    amp = Amplifier(plugs=(plug,), inputs=[settings], seed=seed)
    settings.bridge, settings.completion = mode, ohm
    amp.pretend(1, read_faults(faults))
    blocks = [amp.next_block(state) for state in world]
    ratios = np.concatenate([b.counts[:, 0] for b in blocks[SETTLING:]]) / (2**23 - 1.0) * RANGE
    samples = np.where(np.abs(ratios) < RANGE * (1 - 1e-6), ratios, np.inf)
    probe = Probe(*(PinReadings(*(float(x[0]) for x in pins)) for pins in amp.probe(1)))
    sensor = Sensor(circuit, wires, ohm, core_ohm or plug.cable.core, ohm, settings.excitation)
    rest = plug.unbalance if name.startswith("full") and rest_known else None
    return check(sensor, probe, facts_of_samples(samples, 1000.0)[0], RANGE, rest)


def is_named(wanted, causes):
    """Whether all wanted causes are among those named; signal or excitation turned is one."""
    return all(any(_same(w, c) for c in causes) for w in wanted)


def _same(wanted, cause):
    kind, *which = wanted
    if kind is Kind.SWAPPED and tuple(which) in ((3, 4), (1, 6)) and cause.kind is Kind.TURNED:
        return True
    numbers = [*cause.pins, *cause.arms] if kind is not Kind.OTHER_CIRCUIT else []
    text = cause.circuit.partition("/")[0]
    return cause.kind is kind and all(w in numbers or w == text for w in which)


def told(wanted, found):
    """Named as it is, or as one of the causes that read alike; nothing else is blamed."""
    explanations = (found.causes, *found.others)
    return any(len(e) == len(wanted) and is_named(wanted, e) for e in explanations)


@pytest.mark.parametrize("name", SENSORS)
def test_a_well_wired_sensor_is_well(name, world):
    for seed in range(3):
        found = verdict(name, "", world, seed=seed)
        assert (found.causes, found.others) == ((), ())
        assert all(f.passed for f in found.findings)


def test_every_single_fault_is_told(world):
    """At least 95 in 100 over all circuits; the share is printed."""
    cases = [(name, fault, wanted) for name in SENSORS for fault, wanted in FAULTS[name].items()]
    missed = [(n, f, v.causes) for n, f, w in cases if not told(w, v := verdict(n, f, world))]
    share = 1 - len(missed) / len(cases)
    print(f"\nsingle faults told apart: {share:.1%} of {len(cases)}; not: {missed}")
    assert share >= 0.95


def pairs(name):
    """Faults that can be there together: not two of the same core, arm or kind of plug."""
    for (one, first), (other, second) in combinations(FAULTS[name].items(), 2):
        whole = {"nothing", "other", "resistance"}
        kinds = {one.split()[0], other.split()[0]}
        if len(kinds) == 1 and kinds & (whole | {"swapped", "leak", "arm"}):
            continue
        if "nothing" in kinds or kinds in ({"resistance", "arm"}, {"other", "swapped"}):
            continue
        yield f"{one}, {other}", first | second, (first, second)


def hides(found, both):
    """Whether one fault alone is told: where it is mended, the next check tells the other."""
    return any(told(one, found) for one in both)


def test_pairs_of_faults_are_told(world):
    """At least 80 in 100 over all circuits, of those in which no fault hides the other."""
    right = hidden = 0
    missed = []
    for name in SENSORS:
        for fault, wanted, both in pairs(name):
            found = verdict(name, fault, world)
            if told(wanted, found):
                right += 1
            elif hides(found, both):
                hidden += 1
            else:
                missed.append((name, fault, found.causes))
    seen = right + len(missed)
    print(f"\npairs told apart: {right / seen:.1%} of {seen}; {hidden} hide one another")
    print(*missed, sep="\n")
    assert right / seen >= 0.8


@pytest.mark.parametrize(
    ("name", "fault", "ohm"),
    [
        ("quarter, 3-wire", "resistance 0.34286", 120.0),
        ("quarter, 2-wire", "resistance 2.9167", 350.0),
        ("quarter, 3-wire", "arm 1 1.025", 358.75),
        ("half, 3-wire", "arm 2 0.96", 336.0),
        ("full, 6-wire", "resistance 2.8571", 1000.0),
    ],
)
def test_the_resistance_found_is_the_one_that_is_there(name, fault, ohm, world):
    (cause,) = verdict(name, fault, world).causes
    assert cause.value == pytest.approx(ohm, rel=0.006)


@pytest.mark.parametrize(("fault", "pins"), [("swapped 2 5", (2, 5)), ("swapped 1 6", (1, 6))])
def test_sense_cores_and_excitation_cores_swapped_read_alike_but_for_the_sign(fault, pins, world):
    """Told apart by the output that the transducer is known to have without load."""
    found = verdict("full, 6-wire", fault, world, rest_known=True)
    assert (found.causes, found.others) == ((Cause(Kind.SWAPPED, pins),), ())
    unknown = verdict("full, 6-wire", fault, world, rest_known=False)
    named = {c.pins for explained in (unknown.causes, *unknown.others) for c in explained}
    assert named == {(2, 5), (1, 6)}


@pytest.mark.parametrize("arm", [1, 2, 3, 4])
def test_a_shorted_grid_is_that_grid(arm, world):
    found = verdict("full, 6-wire", f"arm {arm} 0.001", world)
    assert [(c.kind, c.arms) for c in found.causes] == [(Kind.ARM_OFF, (arm,))]
    assert found.causes[0].value == pytest.approx(0.35, abs=1.0)


@pytest.mark.parametrize("pin", [1, 6])
def test_a_bad_core_is_measured(pin, world):
    found = verdict("full, 6-wire", f"core {pin} 5", world)
    (cause,) = found.causes
    assert (cause.kind, cause.pins) == (Kind.BAD_CORE, (pin,))
    assert cause.value == pytest.approx(5.0, abs=0.3)  # more than the others
    assert [f.passed for f in found.findings if f.pins == (pin,)] == [False]


@pytest.mark.parametrize("name", ["full, 6-wire", "quarter, 3-wire", "half, 5-wire"])
def test_a_longer_cable_than_was_set_is_measured(name, world):
    core = SENSORS[name][4].cable.core
    (cause,) = verdict(name, "", world, core_ohm=core / 4).causes
    assert cause.kind is Kind.CABLE_OFF
    assert cause.value == pytest.approx(core, rel=0.03)


@pytest.mark.parametrize(
    ("name", "fault"),
    [
        ("full, 6-wire", "bridged 1 6 100"),
        ("quarter, 3-wire", "bridged 4 6 300"),
        ("half, 5-wire", "bridged 1 4 500, bridged 4 6 300"),
    ],
)
def test_what_nothing_explains_is_not_given_a_name(name, fault, world):
    """Resistors between pins, which no sensor has."""
    assert [c.kind for c in verdict(name, fault, world).causes] == [Kind.UNKNOWN]


def test_another_sensor_is_told_whatever_its_cable_is(world):
    """The cable that is set is twice as long as that of what is plugged in."""
    found = verdict("quarter, 3-wire", "other 6", world, core_ohm=1.54)
    assert found.causes == (Cause(Kind.OTHER_CIRCUIT, circuit="full_axial/6"),)


def test_findings_measure_core_by_core(world):
    found = verdict("quarter, 3-wire", "broken 5", world)
    by_pin = {f.pins: f for f in found.findings if f.what is What.CORE}
    assert by_pin[(5,)].passed is False
    well = {f.what: f for f in verdict("quarter, 3-wire", "", world).findings}
    assert well[What.ARM].value == pytest.approx(350.77 + 0.21, abs=0.1)  # with its unbalance
    assert well[What.COMPLETION].value == pytest.approx(350.0, abs=0.1)
    assert well[What.CORE].value == pytest.approx(0.77, abs=0.05)


def reading(leak):
    return PinReadings(0, 0, 0, 0, 0, leak)


@pytest.mark.parametrize(("ohm", "share"), [(0.0, 0.5), (5e3, 0.9), (2e7, 0.75), (5e8, 1.0)])
def test_insulation_and_its_place_by_ohms_law(ohm, share):
    plus, minus = ((10 + sign * 5 * share) / (1e6 + ohm) for sign in (1, -1))
    probe = Probe(reading(plus), reading(minus), reading(plus))
    assert insulation_ohm(probe) == pytest.approx(ohm, rel=1e-9, abs=1e-3)
    assert leak_position(probe, 5.0) == pytest.approx(share)


def test_a_bridge_needs_its_cores():
    with pytest.raises(WiringError, match="at least 4 wires, not 3"):
        wiring_case(Circuit.FULL_AXIAL, 3)


RATE, SECONDS = 1000.0, 2.0
T = np.arange(int(RATE * SECONDS)) / RATE


def test_samples_give_back_what_they_were_made_of():
    noise = np.random.default_rng(2).normal(0, 1e-6, T.size)
    hum = 8e-6 * np.sin(2 * np.pi * 50 * T) + 2e-6 * np.sin(2 * np.pi * 150 * T)
    (facts,) = facts_of_samples(1e-3 + noise + hum + 5e-6 * (T - 1), RATE)
    assert facts.mean == pytest.approx(1e-3, abs=1e-7)
    assert facts.hum == pytest.approx(np.hypot(8e-6, 2e-6) / np.sqrt(2), rel=0.03)
    assert facts.hum_hz == 50
    assert facts.drift == pytest.approx(5e-6, rel=0.05)
    assert facts.noise == pytest.approx(1e-6, rel=0.1)


def test_noise_alone_has_neither_hum_nor_drift():
    for seed in range(20):
        noise = np.random.default_rng(seed).normal(0, 1e-6, T.size)
        (facts,) = facts_of_samples(noise, RATE)
        assert (facts.hum, facts.drift, facts.flat) == (0, 0, False)


@pytest.mark.parametrize("seconds", [0.5, 1.0, 2.0])
def test_hum_is_no_drift(seconds):
    t = np.arange(int(RATE * seconds)) / RATE
    noise = np.random.default_rng(4).normal(0, 1e-7, t.size)
    for phase in (0.0, 1.0, 2.5):
        (facts,) = facts_of_samples(1e-4 * np.sin(2 * np.pi * 50 * t + phase) + noise, RATE)
        assert facts.drift == 0
        assert facts.hum == pytest.approx(1e-4 / np.sqrt(2), rel=0.02)


def test_clipped_samples_are_left_out_and_said():
    x = np.stack([np.where(T < 1, np.inf, 2e-3), np.full(T.size, np.inf), np.full(T.size, 1e-3)])
    part, all_clipped, still = facts_of_samples(x, RATE)
    assert (part.clipped, part.mean) == (0.5, pytest.approx(2e-3))
    assert all_clipped.clipped == 1
    assert np.isnan(all_clipped.mean)
    assert (still.flat, part.flat, all_clipped.flat) == (True, False, False)
