"""The tables of sensors and of setups get the names of their own applications."""

from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("wire", "0011_polarity")]

    operations = [
        migrations.AlterModelTable("Sensor", "sensors_sensor"),
        migrations.AlterModelTable("Picture", "sensors_picture"),
        migrations.AlterModelTable("Certificate", "sensors_certificate"),
        migrations.AlterModelTable("Project", "setups_project"),
        migrations.AlterModelTable("Setup", "setups_setup"),
        migrations.AlterModelTable("SetupTemplate", "setups_setuptemplate"),
        migrations.AlterModelTable("Channel", "setups_channel"),
        migrations.AlterModelTable("Balance", "setups_balance"),
        migrations.AlterModelTable("SetupDevice", "setups_setupdevice"),
        migrations.AlterModelTable("SetupRevision", "setups_setuprevision"),
        migrations.AlterModelTable("ShuntCalibration", "setups_shuntcalibration"),
        migrations.AlterModelTable("Tare", "setups_tare"),
    ]
