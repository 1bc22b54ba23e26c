"""The count of saves is called so; a version is one of the ways a card is made."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("designs", "0002_library_tools")]

    operations = [migrations.RenameField(model_name="card", old_name="version", new_name="saves")]
