"""Plans of papers as they are kept: storing one, reading it back, finding one that was made before, showing it."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import lru_cache

from django.db.models import QuerySet

from zester.classes.follow import later as count_later
from zester.core.choices import Choice, figures
from zester.core.class_job import SHEET_ID
from zester.core.cutting.habits import Habits
from zester.core.cutting.record import read_steps, steps_data
from zester.core.cutting.steps import CutSteps, cutting_steps
from zester.core.errors import PlanError
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Job, PaperJob
from zester.core.fitting.jobs.job_file import read_job, write_job
from zester.core.fitting.jobs.need import labels_of, need_of, relabelled
from zester.core.fitting.jobs.plan import PaperPlan as Plan
from zester.core.fitting.jobs.plan import Plan as WholePlan
from zester.core.fitting.jobs.plan import read_plan, write_plan
from zester.core.fitting.jobs.rest import WasMade
from zester.core.fitting.jobs.supply import used_sheets
from zester.plans.models import LARGE, PaperFit, PaperPlan
from zester.shelf.models import Paper, Sheet
from zester.shelf.uses import open_stock, promised, who
from zester.site.prepared import prepared

# Plans that are not shown, not cut and were made longest ago are let go beyond so many of a paper.
KEPT = 30


@dataclass(frozen=True)
class Made:
    """A kept plan with the job it was made for, as values."""

    job: Job
    """The job of this one paper: its bench, its unit."""
    paper: PaperJob
    """The only paper of it."""
    plan: Plan
    """The plan."""


def read_made(kept: PaperPlan) -> Made:
    """The job and the plan of a kept plan."""
    job = read_job(kept.job)
    return Made(job, job.papers[0], read_plan(kept.plan).papers[0])


def whole(fits: Iterable[PaperFit], *, pieces: bool = True) -> list[PaperFit]:
    """Those that have a plan, with all that lists leave out of it, and what its pieces are, read at once."""
    found = [fit for fit in fits if fit.shown_id]
    plans = PaperPlan.objects.in_bulk([fit.shown_id for fit in found])
    for fit in found:
        fit.shown = plans[fit.shown_id]
    if pieces:
        names = dict(PaperFit.objects.filter(pk__in=[fit.pk for fit in found]).values_list("pk", "pieces"))
        for fit in found:
            fit.pieces = names[fit.pk]
    return found


def was_made(fit: PaperFit) -> WasMade:
    """What a paper that is cut, or being cut, gives; its plan is read once, as it never changes."""
    plan = fit.shown
    return WasMade(*_made_parts(plan.pk, plan.made_at), fit.lost)


@lru_cache(maxsize=64)
def _made_parts(pk: int, _: datetime.datetime) -> tuple[PaperJob, Plan]:
    made = read_made(PaperPlan.objects.get(pk=pk))
    return made.paper, made.plan


def names_for(fit: PaperFit) -> dict:
    """What the pieces of the shown plan are called: as now, if it answers what is needed now, or as they were."""
    same = fit.answered and fit.shown.labels == fit.labels
    return fit.pieces if same else fit.shown.pieces


def habits_of(fit: PaperFit, pieces: Mapping[str, dict]) -> Habits:
    """How the paper of a class is cut: with its trimmer's pace and room; ``pieces`` as ``PaperFit.pieces``."""
    trimmer = fit.class_paper.card_class.cut_with
    bears = frozenset(handle for handle, about in pieces.items() if about.get("trimmed"))
    return Habits(pace=trimmer.pace, most_piles=trimmer.most_piles, bears=bears)


def job_now(fit: PaperFit) -> Job:
    """The job of what is needed now, of this one paper."""
    return read_job(fit.job)


@dataclass(frozen=True)
class Replayed:
    """A plan that was read back and replayed, with what it comes to."""

    plan: Plan
    """The plan."""
    text: str
    """It as it is stored."""
    steps: dict
    """The steps that cut it, as they are stored."""
    comes_to: Choice
    """Its figures."""


def replayed(fit: PaperFit, job: Job, plan: Plan, stage: str) -> Replayed:
    """Read a plan back, replay it, reckon what it comes to: up to a second, so not while the database is held."""
    (paper,) = job.papers
    text = write_plan(WholePlan(job.unit, (plan,)))
    check_paper(paper, read_plan(text).papers[0], job.bench)
    habits = habits_of(fit, fit.pieces)
    steps = cutting_steps(paper, plan, job.bench, habits, thorough=stage != PaperPlan.Stage.QUICK)
    kept = {"habits": habits_text(habits), "steps": steps_data(steps.steps), "places": steps.places}
    return Replayed(plan, text, kept, figures("", paper, plan, job.bench, steps))


def plan_steps(plan: PaperPlan, habits: Habits, made: Made | None = None) -> CutSteps:
    """The steps that cut a plan somebody's way: as the plan was kept with them, or worked out for other habits."""
    kept = plan.steps
    if kept and kept["habits"] == habits_text(habits):
        return CutSteps(read_steps(kept["steps"]), kept["places"])
    made = made or read_made(plan)
    return cutting_steps(made.paper, made.plan, made.job.bench, habits, thorough=plan.stage != PaperPlan.Stage.QUICK)


def habits_text(habits: Habits) -> str:
    """Habits as steps are known by: another where others might be better."""
    return repr((habits.pace, habits.most_piles, sorted(habits.bears)))


