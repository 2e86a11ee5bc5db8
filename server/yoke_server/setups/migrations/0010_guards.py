from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("setups", "0009_zero_by_itself")]
    operations = [migrations.AddField("setup", "guards", models.JSONField(default=list))]
