"""The made-up lab of the demo: people, benches, sensors, the coupon and the fork project."""

import math
from collections.abc import Mapping
from datetime import UTC, date, datetime
from typing import Any

from django.db import transaction
from yoke_core.bridge.circuit import Circuit
from yoke_core.bridge.heating import Substrate

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Role, User
from yoke_server.bench.models import Bench
from yoke_server.bench.services import add_device, save_stand_ins
from yoke_server.calibrate.services import change_scaling
from yoke_server.demo import library as demo_library
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.inputs.bridge.sensors import BridgeTransducer, GaugeSensor, RosetteSensor
from yoke_server.kinds.inputs.conditioning import BridgeConditioning
from yoke_server.kinds.inputs.loop.sensor import LoopTransmitter
from yoke_server.kinds.inputs.thermometer.sensor import PlatinumSensor
from yoke_server.kinds.inputs.voltage import VoltageOutput
from yoke_server.kinds.keep_rules.bursts import Bursts, BurstUnit
from yoke_server.kinds.keep_rules.changes import ChangeStep, WhenChanged
from yoke_server.kinds.keep_rules.everything import Everything
from yoke_server.kinds.keep_rules.turning_points import TurningPoints
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.hold import HoldLeg
from yoke_server.kinds.legs.repeat import RepeatLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.motions.force_ramp import ForceRamp
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.motions.ramp import PositionRamp
from yoke_server.kinds.specimens.flat import FlatPiece
from yoke_server.kinds.specimens.part import PartPiece
from yoke_server.kinds.steps.filters import LowPass
from yoke_server.kinds.stops.force_drop import ForceDrop
from yoke_server.kinds.stops.motion_end import MotionEnd
from yoke_server.sensors.models import Sensor
from yoke_server.setups.computed import add_computed
from yoke_server.setups.models import Project, Setup, SetupDevice
from yoke_server.setups.services import keep_revision, take_bench
from yoke_server.wire.services import add_channel, change_channel