def keep_plan(
    fit: PaperFit,
    job: Job,
    ready: Replayed,
    stage: str,
    seconds: float = 0.0,
    saved: tuple[int, Decimal] = (0, Decimal(0)),
) -> PaperPlan:
    """Store a plan for what is needed now, with its figures.

    ``saved`` are the sheets and the money that offcuts in it save.
    """
    (paper,) = job.papers
    plan, comes_to = ready.plan, ready.comes_to
    offcuts = {sheet.id for sheet in paper.sheets if sheet.is_offcut}
    same = {"class_paper_id": fit.class_paper_id, "need": need_of(paper, job.bench), "labels": labels_of(paper)}
    known = PaperPlan.objects.filter(**same).exclude(front=[]).first()
    return PaperPlan.objects.create(
        **same,
        front=known.front if known else [],
        job=write_job(job),
        plan=ready.text,
        steps=ready.steps,
        pieces=fit.pieces,
        stage=stage,
        seconds=seconds,
        sheets=plan.sheets,
        used=used_sheets(plan),
        offcuts=sum(lay.copies for lay in plan.on_sheets if lay.sheet in offcuts),
        saved_sheets=saved[0],
        saved_cost=saved[1],
        cost=comes_to.cost,
        weighed=plan.cost,
        bound=plan.bound,
        priced=all(
            fit.shelf[sheet.id].price for sheet in paper.sheets if sheet.id in fit.shelf and sheet.id not in offcuts
        ),
        proven=plan.proven,
        missing=sum(count for _, count in plan.short),
        layouts=comes_to.layouts,
        strokes=comes_to.strokes,
        trimming=comes_to.seconds,
        settings=comes_to.settings,
        yielded=round(Decimal(comes_to.used.numerator) / comes_to.used.denominator, 6),
    )


def known_plan(fit: PaperFit) -> PaperPlan | None:
    """The best plan found before for what is needed now, with the pieces called as they are now.

    Not one that is cut already: a supplement of the same pieces has a plan of its own, with its own bookings.
    """
    asked = fit.class_paper_id, fit.need, fit.pk
    best = min(_known(*asked), key=lambda plan: plan.rank, default=None)
    if best is None or best.labels == fit.labels:
        return best
    called_so = _known.build(*asked).defer(None).filter(labels=fit.labels, stage=best.stage)
    return min(called_so, key=lambda plan: plan.rank, default=None) or _renamed(fit, best)


@prepared
def _known(class_paper: int, need: str, fit: int) -> QuerySet[PaperPlan]:
    """The plans for a need that no other part was cut by."""
    cut = PaperFit.objects.filter(class_paper=class_paper, held__in=PaperFit.DONE).exclude(pk=fit)
    known = PaperPlan.objects.filter(class_paper=class_paper, need=need, missing=0)
    return known.exclude(pk__in=cut.values("shown")).defer(*LARGE)


def _renamed(fit: PaperFit, kept: PaperPlan) -> PaperPlan | None:
    """The plan once more, with the pieces called as they are now; None if it cannot be."""
    made, now = read_made(kept), job_now(fit)
    try:
        plan = relabelled(made.plan, made.paper, now.papers[0], now.bench)
    except PlanError:
        return None
    ready = replayed(fit, now, plan, kept.stage)
    again = keep_plan(fit, now, ready, kept.stage, kept.seconds, (kept.saved_sheets, kept.saved_cost))
    again.hints = kept.hints
    again.save(update_fields=["hints"])
    return again


def show(fit: PaperFit, plan: PaperPlan) -> None:
    """Show a plan, or only offer it where the shown one is held; one that is no better changes nothing.

    A plan with offcuts that were promised to another class meanwhile is not shown: the class is counted anew. What is
    cut, or being cut, has its plan for good.
    """
    if fit.done:
        return
    if plan.offcuts and not _can_be_had(fit, plan):
        count_later([fit.class_paper.card_class_id])
        return
    if fit.shown_id == plan.pk:
        fit.offered = None
    elif fit.shown is None or not fit.is_held:
        if not fit.answered or plan.rank < fit.shown.rank or plan.labels == fit.labels != fit.shown.labels:
            fit.shown, fit.offered = plan, None
    elif not fit.answered or plan.rank < fit.shown.rank:
        fit.offered = plan
    fit.save(update_fields=["shown", "offered", "changed_at"])
    _forget_old(fit)


def _can_be_had(fit: PaperFit, plan: PaperPlan) -> bool:
    """Whether the offcuts a plan takes are there and promised to nobody else; nobody takes them until this ends."""
    paper = Paper.objects.select_for_update(of=("self",)).get(pk=fit.class_paper.paper_id)
    offcuts = list(Sheet.objects.filter(paper=paper, removed_at=None, is_offcut=True))
    card_class = fit.class_paper.card_class
    me = who(card_class.pk, fit.part)
    there = open_stock(promised(card_class.owner_id), me, paper, offcuts)
    known = {sheet.key for sheet in offcuts}
    whole = {SHEET_ID, *paper.sheets.filter(is_offcut=False).values_list("key", flat=True)}
    return all(there.get(key, 0) >= count for key, count in plan.used.items() if key in known or key not in whole)


def _forget_old(fit: PaperFit) -> None:
    plans = PaperPlan.objects.filter(class_paper=fit.class_paper_id, cutting_at=None, cut_at=None)
    old = list(plans.exclude(pk__in=[fit.shown_id or 0, fit.offered_id or 0]).values_list("pk", flat=True)[KEPT:])
    if old:
        PaperPlan.objects.filter(pk__in=old).delete()


def with_bound_of(plan: Plan, other: PaperPlan | None) -> Plan:
    """The plan with the proof of another for the same need at the same prices, where that is the stronger one."""
    if other and other.proven and not plan.proven and not plan.short and plan.cost == other.weighed:
        return replace(plan, bound=plan.cost, proven=True)
    return plan
