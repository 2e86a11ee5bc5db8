"""An entry keeps the number of its setup, also when that was deleted since."""

import django.db.models.deletion
from django.db import migrations, models

INDEX = "ledger_entr_setup_i_3ac053_idx"


class Migration(migrations.Migration):

    dependencies = [("ledger", "0002_setup_gone"), ("setups", "0001_initial")]

    operations = [
        migrations.AlterField(
            model_name="entry",
            name="setup",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, db_constraint=False,
                db_index=False, related_name="entries", to="wire.setup",
            ),
        ),
        migrations.SeparateDatabaseAndState(  # the column and its index stay as they are
            state_operations=[
                migrations.RemoveIndex(model_name="entry", name=INDEX),
                migrations.RemoveField(model_name="entry", name="setup"),
                migrations.AddField(
                    model_name="entry", name="setup_id", field=models.BigIntegerField(null=True)
                ),
                migrations.AddIndex(
                    model_name="entry",
                    index=models.Index(fields=["setup_id", "undone", "id"], name=INDEX),
                ),
            ]
        ),
    ]
