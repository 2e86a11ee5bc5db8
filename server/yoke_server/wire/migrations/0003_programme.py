"""Columns of a coupon's pull become specs: piece, motion, stops. Channels know their rosette."""

from django.db import migrations, models

from yoke_server.setups.document import piece_of_lengths, programme_of_columns

LENGTHS = {"width_m": 12.5e-3, "thickness_m": 3e-3, "gauge_length_m": 50e-3}
PULL = {"pull_speed_m_s": 1.85e-4, "travel_limit_m": 12e-3, "force_drop": 0.4, "arm_force_n": 500}
CHECKED = [n for n in (*LENGTHS, *PULL) if n != "force_drop"]


def to_specs(apps, schema_editor):
    for row in apps.get_model("wire", "Setup").objects.all():
        old = {name: getattr(row, name) for name in (*LENGTHS, *PULL)}
        row.piece = piece_of_lengths(old)
        found = programme_of_columns(old)
        row.motion, row.stops = found["motion"], found["stops"]
        row.save(update_fields=["piece", "motion", "stops"])
    for row in apps.get_model("record", "Correction").objects.order_by("pk"):
        lengths = {k: v for k, v in row.changes.items() if k in LENGTHS}
        if lengths:
            row.changes = {k: v for k, v in row.changes.items() if k not in LENGTHS}
            row.changes["piece"] = piece_of_lengths(lengths_before(row) | lengths)
            row.save(update_fields=["changes"])


def lengths_before(correction):
    """A run's lengths before one of its corrections."""
    document = correction.run.revision.document["specimen"]
    found = dict(document if "width_m" in document else document["piece"])
    for earlier in correction.run.corrections.filter(pk__lt=correction.pk).order_by("pk"):
        found |= earlier.changes.get("piece", {})
    return found


def to_columns(apps, schema_editor):
    for row in apps.get_model("wire", "Setup").objects.all():
        stops = {s["kind"]: s for s in row.stops}
        if row.piece["kind"] != "flat" or row.motion["kind"] != "ramp" or "force_drop" not in stops:
            raise RuntimeError(f"{row.name} is of a kind that the older version does not know.")
        for name in LENGTHS:
            setattr(row, name, row.piece[name])
        row.pull_speed_m_s = row.motion["speed_m_s"]
        row.travel_limit_m = row.motion["travel_limit_m"]
        row.force_drop, row.arm_force_n = (stops["force_drop"][k] for k in ("share", "arm_n"))
        row.save(update_fields=[*LENGTHS, *PULL])
    for row in apps.get_model("record", "Correction").objects.order_by("pk"):
        if piece := row.changes.pop("piece", None):
            row.changes |= {k: piece[k] for k in LENGTHS}
            row.save(update_fields=["changes"])


def forget_undo(apps, schema_editor):
    """Entries of before name columns that are no more: they stay, but cannot be taken back."""
    apps.get_model("ledger", "Entry").objects.update(setup=None)


def positive(field):
    condition = models.Q(**{f"{field}__isnull": True}) | models.Q(**{f"{field}__gt": 0})
    return models.CheckConstraint(condition=condition, name=f"setup_{field}_positive")


class Migration(migrations.Migration):
    # Rows are changed and then columns dropped: not in one transaction's pending triggers.
    atomic = False
    dependencies = [
        ("wire", "0002_specs"),
        ("ledger", "0001_initial"),
        ("record", "0003_one_index_a_stream"),
    ]
    operations = [
        migrations.AddField("project", "archived_at", models.DateTimeField(null=True)),
        migrations.AddField("channel", "grid", models.JSONField(null=True)),
        migrations.RemoveConstraint("setup", "setup_force_drop_share"),
        *(migrations.RemoveConstraint("setup", f"setup_{n}_positive") for n in CHECKED),
        migrations.AddField("setup", "piece", models.JSONField(default=dict)),
        migrations.AddField("setup", "motion", models.JSONField(default=dict)),
        migrations.AddField("setup", "stops", models.JSONField(default=list)),
        migrations.RunPython(to_specs, to_columns),
        migrations.RunPython(forget_undo, forget_undo),
        migrations.AlterField("setup", "piece", models.JSONField()),
        migrations.AlterField("setup", "motion", models.JSONField()),
        *(migrations.RemoveField("setup", n) for n in (*LENGTHS, *PULL)),
    ]
