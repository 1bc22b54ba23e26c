"""A row for each plan of a paper in place of one for a whole class; the plans there are come along, by key."""

import logging
from dataclasses import replace
from decimal import Decimal

import django.db.models.deletion
from django.db import migrations, models

from zester.core.choices import figures
from zester.core.errors import ZesterError
from zester.core.fitting.jobs.job import Job
from zester.core.fitting.jobs.job_file import read_job, write_job
from zester.core.fitting.jobs.need import labels_of, need_of
from zester.core.fitting.jobs.plan import Plan, read_plan, write_plan
from zester.core.fitting.jobs.supply import used_sheets

log = logging.getLogger(__name__)


def move_plans(apps, schema_editor):
    """Every finished fit of a class becomes plans of its papers; those of the newest are shown.

    What was waiting or at work is begun anew when the classes are counted, after the migration.
    """
    fit_model = apps.get_model("fits", "Fit")
    for fit in fit_model.objects.filter(status="done").select_related("card_class").order_by("created_at", "pk"):
        try:
            job, plan = read_job(fit.job), read_plan(fit.plan)
        except ZesterError:
            log.warning("an old fit could not be read and is left behind: %s", fit.pk)
            continue
        advice = apps.get_model("fits", "Advice").objects.filter(fit=fit).first()
        for paper_job, paper_plan in zip(job.papers, plan.papers, strict=True):
            _move(apps, fit, job, paper_job, paper_plan, advice)


def _move(apps, fit, job, paper_job, paper_plan, advice):
    name = paper_job.id
    papers = apps.get_model("shelf", "Paper").objects.filter(owner=fit.card_class.owner_id, name=name)
    paper = papers.filter(removed_at=None).first() or papers.order_by("-removed_at").first()
    if paper is None:
        return
    wish, _ = apps.get_model("classes", "ClassPaper").objects.get_or_create(card_class=fit.card_class, paper=paper)
    # How many sheets were on the shelf is judged beside a plan now, not part of what it was made for.
    sheets = tuple(replace(sheet, count=None) for sheet in paper_job.sheets)
    paper_job = replace(paper_job, id=paper.key, name=name, sheets=sheets)
    paper_plan = replace(paper_plan, id=paper.key)
    comes_to = figures("", paper_job, paper_plan, job.bench)
    pieces = fit.context.get("pieces", {})
    price = fit.context.get("papers", {}).get(name, {}).get("price")
    kept = apps.get_model("fits", "PaperPlan").objects.create(
        class_paper=wish,
        need=need_of(paper_job, job.bench),
        labels=labels_of(paper_job),
        job=write_job(Job(job.unit, (paper_job,), job.bench)),
        plan=write_plan(Plan(job.unit, (paper_plan,))),
        pieces={piece.id: pieces[piece.id] for piece in paper_job.pieces if piece.id in pieces},
        stage="polished",
        sheets=paper_plan.sheets,
        used=used_sheets(paper_plan),
        cost=paper_plan.cost,
        bound=paper_plan.bound,
        priced=bool(price) and Decimal(price) > 0,
        proven=paper_plan.proven,
        missing=sum(count for _, count in paper_plan.short),
        layouts=comes_to.layouts,
        strokes=comes_to.strokes,
        settings=comes_to.settings,
        yielded=round(Decimal(comes_to.used.numerator) / comes_to.used.denominator, 6),
        advice=_advice(advice, name),
    )
    paper_fit, _ = apps.get_model("fits", "PaperFit").objects.get_or_create(class_paper=wish)
    paper_fit.shown = kept
    paper_fit.save(update_fields=["shown"])


def _advice(advice, name):
    if advice is None or name not in advice.near:
        return {}
    return {"plans": advice.plans.get(name, []), "seats": advice.seats[name], "near": advice.near[name]}


