from django.db import migrations


def count_anew(apps, schema_editor):
    """Words that change what a line means are asked about from now on: the next look at a class finds out.

    Not classes that are being cut: what they need beyond that is looked at when they change.
    """
    begun = apps.get_model("plans", "PaperFit").objects.filter(held__in=("cutting", "cut"))
    classes = apps.get_model("classes", "CardClass").objects.filter(closed_at=None, removed_at=None)
    classes.exclude(pk__in=begun.values("class_paper__card_class")).update(counted_at=None)


class Migration(migrations.Migration):

    dependencies = [
        ("plans", "0007_usual_times"),
        ("classes", "0019_envelope_of"),
    ]

    operations = [
        migrations.RunPython(count_anew, migrations.RunPython.noop),
    ]
