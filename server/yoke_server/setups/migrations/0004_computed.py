from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("setups", "0003_fingerprint")]

    operations = [
        migrations.AddField("setup", "computed", models.JSONField(default=list)),
    ]
