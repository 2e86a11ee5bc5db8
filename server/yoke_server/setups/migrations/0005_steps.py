from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("setups", "0004_computed")]

    operations = [
        migrations.AddField("channel", "steps", models.JSONField(default=list)),
    ]
