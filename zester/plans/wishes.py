"""What somebody wishes of a paper's plan: how to pool, which layouts stay, which plan to take."""

from __future__ import annotations

from dataclasses import replace

from django.db import transaction

from zester.classes.models import CardClass, ClassPaper
from zester.classes.services import hold_class, recount
from zester.core.choices import OWN
from zester.core.errors import JobError
from zester.core.fitting.jobs.job import Job
from zester.core.fitting.jobs.plan import layout_entry, read_paper
from zester.plans.kept import job_now, keep_plan, read_made, replayed
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.needs import begin_class, pins_of
from zester.plans.work import stop


def _not_in_work(fit: PaperFit) -> None:
    """Raise JobError if a paper is being cut, or is cut: its plan does not change under anybody's hands."""
    cut = PaperFit.objects.filter(class_paper=fit.class_paper_id, held__in=PaperFit.DONE).first()
    if cut:
        raise JobError(
            f"{cut.paper.name} is {cut.get_held_display()}", mend="Say at Cut that it is not, then change it"
        )


@transaction.atomic
def set_pool(fit: PaperFit, pool: str) -> None:
    """Say how a paper's pieces are pooled in the class; layouts pinned or taken before are let go."""
    if pool not in ClassPaper.POOLS:
        raise JobError(f"“{pool}” is no way to pool")
    _not_in_work(fit)
    wish = fit.class_paper
    hold_class(wish.card_class_id)
    wish.pool, wish.pins = pool, []
    wish.save(update_fields=["pool", "pins"])
    fit.held = PaperFit.Held.NO
    fit.save(update_fields=["held"])
    recount(wish.card_class_id)


@transaction.atomic
def pin(fit: PaperFit, number: int) -> None:
    """Keep a layout of the shown plan in the plans to come; raises LookupError if there is no such layout.

    The shown plan with this layout pinned answers what is needed then, and its proof still holds: whoever must keep a
    layout cannot need less than somebody who need not.
    """
    hold_class(fit.class_paper.card_class_id)
    wish, made = fit.class_paper, read_made(fit.shown)
    layouts = list(made.plan.layouts)
    if not 0 <= number < len(layouts) or not fit.answered:
        raise LookupError(number)
    if fit.done or fit.part > 1:
        return
    if layouts[number].source == "portion" or layouts[number].pinned:
        return
    wish.pins_unit = made.job.unit if not wish.pins else wish.pins_unit
    wish.pins = [*wish.pins, layout_entry(replace(layouts[number], pinned=False), wish.pins_unit)]
    wish.save(update_fields=["pins", "pins_unit"])
    layouts[number] = replace(layouts[number], pinned=True)
    paper = replace(made.paper, pins=pins_of(wish))
    plan = replace(made.plan, layouts=tuple(layouts))
    job = Job(made.job.unit, (paper,), made.job.bench)
    fit.shown = keep_plan(fit, job, replayed(fit, job, plan, fit.shown.stage), fit.shown.stage, fit.shown.seconds)
    fit.save(update_fields=["shown", "changed_at"])
    recount(wish.card_class_id)


@transaction.atomic
def unpin(fit: PaperFit, number: int | None = None) -> None:
    """Let a pinned layout of a paper go, or all of them."""
    wish = fit.class_paper
    hold_class(wish.card_class_id)
    wish.pins = [] if number is None else [entry for index, entry in enumerate(wish.pins) if index != number]
    wish.save(update_fields=["pins"])
    recount(wish.card_class_id)


@transaction.atomic
def unpin_all(card_class: CardClass) -> None:
    """Let all pinned layouts of a class go."""
    ClassPaper.objects.filter(card_class=card_class).update(pins=[])
    recount(card_class.pk)


@transaction.atomic
def take_plan(fit: PaperFit, name: str) -> None:
    """Show one of the plans that were looked for instead, and hold it.

    Raises JobError if what is needed has changed since, or there is no such plan.
    """
    entries = fit.shown.front if fit.shown else []
    choice = next((entry for entry in entries if entry["name"] == name), None)
    if choice is None:
        raise JobError("That plan is not there any more", mend="Look for other plans once more")
    if not fit.answered:
        raise JobError("The class has changed since these plans were found", mend="Look for other plans once more")
    advice, front, unit = fit.shown.advice, fit.shown.front, job_now(fit).unit
    set_pool(fit, "own" if name == OWN else "together")
    fit = PaperFit.objects.select_for_update(of=("self",)).select_related("class_paper__paper").get(pk=fit.pk)
    stop(fit__pk=fit.pk)
    taken = read_paper(choice["plan"] | {"id": fit.paper.key}, unit)
    job, stage = job_now(fit), PaperPlan.Stage.POLISHED
    kept = keep_plan(fit, job, replayed(fit, job, taken, stage), stage)
    kept.advice, kept.front = advice, front
    kept.save(update_fields=["advice", "front"])
    fit.shown, fit.offered, fit.held = kept, None, PaperFit.Held.TAKEN
    fit.save(update_fields=["shown", "offered", "held", "changed_at"])


def set_auto(card_class: CardClass, on: bool) -> None:
    """Whether plans follow every change of a class by themselves."""
    card_class.auto_fit = on
    card_class.save(update_fields=["auto_fit"])
    if on:
        begin_class(card_class)