SIX_WIRE = [
    {"colour": "brown", "pin": 1, "function": "excitation +"},
    {"colour": "yellow", "pin": 2, "function": "sense +"},
    {"colour": "white", "pin": 3, "function": "signal +"},
    {"colour": "green", "pin": 4, "function": "signal −"},
    {"colour": "grey", "pin": 5, "function": "sense −"},
    {"colour": "blue", "pin": 6, "function": "excitation −"},
]
QUARTER = [
    {"colour": "brown", "pin": 1, "function": "excitation +"},
    {"colour": "white", "pin": 4, "function": "signal −"},
    {"colour": "green", "pin": 5, "function": "completion"},
]
LOOP = [
    {"colour": "brown", "pin": 1, "function": "supply +"},
    {"colour": "blue", "pin": 2, "function": "loop back"},
]
HALF = [
    {"colour": "brown", "pin": 1, "function": "excitation +"},
    {"colour": "white", "pin": 4, "function": "signal −"},
    {"colour": "green", "pin": 6, "function": "excitation −"},
]
THREE_WIRE = [
    {"colour": "red", "pin": 1, "function": "current"},
    {"colour": "white", "pin": 2, "function": "back"},
    {"colour": "white", "pin": 3, "function": "back, lead"},
]
GRID = 16.8e-6  # m², 6 by 2.8 mm
WITHIN = 0.01  # of their gauge factor, as their packages say
SENSORS: list[dict[str, object]] = [
    dict(
        kind="load cell", name="Load cell 25 kN", serial="LC-2207", quantity="force",
        spec=BridgeTransducer(rated_output=2e-3, capacity=25e3, at_rest=-1.3e-5),
        calibrated_on=date(2026, 3, 14), due_on=date(2027, 3, 14), cores=SIX_WIRE,
    ),
    dict(
        kind="extensometer", name="Clip-on extensometer 50 mm", serial="EX-0351",
        quantity="extension",
        spec=BridgeTransducer(
            circuit=Circuit.FULL_BENDING, rated_output=2e-3, capacity=10e-3, at_rest=2.1e-5
        ),
        calibrated_on=date(2026, 6, 2), due_on=date(2027, 6, 2), cores=SIX_WIRE,
    ),
    dict(
        kind="strain gauge", name="Gauge 350 Ω, k 2.08", serial="lot 0817-1",
        quantity="strain", cores=QUARTER,
        spec=GaugeSensor(
            gauge_factor=2.08, gauge_factor_tolerance=WITHIN, grid_area_m2=GRID
        ),
    ),
    dict(
        kind="strain gauge", name="Gauge 350 Ω, k 2.08, back face", serial="lot 0817-2",
        quantity="strain", cores=QUARTER,
        spec=GaugeSensor(
            gauge_factor=2.08, gauge_factor_tolerance=WITHIN, grid_area_m2=GRID
        ),
    ),
    dict(
        kind="strain gauge", name="Gauge 120 Ω, k 2.05", serial="lot 0744-1",
        quantity="strain", spec=GaugeSensor(
            resistance_ohm=120.0, gauge_factor=2.05, grid_area_m2=GRID,
            gauge_factor_tolerance=WITHIN,
        ),
        cores=QUARTER,
    ),
    dict(
        kind="load cell", name="Load cell 10 kN", serial="LC-1180", quantity="force",
        spec=BridgeTransducer(rated_output=2e-3, capacity=10e3),
        calibrated_on=date(2025, 10, 20), due_on=date(2026, 10, 20), cores=SIX_WIRE,
    ),
    dict(
        kind="displacement", name="Displacement ±50 mm, 4-20 mA", serial="DT-0419",
        quantity="displacement", spec=LoopTransmitter(at_4_ma=-50e-3, at_20_ma=50e-3),
        calibrated_on=date(2026, 5, 11), due_on=date(2027, 5, 11), cores=LOOP,
    ),
    dict(
        kind="pressure", name="Pressure 0 to 250 bar, 4-20 mA", serial="PT-1731",
        quantity="pressure", spec=LoopTransmitter(at_4_ma=0.0, at_20_ma=250e5),
        calibrated_on=date(2026, 2, 4), due_on=date(2027, 2, 4), cores=LOOP,
    ),
    dict(
        kind="force output", name="Load frame's force output, 10 V", serial="LF-1187",
        quantity="force", spec=VoltageOutput(capacity=25e3),
        cores=[
            {"colour": "brown", "pin": 1, "function": "output +"},
            {"colour": "blue", "pin": 2, "function": "output −"},
        ],
    ),
    dict(
        kind="temperature", name="Pt100, 3-wire", serial="TP-0088", quantity="temperature",
        spec=PlatinumSensor(), cores=THREE_WIRE,
    ),
]  # fmt: skip

FORK_SENSORS: list[dict[str, object]] = [
    dict(
        kind="load cell", name="Load cell 10 kN, axle", serial="LC-1192", quantity="force",
        spec=BridgeTransducer(rated_output=2e-3, capacity=10e3, at_rest=1.7e-5),
        calibrated_on=date(2026, 4, 22), due_on=date(2027, 4, 22), cores=SIX_WIRE,
    ),
    dict(
        kind="rosette", name="Rosette 0/45/90, 350 Ω, k 2.08", serial="lot 0902-1",
        quantity="strain",
        spec=RosetteSensor(
            angles=[0.0, math.pi / 4, math.pi / 2], gauge_factor=2.08, grid_area_m2=7.5e-6,
            gauge_factor_tolerance=WITHIN,
        ),
        cores=QUARTER,
    ),
    dict(
        kind="strain gauge", name="Bending pair 350 Ω, k 2.05", serial="lot 0790-1",
        quantity="strain",
        spec=GaugeSensor(
            circuit=Circuit.HALF_BENDING, gauge_factor=2.05, grid_area_m2=GRID,
            gauge_factor_tolerance=WITHIN,
        ), cores=HALF,
    ),
    dict(
        kind="strain gauge", name="Gauge 120 Ω, k 2.05, 12 m of lead", serial="lot 0744-2",
        quantity="strain",
        spec=GaugeSensor(
            resistance_ohm=120.0, gauge_factor=2.05, wires=2, lead_length_m=12.0, grid_area_m2=GRID,
            gauge_factor_tolerance=WITHIN,
        ),
        cores=[QUARTER[0], QUARTER[2]],
    ),
    dict(
        kind="displacement", name="Displacement ±50 mm, 4-20 mA, axle", serial="DT-0433",
        quantity="displacement", spec=LoopTransmitter(at_4_ma=-50e-3, at_20_ma=50e-3),
        calibrated_on=date(2026, 5, 11), due_on=date(2027, 5, 11), cores=LOOP,
    ),
    dict(
        kind="pressure", name="Pressure 0 to 250 bar, 4-20 mA, servo", serial="PT-1744",
        quantity="pressure", spec=LoopTransmitter(at_4_ma=0.0, at_20_ma=250e5),
        calibrated_on=date(2026, 2, 4), due_on=date(2027, 2, 4), cores=LOOP,
    ),
    dict(
        kind="temperature", name="Pt100, 3-wire, crown", serial="TP-0091",
        quantity="temperature", spec=PlatinumSensor(), cores=THREE_WIRE,
    ),
]  # fmt: skip

