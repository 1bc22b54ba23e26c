"""Work in the background on one paper: asking for it, doing it, stopping it, and its progress."""

from __future__ import annotations

import datetime
import logging
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from zester.classes.models import CardClass
from zester.classes.services import count_class
from zester.core.cards.hidden import rooms_of
from zester.core.cards.study import study
from zester.core.choices import choice_entry, plans
from zester.core.class_job import Wishes, paper_job
from zester.core.cutting.steps import minutes_judge
from zester.core.errors import Cancelled, JobError, PlanError
from zester.core.fitting.engine import Judge
from zester.core.fitting.jobs.job import AT_HOME, PAPER_SECONDS, Job, PaperJob
from zester.core.fitting.jobs.need import places_of
from zester.core.fitting.jobs.plan import PaperPlan as Plan
from zester.core.fitting.jobs.plan import money
from zester.core.fitting.jobs.rest import rest_of
from zester.core.fitting.minutes.least_minutes import least_for
from zester.core.fitting.offcuts import fit_offcuts_first
from zester.core.fitting.proofs.room import WORTH, room_of
from zester.core.geometry import Window
from zester.core.kits.demand import demands_of, with_people
from zester.core.lengths import RULERS
from zester.core.questions import (
    FromMiddles,
    NearMiss,
    SeatRange,
    Steps,
    apart,
    from_middles,
    near,
    price_of_pieces,
    seats,
)
from zester.plans.kept import (
    Replayed,
    habits_of,
    job_now,
    keep_plan,
    known_plan,
    read_made,
    replayed,
    show,
    was_made,
    with_bound_of,
)
from zester.plans.models import PaperFit, PaperPlan, Work
from zester.plans.proofs import keep_proofs
from zester.plans.queue import put, somebody_waits, take_turn
from zester.shelf.services import shelf_paper
from zester.site.prepared import prepared

log = logging.getLogger(__name__)
TELL_EVERY = 0.2
QUICK_SECONDS = 0.15
HINT_SECONDS = 60.0
# How long a sheet fewer is looked for where there is room for one, while nobody waits.
LONGER_SECONDS = 300.0
# How long after a change a first plan is begun, so that one is not made for every letter; how long nobody has to have
# changed anything before what is not urgent is begun.
SETTLE = datetime.timedelta(seconds=0.1)
IDLE = datetime.timedelta(seconds=1.5)
# Alone somebody sees sheets as she types. Where other classes wait for first plans, too, hers is begun when she has
# stopped: the next letter mostly comes within this. Each that waits adds a little, up to so many.
STOPPED_TYPING = datetime.timedelta(seconds=0.45)
MOST_BEFORE = 10
# How long after giving way work is gone on with, the first time.
AGAIN = datetime.timedelta(seconds=0.5)
# How often one piece of work is taken up again after its worker died, and gives way to more urgent work; questions
# give way as often as need be, since they keep what they have found.
MOST_TRIES, MOST_GIVEN_WAY = 3, 12
QUESTIONS = (Work.Kind.HINTS, Work.Kind.ADVICE, Work.Kind.SEATS, Work.Kind.FRONT)
# For how many people fewer and more than come it is looked what they would take.
FEWER_PEOPLE, MORE_PEOPLE, MOST_MORE = 6, 12, 40

STOPPED = "Stopped."

# Which worker this is; set where one is started.
here = threading.local()
stopping = threading.Event()


class GaveWay(Exception):
    """Raised by the progress of work when more urgent work waits for a worker."""


@prepared
def _same(fit: int, kind: str, need: str) -> QuerySet[Work]:
    return Work.objects.filter(fit=fit, kind=kind, need=need, status__in=Work.OPEN, stop_asked=False).order_by("pk")


def ask(fit: PaperFit, kind: str, after: datetime.timedelta = datetime.timedelta(0)) -> Work:
    """Ask for work on what is needed now; what is asked already is left as it is."""
    same = _same(fit.pk, str(kind), fit.need)
    if same:
        return same[0]
    if fit.failed:
        fit.failed = ""
        fit.save(update_fields=["failed", "changed_at"])
    work = Work.objects.create(fit=fit, kind=kind, need=fit.need, due_at=timezone.now() + after)
    put(work)
    return work


