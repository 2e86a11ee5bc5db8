import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('report', '0005_sheet_of_a_channel'),
        ('setups', '0001_initial'),
    ]

    # The tables are there already (wire 0012): only what Django knows of them moves.
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[
            migrations.AlterField(
                model_name='report',
                name='project',
                field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reports', to='setups.project'),
            ),
            migrations.AlterField(
                model_name='wiringsheet',
                name='setup',
                field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='wiring_sheets', to='setups.setup'),
            ),
        ]),
    ]
