import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('wire', '0012_tables_of_sensors_and_setups'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    # The tables are there already (wire 0012): only what Django knows of them moves.
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[
            migrations.CreateModel(
                name='Sensor',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(max_length=20)),
                    ('name', models.CharField(max_length=60)),
                    ('serial', models.CharField(max_length=40, unique=True)),
                    ('quantity', models.CharField(max_length=12)),
                    ('spec', models.JSONField()),
                    ('calibrated_on', models.DateField(null=True)),
                    ('due_on', models.DateField(null=True)),
                    ('cores', models.JSONField(default=list)),
                    ('place', models.CharField(blank=True, default='', max_length=60)),
                    ('note', models.CharField(blank=True, default='', max_length=200)),
                    ('retired_at', models.DateTimeField(null=True)),
                ],
            ),
            migrations.CreateModel(
                name='Picture',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('image', models.BinaryField()),
                    ('sensor', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='picture', to='sensors.sensor')),
                ],
            ),
            migrations.CreateModel(
                name='Certificate',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('number', models.CharField(max_length=40)),
                    ('calibrated_on', models.DateField()),
                    ('due_on', models.DateField(null=True)),
                    ('rated_output', models.FloatField(null=True)),
                    ('file', models.BinaryField(null=True)),
                    ('file_size', models.PositiveIntegerField(default=0)),
                    ('file_name', models.CharField(blank=True, default='', max_length=100)),
                    ('added_at', models.DateTimeField(auto_now_add=True)),
                    ('actor', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                    ('sensor', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='certificates', to='sensors.sensor')),
                ],
                options={
                    'ordering': ['calibrated_on', 'pk'],
                    'constraints': [models.UniqueConstraint(fields=('sensor', 'number'), name='certificate_once')],
                },
            ),
        ]),
    ]
