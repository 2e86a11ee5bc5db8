from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("record", "0012_dry_discarded")]
    operations = [
        migrations.AddField("marker", "from_ns", models.BigIntegerField(null=True)),
        migrations.AlterField(
            "marker",
            "kind",
            models.CharField(
                choices=[
                    ("person", "Person"),
                    ("guard", "Guard"),
                    ("pause", "Pause"),
                    ("programme", "Programme"),
                    ("trigger", "Trigger"),
                    ("step", "Step"),
                ],
                max_length=12,
            ),
        ),
    ]
