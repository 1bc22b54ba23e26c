"""A row for each class and paper in place of pools and pins by name; stored counts; plans that follow by themselves."""

import django.db.models.deletion
from django.db import migrations, models


def move_wishes(apps, schema_editor):
    """Pools and pins, by the names of papers, become rows."""
    card_class_model = apps.get_model("classes", "CardClass")
    class_paper_model = apps.get_model("classes", "ClassPaper")
    paper_model = apps.get_model("shelf", "Paper")
    for card_class in card_class_model.objects.all():
        for name in {**card_class.pools, **card_class.pins}:
            # Of papers of one name the one that is on the shelf, or the last that was.
            papers = paper_model.objects.filter(owner=card_class.owner_id, name=name)
            paper = papers.filter(removed_at=None).first() or papers.order_by("-removed_at").first()
            if paper is None:
                continue
            pins = card_class.pins.get(name, {"unit": "in", "layouts": []})
            class_paper_model.objects.create(
                card_class=card_class,
                paper=paper,
                pool=card_class.pools.get(name, "together"),
                pins=pins["layouts"],
                pins_unit=pins["unit"],
            )


class Migration(migrations.Migration):
    dependencies = [("classes", "0004_taken_out"), ("shelf", "0004_keys_and_former_names")]

    operations = [
        migrations.CreateModel(
            name="ClassPaper",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "pool",
                    models.CharField(
                        choices=[
                            ("together", "all from common sheets"),
                            ("own", "everybody’s from their own sheets"),
                            ("portions", "portions, cut up at home"),
                        ],
                        default="together",
                        max_length=8,
                    ),
                ),
                ("pins", models.JSONField(blank=True, default=list)),
                ("pins_unit", models.CharField(default="in", max_length=2)),
                (
                    "card_class",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="papers", to="classes.cardclass"
                    ),
                ),
                (
                    "paper",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="class_papers", to="shelf.paper"
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint("card_class", "paper", name="a_paper_once_a_class")],
            },
        ),
        migrations.RunPython(move_wishes, migrations.RunPython.noop),
        migrations.RemoveField(model_name="cardclass", name="pools"),
        migrations.RemoveField(model_name="cardclass", name="pins"),
        migrations.AddField(model_name="cardclass", name="auto_fit", field=models.BooleanField(default=True)),
        *(
            migrations.AddField(
                model_name="cardclass", name=name, field=models.PositiveIntegerField(default=0, editable=False)
            )
            for name in ("n_cards", "n_lines", "n_wrong", "n_pieces", "n_bags")
        ),
        migrations.AddField(
            model_name="cardclass", name="counted_at", field=models.DateTimeField(editable=False, null=True)
        ),
    ]
