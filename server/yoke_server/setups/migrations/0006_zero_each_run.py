from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("setups", "0005_steps")]

    operations = [
        migrations.AddField("channel", "zero_each_run", models.BooleanField(default=False)),
    ]