@prepared
def _before(kind: str) -> QuerySet:
    before = Work.objects.filter(kind=kind, status__in=Work.OPEN, stop_asked=False)
    return before.values_list("fit__class_paper__card_class", "status")[:MOST_BEFORE]


def first_plans_wait() -> bool:
    """Whether a first plan is to be begun now or in a moment."""
    return any(status == Work.Status.WAITING for _, status in _before(str(Work.Kind.QUICK)))


def settle_now(card_class: int) -> datetime.timedelta:
    """How long after a change a first plan for this class, by key, is begun now."""
    before = _before(str(Work.Kind.QUICK))
    waiting = sum(1 for _, status in before if status == Work.Status.WAITING)
    others = any(one != card_class for one, _ in before)
    return (STOPPED_TYPING if others else SETTLE) + SETTLE * waiting


def stop(**which) -> None:
    """Ask work to stop: what waits stops at once, what is being done at its next step."""
    chosen = Work.objects.filter(status__in=Work.OPEN, **which)
    chosen.update(stop_asked=True)
    chosen.filter(status=Work.Status.WAITING).update(status=Work.Status.STOPPED, ended_at=timezone.now())


@transaction.atomic
def stop_class(card_class: CardClass) -> None:
    """Stop all work on a class because somebody said so; what has no plan says that it was stopped."""
    works = Work.objects.filter(fit__class_paper__card_class=card_class, status__in=Work.OPEN)
    PaperFit.objects.filter(work__in=works.filter(kind__in=(Work.Kind.QUICK, Work.Kind.PROVE))).update(
        failed=STOPPED, changed_at=timezone.now()
    )
    stop(fit__class_paper__card_class=card_class)


def run(pk: int) -> None:
    """Do a piece of work that waits, this one or one of its kind whose turn it is; called by a worker."""
    mine = take_turn(pk, getattr(here, "name", ""))
    if mine is None:
        return
    work = Work.objects.select_related("fit__class_paper__paper", "fit__shown").get(pk=mine)
    end = {"status": Work.Status.DONE}
    try:
        if work.need != work.fit.need:
            raise Cancelled
        DOES[work.kind](work, Progress(work))
    except Cancelled:
        end = {"status": Work.Status.STOPPED}
    except GaveWay:
        _again(work)
        return
    except JobError as error:
        end = {"status": Work.Status.FAILED, "problem": f"This cannot be fitted: {error.text()}"}
    except PlanError as error:
        log.exception("a plan failed its check")
        end = {"status": Work.Status.FAILED, "problem": f"The plan did not pass its check and is not shown ({error})."}
    except Exception:
        log.exception("work failed")
        end = {"status": Work.Status.FAILED, "problem": "Something went wrong while fitting. Try once more."}
    Work.objects.filter(pk=mine, status=Work.Status.WORKING).update(**end, ended_at=timezone.now())
    told = {"failed": end["problem"]} if end.get("problem") else {}
    PaperFit.objects.filter(pk=work.fit_id, need=work.need).update(changed_at=timezone.now(), **told)


@transaction.atomic
def _again(work: Work) -> None:
    work.status, work.worker, work.gave_way = Work.Status.WAITING, "", work.gave_way + 1
    # The oftener, the later: what others are always in the way of waits for a quieter moment.
    work.due_at = timezone.now() + AGAIN * 2 ** min(work.gave_way - 1, 4)
    # Not if somebody has stopped it meanwhile.
    fields = ("status", "worker", "gave_way", "due_at", "found")
    mine = Work.objects.filter(pk=work.pk, status=Work.Status.WORKING, stop_asked=False)
    if mine.update(**{name: getattr(work, name) for name in fields}):
        put(work)
    else:
        Work.objects.filter(pk=work.pk, status=Work.Status.WORKING).update(
            status=Work.Status.STOPPED, ended_at=timezone.now()
        )


