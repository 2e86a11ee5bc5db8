import django.db.models.deletion
from django.db import migrations, models


def drop_computed(apps, schema_editor):
    """The version before takes every stream for a measured one; these can be made again."""
    apps.get_model("record", "Stream").objects.filter(home__isnull=False).delete()


class Migration(migrations.Migration):
    dependencies = [("record", "0009_setups_moved")]

    operations = [
        migrations.AddField(
            "stream",
            "home",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="+",
                to="record.stream",
            ),
        ),
        migrations.AddField("stream", "fingerprint", models.CharField(default="", max_length=64)),
        migrations.AddField("stream", "complete", models.BooleanField(default=True)),
        migrations.RemoveConstraint("stream", "stream_once"),
        migrations.AddConstraint(
            "stream",
            models.UniqueConstraint(
                condition=models.Q(home__isnull=True),
                fields=("run", "device_label", "rule"),
                name="stream_once",
            ),
        ),
        migrations.AddConstraint(
            "stream",
            models.UniqueConstraint(
                condition=models.Q(home__isnull=False),
                fields=("run", "fingerprint"),
                name="computed_stream_once",
            ),
        ),
        migrations.RunPython(migrations.RunPython.noop, drop_computed),
    ]
