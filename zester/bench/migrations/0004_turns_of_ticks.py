from django.db import migrations, models


def in_the_order_of_then(apps, schema_editor):
    """Ticks that are here were ordered by the clocks of devices: that order is kept."""
    Tick = apps.get_model("bench", "Tick")
    for run in Tick.objects.order_by().values_list("run", flat=True).distinct():
        for turn, pk in enumerate(Tick.objects.filter(run=run).order_by("at", "pk").values_list("pk", flat=True), 1):
            Tick.objects.filter(pk=pk).update(turn=turn)


class Migration(migrations.Migration):
    dependencies = [
        ("bench", "0003_refit"),
    ]

    operations = [
        migrations.AddField(
            model_name="tick",
            name="turn",
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AlterModelOptions(
            name="tick",
            options={"ordering": ["turn", "pk"]},
        ),
        migrations.RunPython(in_the_order_of_then, migrations.RunPython.noop),
    ]
