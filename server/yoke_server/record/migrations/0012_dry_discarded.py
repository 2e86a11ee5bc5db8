from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("record", "0011_markers")]
    operations = [
        migrations.AddField("run", "is_dry", models.BooleanField(default=False)),
        migrations.AddField("run", "discarded_at", models.DateTimeField(null=True)),
        migrations.AddField("run", "discarded_because", models.CharField(default="", max_length=200)),
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
                ],
                max_length=12,
            ),
        ),
    ]