class Progress:
    """Hears how far work is: writes it down now and then, and ends the work when it should stop or give way."""

    def __init__(self, work: Work):
        self.work, self.last = work, time.monotonic()

    def __call__(self, words: str) -> None:
        """Called with a few words; raises Cancelled or GaveWay."""
        if stopping.is_set():
            raise GaveWay
        now = time.monotonic()
        if now - self.last < TELL_EVERY:
            return
        self.last = now
        if self._may_give_way and somebody_waits(self.work.kind):
            raise GaveWay
        told = Work.objects.filter(pk=self.work.pk, status=Work.Status.WORKING, stop_asked=False)
        if not told.update(words=words[:120], told_at=timezone.now()):
            raise Cancelled

    @property
    def _may_give_way(self) -> bool:
        kind = self.work.kind
        return kind in QUESTIONS or (kind != Work.Kind.QUICK and self.work.gave_way < MOST_GIVEN_WAY)


def _fit(work: Work, tell: Progress, stage: str, seconds: float) -> PaperPlan | None:
    """Fit what is needed, keep the plan and show it if it is still needed and better; None if nobody needs it now."""
    fit, job = work.fit, job_now(work.fit)
    started = time.monotonic()
    judge = minutes_judge(habits_of(fit, fit.pieces)) if stage == PaperPlan.Stage.POLISHED else None
    found = fit_offcuts_first(job.papers[0], job.bench, tell, seconds, judge, fit.shown.used if fit.shown else ())
    taken, plan, saved = time.monotonic() - started, found.plan, (found.sheets, found.cost)
    if judge:
        plan = _easier(plan, fit, job, judge)
    return _keep(work, job, plan, stage, taken, saved)


def _keep(work: Work, job: Job, plan: Plan, stage: str, taken: float, saved: tuple[int, Decimal]) -> PaperPlan | None:
    """Keep a plan, and show it if it is still needed and better; None if nobody needs it now."""
    fit = work.fit
    ready, stage_now = _replayed(PaperFit.objects.select_related("shown").get(pk=fit.pk), work.fit, job, plan, stage)
    with transaction.atomic():
        fit = (
            PaperFit.objects.select_for_update(of=("self",))
            .select_related("class_paper__paper", "shown")
            .get(pk=fit.pk)
        )
        if fit.need != work.need:
            return None
        if with_bound_of(plan, fit.shown if fit.answered else None) != ready.plan:
            # Another plan came meanwhile, and with it another proof.
            ready, stage_now = _replayed(fit, work.fit, job, plan, stage)
        kept = keep_plan(work.fit, job, ready, stage_now, taken, saved)
        # Pieces may have got other names meanwhile.
        now = kept if kept.labels == fit.labels else known_plan(fit)
        if now:
            show(fit, now)
        go_on(fit, kept)
    return kept


def _replayed(now: PaperFit, asked: PaperFit, job: Job, plan: Plan, stage: str) -> tuple[Replayed, str]:
    """The plan, replayed, with the proof of what is shown now; and the stage that gives it."""
    plan = with_bound_of(plan, now.shown if now.answered else None)
    if plan.proven and stage == PaperPlan.Stage.QUICK:
        stage = PaperPlan.Stage.PROVEN
    return replayed(asked, job, plan, stage), stage


def _easier(plan: Plan, fit: PaperFit, job: Job, judge: Judge) -> Plan:
    """The plan, or the shown one where that is as thrifty and takes fewer minutes: polishing never makes them more."""
    shown = fit.shown
    if not shown or not fit.answered or shown.labels != fit.labels or shown.stage != PaperPlan.Stage.PROVEN:
        return plan
    known = read_made(shown).plan
    if plan.short != known.short or (plan.cost, plan.sheets) != (known.cost, known.sheets):
        return plan
    return min((plan, known), key=lambda each: judge(job.papers[0], each, job.bench))


def go_on(fit: PaperFit, plan: PaperPlan) -> None:
    """Ask for what comes next after a plan was found: the proof, fewer minutes, what each piece costs."""
    if plan.stage == PaperPlan.Stage.QUICK:
        ask(fit, Work.Kind.PROVE)
    elif settings.IDLE_WORK and plan.stage == PaperPlan.Stage.PROVEN:
        ask(fit, Work.Kind.POLISH, IDLE)
    elif settings.IDLE_WORK and not plan.hints:
        ask(fit, Work.Kind.HINTS, IDLE)


