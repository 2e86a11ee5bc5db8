"""Sensors and setups are known to applications of their own from now on."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("bench", "0006_remove_bench_active_setup"),
        ("derive", "0004_setups_moved"),
        ("exchange", "0002_setups_moved"),
        ("ledger", "0003_setup_id"),
        ("record", "0009_setups_moved"),
        ("report", "0006_setups_moved"),
        ("setups", "0002_on_bench"),
        ("wire", "0012_tables_of_sensors_and_setups"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    model_name="wiringcheck",
                    name="setup",
                    field=models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+",
                        to="setups.setup",
                    ),
                ),
                migrations.AlterField(
                    model_name="signtest",
                    name="setup",
                    field=models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+",
                        to="setups.setup",
                    ),
                ),
                migrations.DeleteModel("Balance"),
                migrations.DeleteModel("Tare"),
                migrations.DeleteModel("ShuntCalibration"),
                migrations.DeleteModel("Channel"),
                migrations.DeleteModel("SetupDevice"),
                migrations.DeleteModel("SetupRevision"),
                migrations.DeleteModel("SetupTemplate"),
                migrations.DeleteModel("Setup"),
                migrations.DeleteModel("Project"),
                migrations.DeleteModel("Picture"),
                migrations.DeleteModel("Certificate"),
                migrations.DeleteModel("Sensor"),
            ]
        ),
    ]
