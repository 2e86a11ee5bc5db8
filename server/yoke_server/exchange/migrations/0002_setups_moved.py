import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('exchange', '0001_initial'),
        ('setups', '0001_initial'),
    ]

    # The tables are there already (wire 0012): only what Django knows of them moves.
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[
            migrations.AlterField(
                model_name='readfile',
                name='setup',
                field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='setups.setup'),
            ),
        ]),
    ]
