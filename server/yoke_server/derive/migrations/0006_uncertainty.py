from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("derive", "0005_fingerprint")]

    operations = [
        migrations.AddField("derivation", "lacks", models.JSONField(default=list)),
        migrations.AddField("result", "expanded", models.FloatField(null=True)),
        migrations.AddField("result", "factor", models.FloatField(null=True)),
        migrations.AddField("result", "budget", models.JSONField(default=list)),
    ]
