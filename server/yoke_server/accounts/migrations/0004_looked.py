from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0003_preferences")]
    operations = [
        migrations.AddField("preferences", "looked_at", models.DateTimeField(null=True)),
        migrations.AddField("preferences", "mails", models.BooleanField(default=False)),
        migrations.AddField("preferences", "mailed_until", models.DateTimeField(null=True)),
    ]
