"""Other plans, free seats and near misses of a finished fit: asking for them, working them out, taking one."""

from __future__ import annotations

import datetime
import logging
import time
from collections.abc import Callable
from dataclasses import replace

from django.db import transaction
from django.utils import timezone

from zester.classes.services import read_class
from zester.core.choices import OWN, choice_entry, plans
from zester.core.errors import Cancelled, JobError
from zester.core.fitting.check import check_plan
from zester.core.fitting.job import Job, PaperJob, write_job
from zester.core.fitting.plan import Plan, money, read_paper, write_plan
from zester.core.questions import NearMiss, Step, near, seats
from zester.fits.models import Advice, Fit
from zester.fits.services import fingerprint, job_of, set_pool, with_plan

log = logging.getLogger(__name__)
TELL_EVERY = 0.25
PATIENCE = datetime.timedelta(seconds=90)


@transaction.atomic
def ask_advice(found: Fit, enqueue: Callable[[int], object]) -> Advice:
    """Ask about a finished fit; what is asked already is returned as it is, unless it failed."""
    advice_of(found)
    Advice.objects.filter(fit=found, status__in=(Fit.Status.FAILED, Fit.Status.STOPPED)).delete()
    advice, new = Advice.objects.get_or_create(fit=found)
    if new:
        transaction.on_commit(lambda: enqueue(advice.pk))
    return advice


def advice_of(found: Fit) -> Advice | None:
    """The advice on a fit, if it was asked for; one whose worker must have died is called failed first."""
    advice = Advice.objects.filter(fit=found).first()
    if advice and advice.running and timezone.now() > advice.told_at + PATIENCE:
        advice.status = Fit.Status.FAILED
        advice.save(update_fields=["status"])
    return advice


def run_advice(pk: int) -> None:
    """Work out what was asked, paper by paper; called by the background worker."""
    if not Advice.objects.filter(pk=pk, status=Fit.Status.WAITING).update(status=Fit.Status.WORKING):
        return
    advice = Advice.objects.select_related("fit").get(pk=pk)
    job, _ = with_plan(advice.fit)
    try:
        for number, paper in enumerate(job.papers):
            _advise(advice, job, paper)
            advice.done = number + 1
            advice.told_at = timezone.now()
            advice.save(update_fields=["plans", "seats", "near", "done", "told_at"])
        advice.status = Fit.Status.DONE
    except Cancelled:
        advice.status = Fit.Status.STOPPED
    except Exception:
        log.exception("advice failed")
        advice.status = Fit.Status.FAILED
    Advice.objects.filter(pk=pk).update(status=advice.status)


def _advise(advice: Advice, job: Job, paper: PaperJob) -> None:
    tell = _Teller(advice, paper.id)
    bench = job.bench
    if not paper.pins and paper.pool != "portions":
        advice.plans[paper.id] = [choice_entry(choice, job.unit) for choice in plans(paper, bench, tell)]
    advice.seats[paper.id] = [_step_entry(step) for step in seats(paper, bench, tell).steps]
    advice.near[paper.id] = [_near_entry(miss) for miss in near(paper, bench, job.unit, tell)]


def _step_entry(step: Step) -> dict:
    return {
        "first": step.first,
        "last": step.last,
        "sheets": step.sheets,
        "packs": step.packs,
        "price": money(step.price),
    }


def _near_entry(miss: NearMiss) -> dict:
    return {
        "pieces": list(miss.pieces),
        "side": miss.side,
        "smaller": miss.smaller,
        "sheets": miss.sheets,
        "money": money(miss.money),
    }


class _Teller:
    """Writes what it is at to the row now and then, and stops when the fit is no longer the newest."""

    def __init__(self, advice: Advice, paper: str):
        self.advice, self.paper, self.last = advice, paper, 0.0

    def __call__(self, words: str) -> None:
        now = time.monotonic()
        if now - self.last < TELL_EVERY:
            return
        self.last = now
        Advice.objects.filter(pk=self.advice.pk).update(words=f"{self.paper}: {words}"[:120], told_at=timezone.now())
        found = self.advice.fit
        if Fit.objects.filter(card_class=found.card_class_id, pk__gt=found.pk).exists():
            raise Cancelled


@transaction.atomic
def take_plan(found: Fit, paper: str, name: str) -> Fit:
    """Put another of the advised plans in the place of the paper's, as a new fit, checked like any.

    Raises JobError if the class has changed since, or there is no such plan.
    """
    choice = next((entry for entry in found.advice.plans.get(paper, []) if entry["name"] == name), None)
    if choice is None:
        raise JobError("That plan is not there any more", mend="Ask for other plans once more")
    old_job, old_plan = with_plan(found)
    if fingerprint(old_job) != fingerprint(job_of(read_class(found.card_class))):
        raise JobError("The class has changed since these plans were made", mend="Fit again, then ask once more")
    set_pool(found.card_class, paper, "own" if name == OWN else "together")
    job = job_of(read_class(found.card_class))
    taken = read_paper(choice["plan"], old_job.unit)
    plan = replace(old_plan, papers=tuple(taken if entry.id == paper else entry for entry in old_plan.papers))
    check_plan(job, plan)
    new = _copy(found, job, plan)
    found.advice.fit = new
    found.advice.save(update_fields=["fit"])
    return new


def _copy(found: Fit, job: Job, plan: Plan) -> Fit:
    return Fit.objects.create(
        card_class=found.card_class,
        status=Fit.Status.DONE,
        fingerprint=fingerprint(job),
        job=write_job(job),
        plan=write_plan(plan),
        context=found.context,
        to_buy=found.to_buy,
        papers=found.papers,
        done=found.papers,
        finished_at=timezone.now(),
    )
