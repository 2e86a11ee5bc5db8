from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("setups", "0002_on_bench")]

    operations = [migrations.RenameField("setuprevision", "digest", "fingerprint")]
