import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("record", "0010_computed_streams"),
    ]
    operations = [
        migrations.CreateModel(
            name="Marker",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("key", models.UUIDField(unique=True)),
                ("at_ns", models.BigIntegerField()),
                (
                    "kind",
                    models.CharField(
                        choices=[
                            ("person", "Person"),
                            ("guard", "Guard"),
                            ("pause", "Pause"),
                            ("programme", "Programme"),
                        ],
                        max_length=12,
                    ),
                ),
                ("text", models.CharField(max_length=200)),
                (
                    "actor",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "run",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="markers",
                        to="record.run",
                    ),
                ),
            ],
            options={"ordering": ["at_ns", "id"]},
        ),
    ]