# In series with the axle's load cell, which is calibrated against it.
REFERENCE: dict[str, object] = dict(
    kind="load cell", name="Reference cell 10 kN, class 0.5", serial="RC-0207",
    quantity="force", spec=BridgeTransducer(rated_output=2e-3, capacity=10e3, at_rest=-0.6e-5),
    calibrated_on=date(2026, 3, 14), due_on=date(2027, 3, 14), cores=SIX_WIRE,
)  # fmt: skip
# Calibrated by weights on an arm.
TORQUE: dict[str, object] = dict(
    kind="torque sensor", name="Torque sensor 200 N·m", serial="TS-0511", quantity="torque",
    spec=BridgeTransducer(
        circuit=Circuit.FULL_TORSION, rated_output=1.5e-3, capacity=200.0, at_rest=1.1e-5
    ),
    cores=SIX_WIRE,
)  # fmt: skip
REFERENCE_CERTIFICATE = dict(
    calibrated_on=date(2026, 3, 14),
    due_on=date(2027, 3, 14),
    rated_output=2e-3,
    expanded=2e-4,
    instrument_class="class 0.5",
)

COUPON_WIRED = [
    ("F", "A1", 1, "LC-2207"),
    ("e clip", "A1", 2, "EX-0351"),
    ("SG1", "A1", 3, "lot 0817-1"),
    ("SG2", "A2", 1, "lot 0817-2"),
]
WIDE = ("SG", "G4")  # strains past yield; 12 m of lead in one arm
FORK_WIRED = [
    ("R1", "A3", 1, "lot 0902-1"),
    ("F axle", "A3", 4, "LC-1192"),
    ("B1", "A3", 5, "lot 0790-1"),
    ("G4", "A3", 6, "lot 0744-2"),
    ("u axle", "M2", 1, "DT-0433"),
    ("P hyd", "M2", 2, "PT-1744"),
    ("T", "M2", 5, "TP-0091"),
]


CELLS_WIRED = [("F axle", "A3", 4, "LC-1192"), ("F ref", "A3", 7, "RC-0207")]
TORQUE_WIRED = [("M arm", "A3", 8, "TS-0511")]


def people() -> dict[str, User]:
    """One person a role; passwords are demo-engineer and so on."""
    found = {}
    for role in Role:
        user, fresh = User.objects.get_or_create(username=role.value, defaults={"role": role})
        if fresh:
            user.first_name = role.value.capitalize()
            user.set_password(f"demo-{role.value}")
            user.save()
        found[role.value] = user
    return found


BENCHES = {
    "Shed bench": [
        ("A1", "bridge amplifier"),
        ("A2", "bridge amplifier"),
        ("M1", "measuring module"),
        ("Load frame", "load frame"),
    ],
    "Fork bench": [
        ("A3", "bridge amplifier"),
        ("M2", "measuring module"),
        ("Servo", "servo actuator"),
    ],
}
UNPLACED = 1  # a port where nothing answers, until the rig says its own


def bench(name: str) -> Bench:
    """A bench of the shed, with its stand-ins on this computer."""
    found, _ = Bench.objects.get_or_create(name=name)
    for label, driver in BENCHES[name]:
        device = found.devices.filter(label=label).first()
        port = device.port if device else UNPLACED
        add_device(found, label, driver, host="127.0.0.1", port=port)
    return found


