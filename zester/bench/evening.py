"""The order of work of a class for its designer: trimming, jobs done alike in one go, what dries, packing."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from django.db import transaction
from django.utils import timezone

from zester.bench.models import HandLog
from zester.bench.runs import Cutting, cuttings_of, fits_of, steps_of
from zester.classes.models import CardClass
from zester.classes.services import count_class
from zester.core.cautions import cautions_for
from zester.core.cutting.evening import (
    DRYING,
    LYING,
    PHASES,
    TRIMMED_FIRST,
    TRIMMING,
    WORKING,
    Job,
    Task,
    drying_in_words,
    evening_in_words,
    in_one_go,
    in_order,
    minutes_by_person,
    minutes_in_words,
    packing,
    sittings,
)
from zester.core.cutting.handwork import TIE_SECONDS
from zester.core.cutting.own_minutes import Logged, kind_of, own_seconds, own_shares
from zester.core.pieces import BEFORE, OPEN
from zester.plans.kept import names_for
from zester.plans.models import PaperFit
from zester.site.stations import some

# So many entries of the log are looked at, the latest first.
LATEST_LOGS = 300


def evening_of(card_class: CardClass, minutes: int) -> dict:
    """What the page shows: the tasks by phase, what is left in words, sittings of at most so many minutes."""
    fits = fits_of(card_class)
    cuttings = cuttings_of(fits)
    shares = own_shares_of(card_class)
    jobs = {fit.pk: list(_handwork(fit, shares)) for fit in fits}
    tasks = [_trimming(fit, cuttings.get(fit.pk), jobs[fit.pk]) for fit in fits]
    done = {(each.job, each.by): each for each in HandLog.objects.filter(card_class=card_class)}
    tasks += [_with_done(task, done.get((task.job, task.by))) for task in in_one_go(_all(jobs))]
    tasks = in_order([*tasks, *_ties(card_class), *_packing(card_class)])
    groups = sittings(tasks, minutes)
    people = minutes_by_person(tasks)
    return {
        "phases": [_phase(phase, tasks) for phase in PHASES if any(task.phase == phase for task in tasks)],
        "words": evening_in_words(tasks),
        "minutes": minutes,
        "sittings": [(group, minutes_in_words(group.minutes)) for group in groups],
        "people": [(name, minutes_in_words(each)) for name, each in people.items()] if len(people) > 1 else [],
        "cautions": cautions_for({task.tool for task in tasks if not task.done}),
        "any": bool(tasks),
    }


def own_shares_of(card_class: CardClass) -> dict[str, tuple[int, int]]:
    """By kind of job what hers took of the usual so far."""
    rows = HandLog.objects.filter(owner=card_class.owner_id).values_list("job", "usual_seconds", "seconds")[
        :LATEST_LOGS
    ]
    return own_shares(Logged(kind=kind_of(job), usual=usual, seconds=seconds) for job, usual, seconds in rows)


def _all(jobs: Mapping[int, list[Job]]) -> Iterator[Job]:
    return (job for mine in jobs.values() for job in mine)


def _with_done(task: Task, done: HandLog | None) -> Task:
    """What was done of it stays done; what came to it since is left."""
    if done is None:
        return task
    left = max(0, task.count - done.count)
    if not left:
        return replace(task, done=True)
    what = f"{task.what}; {done.count} of {task.count} are done"
    return replace(task, what=what, seconds=-(-task.seconds * left // task.count))


@transaction.atomic
def log_job(card_class: CardClass, job: str, by: str, seconds: int) -> bool:
    """Say that a job by hand is done for all its pieces, and how long it took; False if there is no such job now."""
    jobs = in_one_go(_all({fit.pk: list(_handwork(fit, {})) for fit in fits_of(card_class)}))
    task = next((task for task in jobs if (task.job, task.by) == (job, by)), None)
    if task is None:
        return False
    before = HandLog.objects.filter(card_class=card_class, job=job, by=by).first()
    if before and before.count < task.count:
        # More pieces came to it: what the first took counts with them, if both were timed.
        seconds = before.seconds + seconds if before.seconds and seconds else 0
    about = {"owner": card_class.owner, "title": card_class.title, "count": task.count, "usual_seconds": task.usual}
    about |= {"seconds": seconds, "done_at": timezone.now()}
    HandLog.objects.update_or_create(card_class=card_class, job=job, by=by, defaults=about)
    return True


def forget_job(card_class: CardClass, job: str, by: str) -> None:
    """It is not done after all."""
    HandLog.objects.filter(card_class=card_class, job=job, by=by).delete()


@dataclass(frozen=True)
class _Phase:
    """A phase of the page."""

    name: str
    """What it is called."""
    rows: list[tuple[Task, str]]
    """Its tasks, each with how long it takes."""
    time: str
    """How long what is left of it takes."""
    dries: str
    """How long it dries, in words."""


def _phase(phase: str, tasks: list[Task]) -> _Phase:
    mine = [task for task in tasks if task.phase == phase]
    left = sum(task.minutes for task in mine if not task.done)
    rows = [(task, minutes_in_words(task.minutes)) for task in mine]
    return _Phase(phase, rows, minutes_in_words(left) if left else "", drying_in_words(tasks, phase))


def _trimming(fit: PaperFit, cutting: Cutting | None, jobs: list[Job]) -> Task:
    done = fit.held == PaperFit.Held.CUT
    steps = cutting.cut_steps if cutting else steps_of(fit)
    gone = cutting.steps_done if cutting and not done else 0
    left = some(len(steps.steps) - gone, "step")
    return Task(
        phase=TRIMMED_FIRST if any(job.phase == DRYING for job in jobs) else TRIMMING,
        what=f"{fit.name}: {some(fit.shown.new_sheets, 'sheet')}, {left}",
        seconds=sum(steps.each_seconds(fit.class_paper.card_class.cut_with.pace)[gone:]),
        tool="blade",
        key=fit.key,
        done=done,
    )


def _handwork(fit: PaperFit, shares: Mapping[str, tuple[int, int]]) -> Iterator[Job]:
    """What its designer does to its pieces, not what is done in class or at home; nor to those that are cut there.

    By ``shares`` what she has logged takes her own time.
    """
    for handle, about in names_for(fit).items():
        count = about["count"] - about.get("home", 0)
        for work in about.get("work", ()) if count > 0 else ():
            if work["when"] in (BEFORE, OPEN):
                said, usual = work.get("said", False), work["seconds"]
                yield Job(
                    phase=DRYING if work["first"] else LYING if work.get("last") else WORKING,
                    what=work["what"],
                    pile=f"{handle} {about['name']}",
                    count=count,
                    seconds=usual if said else own_seconds(kind_of(work["what"]), usual, shares),
                    by=work["by"],
                    tool=work["tool"],
                    dries=work.get("dries", 0),
                    usual=0 if said else usual,
                )


def _ties(card_class: CardClass) -> Iterator[Task]:
    """Bits that a list calls tied: bows and knots are made beforehand."""
    for name, count, *_ in card_class.bits:
        if count and re.search(r"\btied\b", name, re.IGNORECASE):
            yield Task(phase=WORKING, what=f"{name}: tie {count}", seconds=TIE_SECONDS * count)


def _packing(card_class: CardClass) -> list[Task]:
    packed = count_class(card_class).packed
    return packing(packed.bags_in_all, packed.kits_in_all, packed.pieces_in_bags)
