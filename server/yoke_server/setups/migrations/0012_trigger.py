from django.db import migrations, models
from yoke_server.kinds.triggers import stored_default


class Migration(migrations.Migration):
    dependencies = [("setups", "0011_keep_rules")]
    operations = [
        migrations.AddField("setup", "trigger", models.JSONField(default=stored_default))
    ]