COUPONS = dict(
    name="Tube coupons, aluminium",
    customer="Fernhollow Cargo Cycles",
    article="Tricycle CT-3, down tube, flat coupons 12.5 × 3.0 mm",
    standard="ISO 6892-1",
)
COUPON = dict(
    specimen="C1",
    piece=FlatPiece(width_m=12.5e-3, thickness_m=3e-3, gauge_length_m=50e-3),
    motion=PositionRamp(speed_m_s=1.85e-4, travel_limit_m=12e-3),
    stops=[ForceDrop(share=0.4)],
)
FORK = dict(
    name="Front fork FK-12, static and fatigue",
    customer="Fernhollow Cargo Cycles",
    article="Tricycle CT-3, front fork FK-12",
    standard="In-house plan 31",
)
CELLS = dict(
    name="Load cells of the shed",
    customer="Fernhollow Cargo Cycles",
    article="Load cells, calibrated in series with a reference",
    standard="ISO 376",
)
# A slow beginning, then blocks of cycles, and a look at the zero in the end.
FATIGUE = Programme(
    legs=[
        ForceLeg(force_n=1000.0, rate_n_s=500.0),
        HoldLeg(seconds=3.0),
        WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=2.0, cycles=4),
        WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=6.0, cycles=40),
        RepeatLeg(first=4, times=3),
        ForceLeg(force_n=0.0, rate_n_s=500.0),
        HoldLeg(seconds=2.0),
    ]
)
# Of each channel: from where to where, SI, and what happens beyond that.
FORK_GUARDS = {
    "F axle": (-500.0, 2700.0, GuardAction.HOLD),
    "u axle": (-5e-3, 25e-3, GuardAction.HOLD),
    "R1b": (-900e-6, 1500e-6, GuardAction.WARN),
}
COUPON_GUARDS = {"F": (-2e3, 20e3, GuardAction.HOLD)}
FORK_SETUPS = {
    "Fatigue": dict(
        specimen="FK-12-1",
        piece=PartPiece(),
        motion=FATIGUE,
        stops=[MotionEnd()],
    ),
    "Static": dict(
        specimen="FK-12-1",
        piece=PartPiece(),
        motion=ForceRamp(peak_n=2400.0, rate_n_s=300.0),
        stops=[MotionEnd()],
    ),
}


def _setup(
    actor: Actor,
    project: Project,
    bench: Bench,
    name: str,
    more: dict[str, object],
    wired: list[tuple[str, str, int, str]],
    rates: dict[str, float],
    ground: Substrate,
) -> Setup:
    """A setup with its channels, put on its bench; ``ground`` is what gauges are bonded to."""
    setup = Setup.objects.create(project=project, bench=bench, name=name, **more)
    take_bench(setup, bench)
    devices = {d.label: d for d in bench.devices.all()}
    for label, rate in rates.items():
        SetupDevice.objects.create(setup=setup, device=devices[label], rate_hz=rate)
    for called, device, number, serial in wired:
        plug = devices[device].inputs.get(number=number)
        sensor = Sensor.objects.get(serial=serial)
        add_channel(actor, setup.pk, input_id=plug.pk, sensor_id=sensor.pk, name=called)
        wide = {"conditioning": BridgeConditioning(range_mv_v=40.0)}
        for row in setup.channels.filter(sensor=sensor) if sensor.quantity == "strain" else ():
            bonded = {"wiring": row.wiring.model_copy(update={"ground": ground})}
            change_channel(actor, row.pk, **bonded, **(wide if called.startswith(WIDE) else {}))
    setup.refresh_from_db()
    return setup


@transaction.atomic
def load_coupons() -> Setup:
    """The coupon project on the shed bench; loading again changes nothing."""
    actor, shed = Actor(people()["engineer"]), bench("Shed bench")
    if found := Project.objects.filter(name=COUPONS["name"]).first():
        return found.setups.get()
    add_sensors(SENSORS)
    project = Project.objects.create(**COUPONS)
    made = _setup(
        actor,
        project,
        shed,
        "Tension",
        COUPON,
        COUPON_WIRED,
        {"A1": 1000, "A2": 500},
        Substrate.ALUMINIUM,
    )
    _guard(actor, made, COUPON_GUARDS)
    return made


