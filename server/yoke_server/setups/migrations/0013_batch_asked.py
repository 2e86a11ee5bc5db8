from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("setups", "0012_trigger"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    operations = [
        migrations.AddField("setup", "batch", models.JSONField(default=list)),
        migrations.AddField("setup", "asked", models.JSONField(default=list)),
        migrations.CreateModel(
            "NamedProgramme",
            [
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("name", models.CharField(max_length=80, unique=True)),
                ("motion", models.JSONField()),
                ("channels", models.JSONField(default=dict)),
                (
                    "actor",
                    models.ForeignKey(
                        settings.AUTH_USER_MODEL, models.deletion.SET_NULL, null=True
                    ),
                ),
                ("at", models.DateTimeField(auto_now=True)),
            ],
        ),
    ]
