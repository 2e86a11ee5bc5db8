from django.db import migrations


class Migration(migrations.Migration):
    """Live frames are worth nothing after a crash: they need no write-ahead log."""

    dependencies = [("bench", "0002_initial")]
    operations = [
        migrations.RunSQL(
            "ALTER TABLE bench_liveframe SET UNLOGGED", "ALTER TABLE bench_liveframe SET LOGGED"
        )
    ]