@transaction.atomic
def load_fork() -> list[Setup]:
    """The fork project on its bench, its static setup first; loading again changes nothing."""
    actor, stand = Actor(people()["engineer"]), bench("Fork bench")
    if found := Project.objects.filter(name=FORK["name"]).first():
        return list(found.setups.order_by("-pk"))
    add_sensors(FORK_SENSORS)
    project = Project.objects.create(**FORK)
    rates = {"A3": 1000.0, "M2": 100.0}
    made = [
        _setup(actor, project, stand, name, more, FORK_WIRED, rates, Substrate.STEEL)
        for name, more in FORK_SETUPS.items()
    ]
    for setup in made:
        _compute(actor, setup)
        _guard(actor, setup, FORK_GUARDS)
    _keep(actor, made[0])
    return made[::-1]


def _guard(
    actor: Actor, setup: Setup, wanted: Mapping[str, tuple[float, float, GuardAction]]
) -> None:
    """Guards of channels by their names."""
    keys = dict(setup.channels.values_list("name", "key"))
    setup.guards = [
        Outside(channel=keys[name], lowest=low, highest=high, action=action)
        for name, (low, high, action) in wanted.items()
    ]
    setup.save(update_fields=["guards"])
    keep_revision(actor, setup, "Set its guards")
    setup.refresh_from_db()


def _keep(actor: Actor, setup: Setup) -> None:
    """What a test of weeks keeps, beside everything of the demo's short one."""
    keys = dict(setup.channels.values_list("name", "key"))
    force, crown = keys["F axle"], keys["T"]
    cycles: dict[str, Any] = {"channel": force, "gate": 400.0}
    setup.keep_rules = [
        Everything(),
        Bursts(unit=BurstUnit.CYCLES, length=6, every=30, **cycles),
        TurningPoints(every=1, **cycles),
        WhenChanged(steps=[ChangeStep(channel=crown, step=0.2)], longest_s=60.0),
    ]
    setup.save(update_fields=["keep_rules"])
    keep_revision(actor, setup, "Set its keep rules")
    setup.refresh_from_db()


# Beside what is wired: stress from the bending pair, and the crown's share of the axle's force.
FORK_COMPUTED = {
    "bending": "B1 * 205 GPa",
    "crown force": "lowpass(F axle, to 50 Hz) * cos(0.33)",
    "R1 ε1": "strain1(R1)",
}
FORK_FILTER = LowPass(corner_hz=40.0)  # of G4, whose long lead picks up hum


def _compute(actor: Actor, setup: Setup) -> None:
    """The computed channels of the fork, and the filter of G4."""
    for name, formula in FORK_COMPUTED.items():
        add_computed(actor, setup.pk, name=name, formula=formula)
    change_scaling(actor, setup.channels.get(name="G4").pk, steps=[FORK_FILTER])
    setup.refresh_from_db()


@transaction.atomic
def load_cells() -> Setup:
    """The axle's load cell beside its reference, and a torque sensor with an arm; gives the
    first. Loading again changes nothing."""
    actor, stand = Actor(people()["engineer"]), bench("Fork bench")
    if found := Project.objects.filter(name=CELLS["name"]).first():
        return found.setups.get(name="Axle cell")
    add_sensors([*FORK_SENSORS, REFERENCE, TORQUE])
    reference = Sensor.objects.get(serial=REFERENCE["serial"])
    reference.certificates.get_or_create(number="K-26-0317", defaults=REFERENCE_CERTIFICATE)
    project = Project.objects.create(**CELLS)
    _, axle = (
        _setup(
            actor,
            project,
            stand,
            name,
            {"specimen": serial, "piece": PartPiece(), "motion": NoMotion(), "stops": []},
            wired,
            {"A3": 1000.0},
            Substrate.STEEL,
        )
        for name, serial, wired in (
            ("Torque arm", "TS-0511", TORQUE_WIRED),
            ("Axle cell", "LC-1192", CELLS_WIRED),
        )
    )
    return axle


def load(ports: dict[str, int]) -> None:
    """Everything but runs; loading again changes nothing but where the stand-ins are."""
    load_cells()
    load_fork()
    load_coupons()
    demo_library.load(datetime.now(UTC).date())
    save_stand_ins(ports)


def add_sensors(sensors: list[dict[str, object]]) -> None:
    for sensor in sensors:
        Sensor.objects.get_or_create(serial=sensor["serial"], defaults=sensor)
