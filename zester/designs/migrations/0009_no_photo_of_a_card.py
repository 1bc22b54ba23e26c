from django.db import migrations


class Migration(migrations.Migration):
    # By itself: PostgreSQL alters no table that rows were written for in the same transaction.
    dependencies = [("designs", "0008_photos")]

    operations = [
        migrations.RemoveField(
            model_name='card',
            name='photo',
        ),
    ]
