import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('record', '0008_sample_bytes'),
        ('setups', '0001_initial'),
    ]

    # The tables are there already (wire 0012): only what Django knows of them moves.
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[
            migrations.AlterField(
                model_name='run',
                name='revision',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='setups.setuprevision'),
            ),
            migrations.AlterField(
                model_name='run',
                name='setup',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='runs', to='setups.setup'),
            ),
        ]),
    ]
