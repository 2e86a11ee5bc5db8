"""The made-up lab of the demo: people, bench, sensors, the coupon project."""

from datetime import date

from django.db import transaction
from yoke_core.bridge.circuit import Circuit

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Role, User
from yoke_server.bench.models import Bench
from yoke_server.bench.services import add_device, place_stand_ins
from yoke_server.wire.models import Project, Sensor, Setup, SetupDevice
from yoke_server.wire.services import add_channel, change_channel
from yoke_server.wire.specs.conditioning import BridgeConditioning
from yoke_server.wire.specs.sensor import (
    BridgeTransducer,
    GaugeSensor,
    LoopTransmitter,
    PlatinumSensor,
    VoltageOutput,
)

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
THREE_WIRE = [
    {"colour": "red", "pin": 1, "function": "current"},
    {"colour": "white", "pin": 2, "function": "back"},
    {"colour": "white", "pin": 3, "function": "back, lead"},
]
SENSORS = [
    dict(
        kind="load cell", name="Load cell 25 kN", serial="LC-2207", quantity="force",
        spec=BridgeTransducer(rated_output=2e-3, capacity=25e3),
        calibrated_on=date(2026, 3, 14), due_on=date(2027, 3, 14), cores=SIX_WIRE,
    ),
    dict(
        kind="extensometer", name="Clip-on extensometer 50 mm", serial="EX-0351",
        quantity="extension",
        spec=BridgeTransducer(circuit=Circuit.FULL_BENDING, rated_output=2e-3, capacity=10e-3),
        calibrated_on=date(2026, 6, 2), due_on=date(2027, 6, 2), cores=SIX_WIRE,
    ),
    dict(
        kind="strain gauge", name="Gauge 350 Ω, k 2.08", serial="lot 0817-1",
        quantity="strain", spec=GaugeSensor(gauge_factor=2.08), cores=QUARTER,
    ),
    dict(
        kind="strain gauge", name="Gauge 350 Ω, k 2.08, back face", serial="lot 0817-2",
        quantity="strain", spec=GaugeSensor(gauge_factor=2.08), cores=QUARTER,
    ),
    dict(
        kind="strain gauge", name="Gauge 120 Ω, k 2.05", serial="lot 0744-1",
        quantity="strain", spec=GaugeSensor(resistance_ohm=120.0, gauge_factor=2.05),
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

WIRED = [
    ("F", "A1", 1, "LC-2207"),
    ("e clip", "A1", 2, "EX-0351"),
    ("SG1", "A1", 3, "lot 0817-1"),
    ("SG2", "A2", 1, "lot 0817-2"),
]


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


DEVICES = [
    ("A1", "bridge amplifier"),
    ("A2", "bridge amplifier"),
    ("M1", "measuring module"),
    ("Load frame", "load frame"),
]
UNPLACED = 1  # a port where nothing answers, until the rig says its own


def bench() -> Bench:
    """The shed bench: two amplifiers, a measuring module and a load frame, on this computer."""
    found, _ = Bench.objects.get_or_create(name="Shed bench")
    for label, driver in DEVICES:
        device = found.devices.filter(label=label).first()
        port = device.port if device else UNPLACED
        add_device(found, label, driver, host="127.0.0.1", port=port)
    return found


@transaction.atomic
def load(ports: dict[str, int] | None = None) -> Setup:
    """Everything but runs; loading again changes nothing but where the stand-ins are."""
    engineer = people()["engineer"]
    shed = bench()
    place_stand_ins(ports or {})
    project, fresh = Project.objects.get_or_create(
        name="Tube coupons, aluminium",
        defaults=dict(
            customer="Fernhollow Cargo Cycles",
            article="Tricycle CT-3, down tube, flat coupons 12.5 × 3.0 mm",
            standard="ISO 6892-1",
        ),
    )
    if not fresh:
        return project.setups.get()
    sensors = {s["serial"]: Sensor.objects.create(**s) for s in SENSORS}
    setup = Setup.objects.create(project=project, bench=shed, name="Tension")
    shed.active_setup = setup
    shed.save(update_fields=["active_setup"])
    actor = Actor(engineer)
    amplifiers = {d.label: d for d in shed.devices.all()}
    SetupDevice.objects.create(setup=setup, device=amplifiers["A1"], rate_hz=1000)
    SetupDevice.objects.create(setup=setup, device=amplifiers["A2"], rate_hz=500)
    for name, device, number, serial in WIRED:
        plug = amplifiers[device].inputs.get(number=number)
        channel = add_channel(
            actor, setup.pk, input_id=plug.pk, sensor_id=sensors[serial].pk, name=name
        )
        if name.startswith("SG"):
            change_channel(actor, channel.pk, conditioning=BridgeConditioning(range_mv_v=40.0))
    setup.refresh_from_db()
    return setup
