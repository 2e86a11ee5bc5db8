from django.db import migrations, models
from yoke_server.kinds.keep_rules import stored_default


class Migration(migrations.Migration):
    dependencies = [("setups", "0010_guards")]
    operations = [
        migrations.AddField("setup", "keep_rules", models.JSONField(default=stored_default))
    ]
