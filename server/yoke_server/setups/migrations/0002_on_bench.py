"""Which setup a bench works with stands at the setup: nothing below setups knows them."""

import django.db.models.deletion
from django.db import migrations, models


def to_setups(apps, schema):
    Bench, Setup = apps.get_model("bench", "Bench"), apps.get_model("setups", "Setup")
    for bench in Bench.objects.exclude(active_setup_id=None):
        Setup.objects.filter(pk=bench.active_setup_id).update(on_bench_id=bench.pk)


def to_benches(apps, schema):
    Bench, Setup = apps.get_model("bench", "Bench"), apps.get_model("setups", "Setup")
    for setup in Setup.objects.exclude(on_bench_id=None):
        Bench.objects.filter(pk=setup.on_bench_id).update(active_setup_id=setup.pk)


class Migration(migrations.Migration):

    dependencies = [("setups", "0001_initial"), ("bench", "0005_archived_benches")]

    operations = [
        migrations.AddField(
            model_name="setup",
            name="on_bench",
            field=models.OneToOneField(
                null=True, on_delete=django.db.models.deletion.PROTECT,
                related_name="active_setup", to="bench.bench",
            ),
        ),
        migrations.RunPython(to_setups, to_benches),
    ]
