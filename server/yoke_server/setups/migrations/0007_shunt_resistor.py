from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("setups", "0006_zero_each_run")]

    operations = [
        migrations.AddField("shuntcalibration", "resistor", models.JSONField(null=True)),
    ]
