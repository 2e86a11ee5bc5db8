from django.db import migrations


def renamed(old, new):
    """In the kept words of each check, and of its figures."""

    def change(apps, schema_editor):
        checks = apps.get_model("wire", "WiringCheck").objects
        for check in checks.only("found").iterator(chunk_size=500):
            for part in (check.found, *check.found.get("findings", [])):
                if old in part:
                    part[new] = part.pop(old)
            checks.filter(pk=check.pk).update(found=check.found)

    return change


class Migration(migrations.Migration):
    dependencies = [("wire", "0013_sensors_and_setups_moved")]

    operations = [
        migrations.RenameField("wiringcheck", "well", "passed"),
        migrations.RunPython(renamed("well", "passed"), renamed("passed", "well")),
    ]
