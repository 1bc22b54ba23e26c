"""Whether what is packed is still somebody's: classes in which something is packed are counted once more."""

from django.db import migrations, models


def count_anew(apps, schema_editor):
    apps.get_model("classes", "CardClass").objects.filter(marks__isnull=False).update(counted_at=None)


class Migration(migrations.Migration):
    dependencies = [("bags", "0003_designs_of_what_is_done"), ("classes", "0015_closed_and_kept_shelf")]
    operations = [
        migrations.AddField("mark", "wanted", models.BooleanField(default=True, editable=False)),
        migrations.RunPython(count_anew, migrations.RunPython.noop),
    ]
