import django.db.models.constraints
import django.db.models.deletion
import django.db.models.fields.json
import yoke_server.setups.models
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('bench', '0005_archived_benches'),
        ('sensors', '0001_initial'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    # The tables are there already (wire 0012): only what Django knows of them moves.
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[
            migrations.CreateModel(
                name='Project',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80, unique=True)),
                    ('customer', models.CharField(blank=True, default='', max_length=80)),
                    ('article', models.CharField(blank=True, default='', max_length=120)),
                    ('standard', models.CharField(blank=True, default='', max_length=80)),
                    ('created_at', models.DateTimeField(auto_now_add=True)),
                    ('archived_at', models.DateTimeField(null=True)),
                ],
            ),
            migrations.CreateModel(
                name='Setup',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80)),
                    ('version', models.PositiveIntegerField(default=0)),
                    ('run_name_pattern', models.CharField(default='{specimen} run {number}', max_length=60)),
                    ('specimen', models.CharField(default='C1', max_length=30)),
                    ('piece', models.JSONField()),
                    ('motion', models.JSONField()),
                    ('stops', models.JSONField(default=list)),
                    ('bench', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='setups', to='bench.bench')),
                    ('project', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='setups', to='setups.project')),
                ],
            ),
            migrations.CreateModel(
                name='SetupTemplate',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80, unique=True)),
                    ('document', models.JSONField()),
                    ('at', models.DateTimeField(auto_now_add=True)),
                    ('actor', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('bench', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='bench.bench')),
                ],
                options={
                    'ordering': ['name'],
                },
            ),
            migrations.CreateModel(
                name='Channel',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.CharField(default=yoke_server.setups.models.new_key, max_length=12, unique=True)),
                    ('name', models.CharField(max_length=30)),
                    ('quantity', models.CharField(max_length=12)),
                    ('wiring', models.JSONField()),
                    ('conditioning', models.JSONField()),
                    ('scaling', models.JSONField()),
                    ('polarity', models.CharField(choices=[('as wired', 'As Wired'), ('cores swapped', 'Swapped'), ('turned', 'Turned')], default='as wired', max_length=13)),
                    ('recorded', models.BooleanField(default=True)),
                    ('grid', models.JSONField(null=True)),
                    ('unit', models.CharField(max_length=12)),
                    ('decimals', models.PositiveSmallIntegerField(default=3)),
                    ('input', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='bench.input')),
                    ('sensor', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='sensors.sensor')),
                    ('setup', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='channels', to='setups.setup')),
                ],
                options={
                    'ordering': ['input__device__label', 'input__number'],
                    'constraints': [models.UniqueConstraint(deferrable=django.db.models.constraints.Deferrable['DEFERRED'], fields=('setup', 'input'), name='channel_one_per_input'), models.UniqueConstraint(deferrable=django.db.models.constraints.Deferrable['DEFERRED'], fields=('setup', 'name'), name='channel_name_once'), models.CheckConstraint(condition=models.Q(('polarity__in', ['as wired', 'cores swapped', 'turned'])), name='channel_polarity_known')],
                },
            ),
            migrations.CreateModel(
                name='Balance',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('channel_key', models.CharField(max_length=12)),
                    ('at', models.DateTimeField(auto_now_add=True)),
                    ('zero', models.FloatField(null=True)),
                    ('actor', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('setup', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='setups.setup')),
                ],
                options={
                    'abstract': False,
                    'indexes': [models.Index(fields=['setup', 'channel_key', '-id'], name='balance_newest')],
                },
            ),
            migrations.CreateModel(
                name='SetupDevice',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('rate_hz', models.FloatField(default=1000)),
                    ('device', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='bench.device')),
                    ('setup', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='devices', to='setups.setup')),
                ],
                options={
                    'ordering': ['device__label'],
                    'constraints': [models.UniqueConstraint(fields=('setup', 'device'), name='setup_device_once'), models.CheckConstraint(condition=models.Q(('rate_hz__isnull', True), ('rate_hz__gt', 0), _connector='OR'), name='setupdevice_rate_hz_positive')],
                },
            ),
            migrations.CreateModel(
                name='SetupRevision',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('number', models.PositiveIntegerField()),
                    ('schema_version', models.PositiveSmallIntegerField()),
                    ('document', models.JSONField()),
                    ('specimen', models.GeneratedField(db_persist=True, expression=django.db.models.fields.json.KeyTextTransform('specimen', django.db.models.fields.json.KeyTextTransform('specimen', 'document')), output_field=models.TextField(null=True))),
                    ('digest', models.CharField(max_length=64)),
                    ('action', models.CharField(max_length=120)),
                    ('at', models.DateTimeField(auto_now_add=True)),
                    ('actor', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                    ('setup', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='revisions', to='setups.setup')),
                ],
                options={
                    'ordering': ['number'],
                    'constraints': [models.UniqueConstraint(fields=('setup', 'number'), name='revision_once')],
                },
            ),
            migrations.CreateModel(
                name='ShuntCalibration',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('channel_key', models.CharField(max_length=12)),
                    ('at', models.DateTimeField(auto_now_add=True)),
                    ('expected_mv_v', models.FloatField(null=True)),
                    ('measured_mv_v', models.FloatField(null=True)),
                    ('actor', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('setup', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='setups.setup')),
                ],
                options={
                    'abstract': False,
                    'indexes': [models.Index(fields=['setup', 'channel_key', '-id'], name='shuntcalibration_newest')],
                },
            ),
            migrations.CreateModel(
                name='Tare',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('channel_key', models.CharField(max_length=12)),
                    ('at', models.DateTimeField(auto_now_add=True)),
                    ('tare', models.FloatField(null=True)),
                    ('actor', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('setup', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='setups.setup')),
                ],
                options={
                    'abstract': False,
                    'indexes': [models.Index(fields=['setup', 'channel_key', '-id'], name='tare_newest')],
                },
            ),
        ]),
    ]
