"""The made-up lab of the demo: people, bench, sensors, the coupon project."""

from datetime import date

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Role, User
from yoke_server.bench.models import Actuator, Amplifier, Bench, Link
from yoke_server.derive.models import TensionRecipeRow
from yoke_server.wire.models import Project, Sensor, Setup
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
SENSORS = [
    dict(
        kind="load cell", name="Load cell 25 kN", serial="LC-2207", quantity="force",
        arrangement="full_axial", wires=6, resistance_ohm=350, rated_output_mv_v=2.0,
        capacity=25e3, calibrated_on=date(2026, 3, 14), due_on=date(2027, 3, 14), cores=SIX_WIRE,
    ),
    dict(
        kind="extensometer", name="Clip-on extensometer 50 mm", serial="EX-0351",
        quantity="extension", arrangement="full_bending", wires=6, resistance_ohm=350,
        rated_output_mv_v=2.0, capacity=10e-3, calibrated_on=date(2026, 6, 2),
        due_on=date(2027, 6, 2), cores=SIX_WIRE,
    ),
    dict(
        kind="strain gauge", name="Gauge 350 Ω, k 2.08", serial="lot 0817-1",
        quantity="strain", arrangement="quarter", wires=3, resistance_ohm=350,
        gauge_factor=2.08, cores=QUARTER,
    ),
    dict(
        kind="strain gauge", name="Gauge 350 Ω, k 2.08, back face", serial="lot 0817-2",
        quantity="strain", arrangement="quarter", wires=3, resistance_ohm=350,
        gauge_factor=2.08, cores=QUARTER,
    ),
    dict(
        kind="strain gauge", name="Gauge 120 Ω, k 2.05", serial="lot 0744-1",
        quantity="strain", arrangement="quarter", wires=3, resistance_ohm=120,
        gauge_factor=2.05, cores=QUARTER,
    ),
    dict(
        kind="load cell", name="Load cell 10 kN", serial="LC-1180", quantity="force",
        arrangement="full_axial", wires=6, resistance_ohm=350, rated_output_mv_v=2.0,
        capacity=10e3, calibrated_on=date(2025, 10, 20), due_on=date(2026, 10, 20),
        cores=SIX_WIRE,
    ),
]  # fmt: skip


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


def bench(port: int) -> Bench:
    """The shed bench: one amplifier, one load frame, both on this computer."""
    found, _ = Bench.objects.get_or_create(name="Shed bench")
    Amplifier.objects.update_or_create(
        bench=found, label="A1", defaults={"host": "127.0.0.1", "port": port, "link": Link.UNKNOWN}
    )
    Actuator.objects.update_or_create(
        bench=found, defaults={"label": "Load frame", "host": "127.0.0.1", "port": port + 2}
    )
    return found


@transaction.atomic
def load(port: int) -> Setup:
    """Everything but runs; loading again changes nothing but the bench's port."""
    engineer = people()["engineer"]
    shed = bench(port)
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
    TensionRecipeRow.objects.create(setup=setup)
    shed.active_setup = setup
    shed.save(update_fields=["active_setup"])
    actor = Actor(engineer)
    amplifier = shed.amplifiers.get()
    for number, (name, serial) in enumerate(
        [("F", "LC-2207"), ("e clip", "EX-0351"), ("SG1", "lot 0817-1")], start=1
    ):
        channel = add_channel(
            actor, setup.pk, amplifier_id=amplifier.pk, input_number=number,
            sensor_id=sensors[serial].pk, name=name,
        )  # fmt: skip
        if name == "SG1":
            change_channel(actor, channel.pk, range_mv_v=40.0)
    return setup
