"""Papers are known by a key that never changes; the names they had before stay known."""

from django.db import migrations, models

import zester.shelf.models


def give_keys(apps, schema_editor):
    paper_model = apps.get_model("shelf", "Paper")
    for paper in paper_model.objects.all():
        paper.key = zester.shelf.models.new_key()
        paper.save(update_fields=["key"])


class Migration(migrations.Migration):
    dependencies = [("shelf", "0003_sides_weight_kinds")]

    operations = [
        migrations.AddField(
            model_name="paper",
            name="key",
            field=models.CharField(default=zester.shelf.models.new_key, editable=False, max_length=12),
        ),
        migrations.AddField(
            model_name="paper",
            name="former_names",
            field=models.JSONField(blank=True, default=list, editable=False),
        ),
        migrations.RunPython(give_keys, migrations.RunPython.noop),
        migrations.AddConstraint(
            model_name="paper",
            constraint=models.UniqueConstraint("owner", "key", name="one_paper_of_a_key"),
        ),
    ]