def _quick(work: Work, tell: Progress) -> None:
    _fit(work, tell, PaperPlan.Stage.QUICK, QUICK_SECONDS)


def _prove(work: Work, tell: Progress) -> None:
    _fit(work, tell, PaperPlan.Stage.PROVEN, PAPER_SECONDS)


def _polish(work: Work, tell: Progress) -> None:
    _fit(work, tell, PaperPlan.Stage.POLISHED, PAPER_SECONDS)
    keep_proofs(work.fit.class_paper_id, work.need)


def _room(work: Work, job: Job, tell: Progress) -> Decimal | None:
    """How much room the shown plan leaves, if it is not proven; with enough a sheet fewer is looked for much longer.

    What is found then is a plan like any other.
    """
    made = read_made(work.fit.shown)
    room = room_of(made.paper, made.job.bench, made.plan, tell)
    if room is None or room < WORTH or work.found.get("longer"):
        return room
    started = time.monotonic()
    found = fit_offcuts_first(job.papers[0], job.bench, tell, LONGER_SECONDS, None, work.fit.shown.used)
    work.found["longer"] = True
    if not found.plan.short and (found.plan.cost < made.plan.cost or found.plan.proven):
        _keep(work, job, found.plan, PaperPlan.Stage.PROVEN, time.monotonic() - started, (found.sheets, found.cost))
        return max(Decimal(0), room - (made.plan.sheets - found.plan.sheets))
    return room


def _hints(work: Work, tell: Progress) -> None:
    """What each piece costs, and which is only just too large; kept with the shown plan by the pieces' places."""
    job = job_now(work.fit)
    paper = job.papers[0]
    if paper.pins or paper.pool in AT_HOME:
        return
    steps = Steps(work.found, HINT_SECONDS)
    costs = price_of_pieces(paper, job.bench, tell, steps=steps)
    misses = near(paper, job.bench, job.unit, tell, steps=steps).misses
    places = places_of(paper)
    hints = {"costs": {str(places[piece]): sheets for piece, sheets in costs.items()}, "near": []}
    for miss in misses:
        entry = {"places": [places[piece] for piece in miss.pieces], "side": miss.side, "sheets": miss.sheets}
        hints["near"].append(entry | {"smaller": miss.smaller})
    if work.fit.answered:
        room = _room(work, job, tell)
        hints |= {"room": str(room)} if room is not None else {}
        hints["least"] = least_for(paper, job.bench, read_made(work.fit.shown).plan.cost, tell)
    # At the usual pace, as a plan's own seconds are kept.
    hints["apart"] = list(apart(paper, job.bench, minutes_judge(), tell, steps))
    PaperPlan.objects.filter(class_paper=work.fit.class_paper_id, need=work.need).update(hints=hints)


def _advice(work: Work, tell: Progress) -> None:
    """Other plans, free seats and near misses of what is shown."""
    plan = work.fit.shown
    if plan is None or plan.need != work.need:
        raise Cancelled
    job = read_made(plan).job
    _keep_front(plan, job, tell, work.found)
    found = _advise(job, job.papers[0], tell, work.found)
    rooms = _rooms(work.fit)
    boxes = {host: box for host, (box, _) in rooms.items()}
    middles = from_middles(job.papers[0], job.bench, boxes, tell, steps=Steps(work.found.setdefault("from", {})))
    found["middles"] = [_middles_entry(each, rooms) for each in middles]
    PaperPlan.objects.filter(pk=plan.pk).update(advice=found)


def _rooms(fit: PaperFit) -> dict[str, tuple[Window, str]]:
    """The middles that layers of the class's cards hide and no line uses, with what it would say, by its handle."""
    counted = count_class(fit.class_paper.card_class)
    found = {}
    for read in counted.designs:
        ruler = RULERS[read.entry.card.ruler]
        looked = study(read.readings, counted.known, ruler, read.entry.version)
        found |= {f"{read.entry.letter}{number}": room for number, room in rooms_of(looked).items()}
    return found


