from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('bench', '0005_archived_benches'),
        ('setups', '0002_on_bench'),
    ]

    operations = [
        migrations.RemoveField(
            model_name='bench',
            name='active_setup',
        ),
    ]
