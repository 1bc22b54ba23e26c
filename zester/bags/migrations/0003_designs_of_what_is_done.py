from django.db import migrations
from django.db.models import Q

HELD = ("name", "ruler", "cut_list", "teaching")


def hold(apps, schema_editor):
    """Classes of which something is cut or packed keep their designs as they are found."""
    ClassCard = apps.get_model("classes", "ClassCard")
    PaperFit = apps.get_model("plans", "PaperFit")
    Mark = apps.get_model("bags", "Mark")
    cut = PaperFit.objects.filter(held__in=("cutting", "cut")).values("class_paper__card_class")
    begun = Q(card_class__in=cut) | Q(card_class__in=Mark.objects.values("card_class"))
    for entry in ClassCard.objects.filter(begun, removed_at=None, card__is_kit=False).select_related("card"):
        kept = {name: getattr(entry.card, name) for name in HELD}
        entry.held = {"format": "class-design/1", "kept": kept}
        entry.save(update_fields=["held"])


class Migration(migrations.Migration):

    dependencies = [
        ('bags', '0002_refit'),
        ('classes', '0012_designs_of_what_is_done'),
        ('designs', '0006_teaching'),
        ('plans', '0004_cut_is_cut'),
    ]

    operations = [
        migrations.RunPython(hold, migrations.RunPython.noop),
    ]
