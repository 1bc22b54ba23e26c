from django.db import migrations


def settle(apps, schema_editor):
    """What is cut, or being cut, is what its plan makes, whatever the class wants since."""
    PaperFit = apps.get_model("plans", "PaperFit")
    for fit in PaperFit.objects.filter(held__in=("cutting", "cut"), shown__isnull=False).select_related("shown"):
        plan = fit.shown
        if fit.need != plan.need or fit.labels != plan.labels:
            fit.need, fit.labels, fit.job, fit.pieces = plan.need, plan.labels, plan.job, plan.pieces
        fit.problem, fit.failed, fit.offered = "", "", None
        fit.save()


class Migration(migrations.Migration):

    dependencies = [
        ('plans', '0003_supplements'),
    ]

    operations = [
        migrations.RunPython(settle, migrations.RunPython.noop),
    ]
