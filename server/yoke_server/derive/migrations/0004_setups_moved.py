import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('derive', '0003_recipes'),
        ('setups', '0001_initial'),
    ]

    # The tables are there already (wire 0012): only what Django knows of them moves.
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[
            migrations.AlterField(
                model_name='recipe',
                name='setup',
                field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='recipes', to='setups.setup'),
            ),
        ]),
    ]
