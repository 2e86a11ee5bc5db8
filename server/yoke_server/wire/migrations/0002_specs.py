"""Columns of a bridge channel become specs by kind; signals are in SI from here on."""


from django.db import migrations, models
from django.db.migrations.operations.base import Operation


def to_specs(apps, schema_editor):
    from yoke_server.setups.document import specs_of_columns

    for row in apps.get_model("wire", "Channel").objects.all():
        columns = {f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields}
        found = specs_of_columns(columns)
        row.wiring, row.conditioning = found["wiring"], found["conditioning"]
        row.scaling = found["scaling"]
        row.save(update_fields=["wiring", "conditioning", "scaling"])
    for row in apps.get_model("wire", "Sensor").objects.all():
        spec = {"circuit": row.arrangement, "wires": row.wires, "resistance_ohm": row.resistance_ohm}
        if row.gauge_factor is not None:
            spec |= {"kind": "gauge", "gauge_factor": row.gauge_factor}
        else:
            rated = row.rated_output_mv_v * 1e-3
            spec |= {"kind": "transducer", "rated_output": rated, "capacity": row.capacity}
        row.spec = spec
        row.save(update_fields=["spec"])
    scale_zeros(apps, 1e-3)


def to_columns(apps, schema_editor):
    for row in apps.get_model("wire", "Channel").objects.all():
        wiring, conditioning, scaling = row.wiring, row.conditioning, row.scaling
        if wiring["kind"] != "bridge" or scaling["kind"] not in OLD_SCALINGS:
            raise RuntimeError(f"{row.name} is of a kind that the older version does not know.")
        row.arrangement, row.wires = wiring["circuit"], wiring["wires"]
        for name in ("resistance_ohm", "lead_length_m", "lead_ohm_per_m"):
            setattr(row, name, wiring[name])
        row.excitation_v, row.range_mv_v = conditioning["excitation_v"], conditioning["range_mv_v"]
        for name, value in OLD_SCALINGS[scaling["kind"]](scaling).items():
            setattr(row, name, value)
        row.save()
    for row in apps.get_model("wire", "Sensor").objects.all():
        spec = row.spec
        if spec["kind"] not in ("gauge", "transducer"):
            raise RuntimeError(f"{row.name} is of a kind that the older version does not know.")
        row.arrangement, row.wires = spec["circuit"], spec["wires"]
        row.resistance_ohm, row.gauge_factor = spec["resistance_ohm"], spec.get("gauge_factor")
        if "rated_output" in spec:
            row.rated_output_mv_v, row.capacity = spec["rated_output"] * 1e3, spec["capacity"]
        row.save()
    scale_zeros(apps, 1e3)


OLD_SCALINGS = {
    "gauge": lambda s: {
        "scaling_kind": "strain", "gauge_factor": s["gauge_factor"],
        "poisson_ratio": s["poisson_ratio"],
    },
    "rated_output": lambda s: {
        "scaling_kind": "rated_output", "rated_output_mv_v": s["rated_output"] * 1e3,
        "capacity": s["capacity"],
    },
    "two_points": lambda s: {
        "scaling_kind": "two_points", "point_1_mv_v": s["signal_1"] * 1e3,
        "point_1_value": s["value_1"], "point_2_mv_v": s["signal_2"] * 1e3,
        "point_2_value": s["value_2"],
    },
}


def scale_zeros(apps, factor):
    rows = apps.get_model("wire", "Balance").objects.filter(zero__isnull=False)
    rows.update(zero=models.F("zero") * factor)


def forget_undo(apps, schema_editor):
    """Entries of before name columns that are no more: they stay, but cannot be taken back."""
    apps.get_model("ledger", "Entry").objects.update(setup=None)


OF_CHANNEL = {
    "arrangement": models.CharField(max_length=20, default=""),
    "wires": models.PositiveSmallIntegerField(default=6),
    "resistance_ohm": models.FloatField(default=350),
    "excitation_v": models.FloatField(default=5),
    "range_mv_v": models.FloatField(default=8),
    "lead_length_m": models.FloatField(default=6),
    "lead_ohm_per_m": models.FloatField(default=0.128),
    "scaling_kind": models.CharField(max_length=12, default=""),
    "gauge_factor": models.FloatField(null=True),
    "poisson_ratio": models.FloatField(null=True),
    "rated_output_mv_v": models.FloatField(null=True),
    "capacity": models.FloatField(null=True),
    "point_1_mv_v": models.FloatField(null=True),
    "point_1_value": models.FloatField(null=True),
    "point_2_mv_v": models.FloatField(null=True),
    "point_2_value": models.FloatField(null=True),
}
OF_SENSOR = ("arrangement", "wires", "resistance_ohm", "rated_output_mv_v", "capacity",
             "gauge_factor")
POSITIVE = {
    "channel": ("resistance_ohm", "excitation_v", "range_mv_v", "gauge_factor",
                "rated_output_mv_v", "capacity"),
    "sensor": ("resistance_ohm", "rated_output_mv_v", "capacity", "gauge_factor"),
}


def without_constraints() -> list[Operation]:
    names = [(m, f"{m}_{f}_positive") for m, fields in POSITIVE.items() for f in fields]
    return [migrations.RemoveConstraint(m, n) for m, n in [*names, ("channel", "channel_points_differ")]]


def with_defaults() -> list[Operation]:
    """So that, taken back, the columns can be made before they are filled."""
    return [
        *(migrations.AlterField("channel", n, f) for n, f in OF_CHANNEL.items()),
        *(migrations.AlterField("sensor", n, OF_CHANNEL[n]) for n in OF_SENSOR),
    ]


SPEC = models.JSONField(default=dict)


class Migration(migrations.Migration):
    # Rows are changed and then columns dropped: not in one transaction's pending triggers.
    atomic = False
    dependencies = [
        ("wire", "0001_initial"), ("ledger", "0001_initial"), ("bench", "0002_initial"),
    ]
    operations = [
        *without_constraints(),
        *with_defaults(),
        migrations.AddField("sensor", "spec", SPEC),
        *(migrations.AddField("channel", n, SPEC) for n in ("wiring", "conditioning", "scaling")),
        migrations.RenameField("balance", "zero_mv_v", "zero"),
        migrations.RunPython(to_specs, to_columns),
        migrations.RunPython(forget_undo, forget_undo),
        *(migrations.RemoveField("channel", n) for n in OF_CHANNEL),
        *(migrations.RemoveField("sensor", n) for n in OF_SENSOR),
        migrations.AlterField("sensor", "kind", models.CharField(max_length=20)),
        migrations.AlterField("sensor", "quantity", models.CharField(max_length=12)),
        migrations.AlterField("channel", "quantity", models.CharField(max_length=12)),
        migrations.AlterField("sensor", "spec", models.JSONField()),
        *(
            migrations.AlterField("channel", n, models.JSONField())
            for n in ("wiring", "conditioning", "scaling")
        ),
    ]
