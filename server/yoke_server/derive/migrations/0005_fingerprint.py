from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("derive", "0004_setups_moved")]

    operations = [migrations.RenameField("derivation", "digest", "fingerprint")]
