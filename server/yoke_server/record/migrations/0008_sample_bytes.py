from django.db import migrations, models


def refuse_float64(apps, schema_editor):
    """Samples of float64 cannot be read without knowing that they are."""
    if apps.get_model("record", "Stream").objects.filter(sample_bytes=8).exists():
        raise RuntimeError(
            "Some runs hold float64 samples, which the version before cannot read. Delete them, or "
            "restore the backup made before the update."
        )


class Migration(migrations.Migration):
    dependencies = [("record", "0007_segment_breaks")]

    operations = [
        migrations.AddField("stream", "sample_bytes", models.PositiveSmallIntegerField(default=4)),
        migrations.RunPython(migrations.RunPython.noop, refuse_float64),
    ]
