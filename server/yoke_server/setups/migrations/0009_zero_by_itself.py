from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("setups", "0008_laboratory_units")]
    operations = [
        migrations.AddField("channel", "zero_by_itself", models.BooleanField(default=False)),
    ]
