import datetime

from django.db import migrations, models

COUNTED = ("booked", "paid", "packed", "handed")


def keep_as_found(apps, schema_editor):
    """Classes that keep their designs keep the shelf, too: as it is found, since nobody knows what it was."""
    CardClass = apps.get_model("classes", "CardClass")
    Paper, Tool = apps.get_model("shelf", "Paper"), apps.get_model("designs", "Tool")
    for card_class in CardClass.objects.exclude(class_cards=None).iterator():
        if not card_class.class_cards.exclude(held={}).exists():
            continue
        mine = {"owner_id": card_class.owner_id, "removed_at": None}
        kept = {
            "papers": dict(Paper.objects.filter(**mine).values_list("key", "name")),
            "tools": [_tool(tool) for tool in Tool.objects.filter(**mine)],
        }
        CardClass.objects.filter(pk=card_class.pk).update(kept_shelf={"format": "class-shelf/1", "kept": kept})


def _tool(tool):
    largest = [tool.largest_width, tool.largest_height] if tool.largest_width and tool.largest_height else None
    return {"name": tool.name, "kind": tool.kind, "shape": tool.shape, "sizes": tool.sizes, "reach": tool.reach,
            "largest": largest}  # fmt: skip


def close_what_is_handed_over(apps, schema_editor):
    """All kits of it are with those who ordered them."""
    CardClass, Participant = apps.get_model("classes", "CardClass"), apps.get_model("classes", "Participant")
    people = Participant.objects.filter(state__in=COUNTED)
    handed = set(people.filter(state="handed").values_list("card_class", flat=True))
    waiting = set(people.exclude(state="handed").values_list("card_class", flat=True))
    now = datetime.datetime.now(datetime.UTC)
    CardClass.objects.filter(pk__in=handed - waiting, participants=0).update(closed_at=now)


class Migration(migrations.Migration):
    dependencies = [
        ("classes", "0014_faults_of_designs"),
        ("designs", "0006_teaching"),
        ("shelf", "0008_bit_grams"),
    ]

    operations = [
        migrations.AddField(
            model_name="cardclass",
            name="closed_at",
            field=models.DateTimeField(editable=False, null=True),
        ),
        migrations.AddField(
            model_name="cardclass",
            name="kept_shelf",
            field=models.JSONField(blank=True, default=dict, editable=False),
        ),
        migrations.RunPython(keep_as_found, migrations.RunPython.noop),
        migrations.RunPython(close_what_is_handed_over, migrations.RunPython.noop),
    ]