def _middles_entry(each: FromMiddles, rooms: dict[str, tuple[Window, str]]) -> dict:
    hosts = [(host, *rooms[host]) for host in each.hosts]
    return {
        "pieces": list(each.pieces),
        "hosts": [[host, box.width, box.height, rule] for host, box, rule in hosts],
        "sheets": each.sheets,
        "money": money(each.money),
    }


def _advise(job: Job, paper: PaperJob, tell: Callable[[str], None], known: dict) -> dict:
    bench, steps = job.bench, Steps(known)
    found = {}
    seated, missed = seats(paper, bench, tell, steps=steps), near(paper, bench, job.unit, tell, steps=steps)
    found["seats"] = [_range_entry(step) for step in seated.ranges]
    found["near"] = [_near_entry(miss) for miss in missed.misses]
    found["looked"] = {"seats": seated.exact, "sizes": missed.looked, "of": missed.of}
    return found


def _front(work: Work, tell: Progress) -> None:
    """Plans from the thriftiest to the easiest of what is shown."""
    plan = work.fit.shown
    if plan is None or plan.need != work.need:
        raise Cancelled
    job = read_made(plan).job
    _keep_front(plan, job, tell, work.found)


def _keep_front(plan: PaperPlan, job: Job, tell: Callable[[str], None], known: dict) -> None:
    paper = job.papers[0]
    if plan.front or paper.pins or paper.pool in AT_HOME:
        return
    shown = read_made(plan).plan
    front = [choice_entry(choice, job.unit) for choice in plans(paper, job.bench, tell, known=known, shown=shown)]
    # Another plan for the same need may have come meanwhile.
    same = PaperPlan.objects.filter(class_paper=plan.class_paper_id, need=plan.need, labels=plan.labels)
    same.update(front=front)


def _range_entry(step: SeatRange) -> dict:
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


def _seats(work: Work, tell: Progress) -> None:
    """What the paper takes as more people come, up to the seats there are; kept with the shown plan.

    Each number of people is counted as the class would be: whoever comes more has no name yet and gets the usual.
    """
    job, fit = job_now(work.fit), work.fit
    counted = count_class(fit.class_paper.card_class)
    fewer, more = seats_to_show(counted.people, counted.card_class.capacity)
    least, most = max(1, counted.people - fewer), counted.people + more
    cut = PaperFit.objects.filter(class_paper=fit.class_paper_id, held__in=PaperFit.DONE).exclude(pk=fit.pk)
    made = [was_made(each) for each in cut.select_related("shown")]

    def job_for(people: int) -> PaperJob | None:
        needs = with_people(counted.needs, people - counted.people)
        counts = replace(counted, needs=needs, demands=tuple(demands_of(needs))).counts
        wanted = [each for each in counts if each.count and each.piece.paper == fit.paper.key]
        if not any(not each.piece.filler for each in wanted):
            return None
        whole = paper_job(shelf_paper(fit.paper), wanted, Wishes(job.bench))
        return rest_of(whole, made).job if made else whole

    found = seats(job.papers[0], job.bench, tell, most, Steps(work.found), least, job_for)
    growth = {"at": counted.people, "runs": [_range_entry(step) for step in found.ranges]}
    PaperPlan.objects.filter(class_paper=fit.class_paper_id, need=work.need).update(growth=growth)


def seats_to_show(people: int, capacity: int | None) -> tuple[int, int]:
    """For how many people fewer and more than come it is worked out: up to the seats there are, or a dozen more."""
    more = MORE_PEOPLE if capacity is None else max(1, min(MOST_MORE, capacity - people))
    return min(FEWER_PEOPLE, max(0, people - 1)), more


DOES = {
    Work.Kind.QUICK: _quick,
    Work.Kind.PROVE: _prove,
    Work.Kind.POLISH: _polish,
    Work.Kind.HINTS: _hints,
    Work.Kind.ADVICE: _advice,
    Work.Kind.SEATS: _seats,
    Work.Kind.FRONT: _front,
}
