from django.db import migrations, models


class Migration(migrations.Migration):
    """Results move to derivations; the worker computes them anew when it starts."""

    dependencies = [("derive", "0001_initial"), ("record", "0001_initial")]

    operations = [
        migrations.CreateModel(
            name="Derivation",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("kind", models.CharField(max_length=20)),
                ("digest", models.CharField(max_length=64)),
                ("problem", models.JSONField(null=True)),
                ("values", models.JSONField(null=True)),
                ("curve", models.BinaryField(default=b"")),
                ("computed_at", models.DateTimeField(auto_now=True)),
                (
                    "run",
                    models.ForeignKey(
                        on_delete=models.CASCADE, related_name="derivations", to="record.run"
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("run", "kind"), name="derivation_once")
                ]
            },
        ),
        migrations.DeleteModel(name="TensionResultRow"),
    ]
