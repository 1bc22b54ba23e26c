"""Starting, running and keeping fits."""

from __future__ import annotations

import datetime
import hashlib
import logging
import time
from collections.abc import Callable
from dataclasses import replace

from django.db import transaction
from django.utils import timezone

from zester.classes.models import CardClass
from zester.classes.services import ClassSheet, read_class
from zester.core.class_job import Wishes, class_job
from zester.core.errors import Cancelled, JobError, PlanError
from zester.core.fitting.buying import sheets_to_buy
from zester.core.fitting.check import check_pins, check_plan
from zester.core.fitting.engine import PAPER_SECONDS, Progress, fit
from zester.core.fitting.job import POOLS, Bench, Job, check_job, read_job, write_job
from zester.core.fitting.parts import CutLimits
from zester.core.fitting.plan import Layout, Plan, layout_entry, read_layout, read_plan, write_plan
from zester.core.fitting.summary import KeepRule
from zester.fits.models import Fit
from zester.shelf.services import looks, papers_of, shelf_papers

log = logging.getLogger(__name__)
TELL_EVERY = 0.25
KEPT_FITS = 20


def job_of(sheet: ClassSheet) -> Job:
    """The fit job of a class.

    Raises JobError if a list has lines to mend, there is nothing to cut, the trimmer cannot cut a sheet or a piece, or
    a pinned layout no longer goes with the lists.
    """
    if sheet.errors:
        where = ", ".join(f"{card.entry.letter} {card.entry.card.name}" for card in sheet.cards if card.errors)
        raise JobError(f"{sheet.errors} line{'' if sheet.errors == 1 else 's'} to mend first", where)
    card_class = sheet.card_class
    papers = shelf_papers(papers_of(card_class.owner))
    job = class_job(card_class.unit, papers, sheet.counts, _wishes(card_class))
    for paper in job.papers:
        try:
            check_job(replace(job, papers=(paper,)))
        except JobError as error:
            # A file's field means nothing here; the paper's name does.
            raise JobError(error.what, paper.id, error.mend) from error
    check_pins(job)
    return job


def _wishes(card_class: CardClass) -> Wishes:
    limits = CutLimits(card_class.longest_cut, card_class.narrowest)
    bench = Bench(card_class.stack, limits, (card_class.keep_short, card_class.keep_long))
    pins = {
        paper: tuple(replace(read_layout(entry, kept["unit"]), pinned=True) for entry in kept["layouts"])
        for paper, kept in card_class.pins.items()
    }
    return Wishes(bench, card_class.participants, card_class.pools, pins)


def keep_rule(card_class: CardClass) -> KeepRule:
    """The smallest offcut the class keeps."""
    return KeepRule(card_class.keep_short, card_class.keep_long)


def fingerprint(job: Job) -> str:
    """The same for the same job; what is pinned does not make a plan old."""
    unpinned = replace(job, papers=tuple(replace(paper, pins=()) for paper in job.papers))
    return hashlib.sha256(write_job(unpinned).encode()).hexdigest()


def latest_fit(card_class: CardClass) -> Fit | None:
    """The newest fit of the class; one whose worker must have died is called failed first."""
    newest = card_class.fits.first()
    if newest and newest.running and timezone.now() > newest.created_at + _patience(newest):
        newest.status, newest.problem = Fit.Status.FAILED, "The fit was interrupted. Try once more."
        newest.save(update_fields=["status", "problem"])
    return newest


def _patience(found: Fit) -> datetime.timedelta:
    # Twice what the papers may take, and a minute for those in the queue before it.
    return datetime.timedelta(seconds=60 + 2 * (PAPER_SECONDS + 1) * found.papers)


def latest_plan(card_class: CardClass) -> Fit | None:
    """The newest fit that has a plan."""
    return card_class.fits.filter(status=Fit.Status.DONE).first()


def is_current(found: Fit, sheet: ClassSheet) -> bool:
    """Whether the class is still as it was when the fit was made."""
    try:
        return found.fingerprint == fingerprint(job_of(sheet))
    except JobError:
        return False


@transaction.atomic
def start_fit(card_class: CardClass, enqueue: Callable[[int], object] | None = None) -> Fit:
    """Make a fit of the class and hand its key to ``enqueue`` once it is stored; without that the caller runs it.

    One that already waits or runs is returned instead of a second one.

    Raises JobError as ``job_of`` does.
    """
    running = latest_fit(card_class)
    if running and running.running:
        return running
    sheet = read_class(card_class)
    job = job_of(sheet)
    new = Fit.objects.create(
        card_class=card_class,
        fingerprint=fingerprint(job),
        job=write_job(job),
        context=_context(sheet, job),
        papers=len(job.papers),
    )
    if enqueue:
        transaction.on_commit(lambda: enqueue(new.pk))
    return new


def _context(sheet: ClassSheet, job: Job) -> dict:
    used = {paper.id for paper in job.papers}
    papers = [paper for paper in papers_of(sheet.card_class.owner) if paper.name in used]
    pieces = {
        entry.handle: {"name": entry.piece.name, "card": entry.card, "why": entry.why, "count": entry.count}
        for entry in sheet.counts
    }
    return {"papers": looks(papers), "pieces": pieces}


