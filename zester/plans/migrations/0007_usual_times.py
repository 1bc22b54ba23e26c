from django.db import migrations


def count_anew(apps, schema_editor):
    """Jobs without a time have the usual one now; not in classes that are being cut, which keep what they were told."""
    begun = apps.get_model("plans", "PaperFit").objects.filter(held__in=("cutting", "cut"))
    classes = apps.get_model("classes", "CardClass").objects.filter(closed_at=None, removed_at=None)
    classes.exclude(pk__in=begun.values("class_paper__card_class")).update(counted_at=None)


class Migration(migrations.Migration):

    dependencies = [
        ("plans", "0006_jobs"),
        ("classes", "0016_usual_times"),
    ]

    operations = [
        migrations.RunPython(count_anew, migrations.RunPython.noop),
    ]
