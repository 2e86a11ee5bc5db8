from django.db import migrations

COLUMNS = (("record_block", "data"), ("record_enveloperow", "data"))


class Migration(migrations.Migration):
    """Float noise gains nothing from compression; EXTERNAL also lets SQL cut rows cheaply."""

    dependencies = [("record", "0001_initial")]
    operations = [
        migrations.RunSQL(
            f"ALTER TABLE {table} ALTER COLUMN {column} SET STORAGE EXTERNAL",
            f"ALTER TABLE {table} ALTER COLUMN {column} SET STORAGE EXTENDED",
        )
        for table, column in COLUMNS
    ]