def ask_to_stop(found: Fit) -> None:
    """Ask a running fit to stop; one that still waits stops at once."""
    Fit.objects.filter(pk=found.pk).update(stop_asked=True)
    Fit.objects.filter(pk=found.pk, status=Fit.Status.WAITING).update(status=Fit.Status.STOPPED)


def run_fit(pk: int) -> None:
    """Run a waiting fit to its end and keep what it finds; called by the background worker."""
    if not Fit.objects.filter(pk=pk, status=Fit.Status.WAITING).update(status=Fit.Status.WORKING):
        return
    found = Fit.objects.get(pk=pk)
    try:
        job = read_job(found.job)
        plan = fit(job, _Teller(found))
        text = write_plan(plan)
        check_plan(job, read_plan(text))
        found.to_buy = _to_buy(job, plan)
        found.plan, found.status = text, Fit.Status.DONE
        found.done = found.papers
    except Cancelled:
        found.status = Fit.Status.STOPPED
    except JobError as error:
        found.status, found.problem = Fit.Status.FAILED, f"This cannot be fitted: {error.text()}"
    except PlanError as error:
        log.exception("a plan failed its check")
        found.status, found.problem = Fit.Status.FAILED, f"The plan did not pass its check and is not shown ({error})."
    except Exception:
        log.exception("a fit failed")
        found.status, found.problem = Fit.Status.FAILED, "Something went wrong while fitting. Try once more."
    found.finished_at = timezone.now()
    found.save(update_fields=["to_buy", "plan", "status", "problem", "done", "finished_at"])
    _forget_old(found.card_class)


def _to_buy(job: Job, plan: Plan) -> dict[str, int]:
    """For every paper that is short, how many more sheets it takes."""
    short = {paper.id for paper in plan.papers if paper.short}
    return {paper.id: sheets_to_buy(paper, job.bench) for paper in job.papers if paper.id in short}


def _forget_old(card_class: CardClass) -> None:
    old = card_class.fits.values_list("pk", flat=True)[KEPT_FITS:]
    card_class.fits.filter(pk__in=list(old)).delete()


class _Teller:
    """Writes progress to the fit's row now and then, and stops the fit when that was asked."""

    def __init__(self, found: Fit):
        self.pk, self.last = found.pk, 0.0

    def __call__(self, progress: Progress) -> None:
        now = time.monotonic()
        if now - self.last < TELL_EVERY:
            return
        self.last = now
        so_far = [
            {"paper": paper.id, "sheets": paper.sheets, "proven": paper.proven, "short": bool(paper.short)}
            for paper in progress.so_far
        ]
        Fit.objects.filter(pk=self.pk).update(
            done=progress.done, words=f"{progress.paper}: {progress.words}"[:120], so_far=so_far
        )
        if Fit.objects.filter(pk=self.pk, stop_asked=True).exists():
            raise Cancelled


def with_plan(found: Fit) -> tuple[Job, Plan]:
    """The job and plan of a finished fit."""
    return read_job(found.job), read_plan(found.plan)


def set_pool(card_class: CardClass, paper: str, pool: str) -> None:
    """Say how a paper's pieces are pooled in the class; pinned layouts of a paper that is pooled anew are let go."""
    if pool not in POOLS:
        raise JobError(f"“{pool}” is no way to pool")
    pools, pins = dict(card_class.pools), dict(card_class.pins)
    pools.pop(paper, None)
    pins.pop(paper, None)
    if pool != "together":
        pools[paper] = pool
    card_class.pools, card_class.pins = pools, pins
    card_class.save(update_fields=["pools", "pins"])


def pin(found: Fit, paper: str, number: int) -> None:
    """Keep a layout of the plan as it is in the fits to come; raises LookupError if there is no such layout."""
    job, plan = with_plan(found)
    layout = next(entry for entry in plan.papers if entry.id == paper).layouts[number]
    card_class, pins = found.card_class, dict(found.card_class.pins)
    kept = pins.get(paper, {"unit": job.unit, "layouts": []})
    entry = layout_entry(replace(layout, pinned=False), kept["unit"])
    if entry not in kept["layouts"]:
        pins[paper] = {"unit": kept["unit"], "layouts": [*kept["layouts"], entry]}
    card_class.pins = pins
    card_class.save(update_fields=["pins"])


def unpin(card_class: CardClass, paper: str = "", number: int | None = None) -> None:
    """Let a pinned layout of a paper go, all of the paper's, or all there are."""
    pins = dict(card_class.pins) if paper else {}
    kept = pins.pop(paper, None)
    if kept and number is not None:
        left = [entry for index, entry in enumerate(kept["layouts"]) if index != number]
        pins |= {paper: {"unit": kept["unit"], "layouts": left}} if left else {}
    card_class.pins = pins
    card_class.save(update_fields=["pins"])


def pinned_in(card_class: CardClass, paper: str) -> list[Layout]:
    """The layouts of a paper that are pinned now."""
    kept = card_class.pins.get(paper)
    return [read_layout(entry, kept["unit"]) for entry in kept["layouts"]] if kept else []
