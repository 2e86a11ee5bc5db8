from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("record", "0013_steps")]
    operations = [
        migrations.AlterField("marker", "kind", models.CharField(max_length=12)),
        migrations.AddField("run", "accepted", models.JSONField(default=list)),
        migrations.AddField("run", "answers", models.JSONField(default=dict)),
    ]