class Migration(migrations.Migration):

    dependencies = [
        ("classes", "0005_papers_of_classes"),
        ("shelf", "0004_keys_and_former_names"),
        ('fits', '0002_advice'),
    ]

    operations = [
        migrations.CreateModel(
            name='Worker',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=64, unique=True)),
                ('beat_at', models.DateTimeField()),
            ],
        ),
        migrations.CreateModel(
            name='PaperPlan',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('need', models.CharField(max_length=64)),
                ('labels', models.CharField(max_length=64)),
                ('job', models.TextField()),
                ('plan', models.TextField()),
                ('pieces', models.JSONField(default=dict)),
                ('stage', models.CharField(choices=[('quick', 'quick'), ('proven', 'searched to the end'), ('polished', 'with less handling')], default='quick', max_length=8)),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('seconds', models.FloatField(default=0)),
                ('sheets', models.PositiveIntegerField()),
                ('used', models.JSONField(default=dict)),
                ('cost', models.DecimalField(decimal_places=6, max_digits=14)),
                ('bound', models.DecimalField(decimal_places=6, max_digits=14)),
                ('priced', models.BooleanField(default=False)),
                ('proven', models.BooleanField(default=False)),
                ('missing', models.PositiveIntegerField(default=0)),
                ('layouts', models.PositiveIntegerField(default=0)),
                ('strokes', models.PositiveIntegerField(default=0)),
                ('settings', models.PositiveIntegerField(default=0)),
                ('yielded', models.DecimalField(decimal_places=6, default=0, max_digits=7)),
                ('hints', models.JSONField(default=dict)),
                ('advice', models.JSONField(default=dict)),
                ('cutting_at', models.DateTimeField(null=True)),
                ('cut_at', models.DateTimeField(null=True)),
                ('class_paper', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='plans', to='classes.classpaper')),
            ],
            options={
                'ordering': ['-pk'],
            },
        ),
        migrations.CreateModel(
            name='PaperFit',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('need', models.CharField(blank=True, max_length=64)),
                ('labels', models.CharField(blank=True, max_length=64)),
                ('job', models.TextField(blank=True)),
                ('pieces', models.JSONField(default=dict)),
                ('problem', models.TextField(blank=True)),
                ('failed', models.TextField(blank=True)),
                ('held', models.CharField(blank=True, choices=[('', 'not held'), ('taken', 'taken by hand'), ('cutting', 'being cut'), ('cut', 'cut')], default='', max_length=8)),
                ('changed_at', models.DateTimeField(auto_now=True)),
                ('class_paper', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='fit', to='classes.classpaper')),
                ('offered', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='fits.paperplan')),
                ('shown', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='fits.paperplan')),
            ],
        ),
        migrations.CreateModel(
            name='Work',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('quick', 'a first plan'), ('prove', 'the fewest sheets'), ('polish', 'less handling'), ('hints', 'what each piece costs'), ('advice', 'other plans')], max_length=8)),
                ('need', models.CharField(max_length=64)),
                ('status', models.CharField(choices=[('waiting', 'waiting'), ('working', 'working'), ('done', 'done'), ('stopped', 'stopped'), ('failed', 'failed')], default='waiting', max_length=8)),
                ('words', models.CharField(blank=True, max_length=120)),
                ('problem', models.TextField(blank=True)),
                ('stop_asked', models.BooleanField(default=False)),
                ('asked_at', models.DateTimeField(auto_now_add=True)),
                ('due_at', models.DateTimeField()),
                ('told_at', models.DateTimeField(null=True)),
                ('ended_at', models.DateTimeField(null=True)),
                ('worker', models.CharField(blank=True, max_length=64)),
                ('tries', models.PositiveSmallIntegerField(default=0)),
                ('gave_way', models.PositiveSmallIntegerField(default=0)),
                ('fit', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='work', to='fits.paperfit')),
            ],
        ),
        migrations.RunPython(move_plans, migrations.RunPython.noop),
        migrations.DeleteModel(
            name='Advice',
        ),
        migrations.DeleteModel(
            name='Fit',
        ),
        migrations.AddIndex(
            model_name='paperplan',
            index=models.Index(fields=['class_paper', 'need'], name='plans_by_need'),
        ),
        migrations.AddIndex(
            model_name='work',
            index=models.Index(fields=['status', 'kind'], name='open_work'),
        ),
    ]
