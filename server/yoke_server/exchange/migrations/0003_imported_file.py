from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("exchange", "0002_setups_moved")]

    operations = [migrations.RenameModel("ReadFile", "ImportedFile")]
