import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("setups", "0007_shunt_resistor"),
    ]

    operations = [
        migrations.CreateModel(
            name="LaboratoryUnit",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("name", models.CharField(max_length=12, unique=True)),
                ("quantity", models.CharField(max_length=20)),
                ("definition", models.CharField(max_length=60)),
                ("factor", models.FloatField()),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "actor",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ["pk"],
                "constraints": [
                    models.CheckConstraint(
                        condition=models.Q(("factor__isnull", True), ("factor__gt", 0), _connector="OR"),
                        name="laboratoryunit_factor_positive",
                    )
                ],
            },
        ),
    ]
