"""Cutting for real: beginning, ticking steps off, what went wrong, the end.

begin --ticks--> ... --mishap (refits.py)--> a new run from where one stands --> ... --> finish: ledger, offcuts, log
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from uuid import UUID

from django.core.cache import cache
from django.db import transaction
from django.db.models import Max, QuerySet
from django.utils import timezone

from zester.bench.models import CutLog, Run, Tick
from zester.classes.models import CardClass, Trimmer
from zester.core.cutting.learning import Taken, learnt
from zester.core.cutting.mishap import Stand, begun
from zester.core.cutting.record import read_steps, read_table, steps_data, table_data
from zester.core.cutting.steps import KEEP, PILE, CutSteps, Step
from zester.core.cutting.table import Lying, Table
from zester.core.pace import Pace
from zester.core.stock.offcut_lines import OffcutLine
from zester.plans.kept import Made, habits_of, habits_text, names_for, plan_steps, read_made
from zester.plans.models import PaperFit
from zester.plans.standing import papers_in
from zester.site.prepared import prepared
from zester.supply.booking import Opened, cut, let_go

A_DAY = 86_400
# A step that took longer was not worked on all the time.
AWAY_SECONDS = 300
MOST_TICK_SECONDS = 3600.0
# So far a device may have counted on without a line.
MOST_AHEAD = 5_000


# What a paper's page, its steps and its booking need of it.
WITH_ALL = ("class_paper__paper", "class_paper__card_class__trimmer", "class_paper__card_class__owner")
WITH_ALL += ("shown", "offered")


def fits_of(card_class: CardClass) -> list[PaperFit]:
    """The papers of a class that have a plan, whole, card stock first."""
    keys = [fit.pk for fit in papers_in(card_class).shown]
    found = PaperFit.objects.select_related(*WITH_ALL).in_bulk(keys)
    return [found[key] for key in keys]


def steps_of(fit: PaperFit, made: Made | None = None) -> CutSteps:
    """The steps that cut the shown plan, the way the class's trimmer is cut with; worked out once."""
    habits = habits_of(fit, names_for(fit))
    known = f"{fit.shown.made_at.timestamp()} {habits_text(habits)}"
    found = cache.get(f"steps-{fit.shown_id}")
    if found is None or found[0] != known:
        found = known, plan_steps(fit.shown, habits, made)
        cache.set(f"steps-{fit.shown_id}", found, A_DAY)
    return found[1]


@dataclass(frozen=True)
class Cutting:
    """A paper that is being cut, or was."""

    fit: PaperFit
    """The paper of the class."""
    run: Run
    """The newest run of its shown plan."""

    @cached_property
    def made(self) -> Made:
        """The plan with its job."""
        return read_made(self.fit.shown)

    @property
    def turn(self) -> int:
        """The highest turn of its ticks; a bench counts on from there."""
        return last_turn(self.run)

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """The steps of the run."""
        return read_steps(self.run.steps)

    @cached_property
    def stand(self) -> Stand:
        """Where one stands."""
        return Stand(
            job=self.made.paper,
            plan=self.made.plan,
            steps=self.steps,
            done=self.steps_done,
            before=read_table(self.run.before),
        )

    @property
    def cut_steps(self) -> CutSteps:
        """The same, added up."""
        return CutSteps(self.steps, self.run.places)

    @cached_property
    def steps_so_far(self) -> tuple[Step, ...]:
        """What was done before the last mishap, and the steps of the run."""
        earlier = self.fit.runs.filter(plan=self.run.plan_id, number__lt=self.run.number)
        done = [step for run in earlier for step in read_steps(run.steps)[: run.done]]
        return (*done, *self.steps)

    @property
    def table_at_the_end(self) -> Table:
        """What lies there when all steps are done."""
        return self.stand.before.after(self.steps)

    @property
    def table(self) -> Table:
        """What lies on the table now."""
        return self.stand.table

    @property
    def pace(self) -> Pace:
        """The pace of the class's trimmer."""
        return self.fit.class_paper.card_class.cut_with.pace

    @property
    def seconds_left(self) -> int:
        """How long the steps that are left take."""
        return sum(self.cut_steps.each_seconds(self.pace)[self.steps_done :])

    @property
    def steps_done(self) -> int:
        """How many of the steps are done."""
        return min(self.run.done, len(self.steps))

    @property
    def is_done(self) -> bool:
        """Whether the last step is done."""
        return self.steps_done == len(self.steps)


@prepared
def _runs(plans: list[int]) -> QuerySet[Run]:
    return Run.objects.filter(plan__in=plans).order_by("number")


def cuttings_of(fits: Iterable[PaperFit]) -> dict[int, Cutting]:
    """The newest runs of the shown plans of papers, by the paper's key in the table."""
    by_plan = {fit.shown_id: fit for fit in fits if fit.shown_id}
    runs = _runs(sorted(by_plan))
    return {by_plan[run.plan_id].pk: Cutting(by_plan[run.plan_id], run) for run in runs}


def cutting_of(fit: PaperFit) -> Cutting | None:
    """The newest run of the shown plan of a paper; None if nobody has begun."""
    return cuttings_of([fit]).get(fit.pk)


def begin(fit: PaperFit, in_one_order: CutSteps | None = None) -> Run:
    """Begin to cut the shown plan: it is held, its steps are kept as they are. Begun twice it is one run.

    ``in_one_order``: its steps where it is cut in one order with other papers.
    """
    # Worked out before anything is locked.
    plan, steps, made = fit.shown_id, in_one_order or steps_of(fit), read_made(fit.shown)
    with transaction.atomic():
        cut(fit, False)
        fit = PaperFit.objects.select_related(*WITH_ALL).get(pk=fit.pk)
        if fit.shown_id == plan:
            first = {"steps": steps_data(steps.steps), "places": steps.places}
            first["before"] = table_data(begun(made.paper, made.plan))
            run = Run.objects.filter(fit=fit, plan=plan).order_by("-number").first()
            return run or Run.objects.create(fit=fit, plan=fit.shown, **first)
    # Another plan was shown meanwhile; that one is held now.
    return begin(fit)


@transaction.atomic
def give_up(fit: PaperFit) -> None:
    """It is not being cut after all, or not cut: what was booked is taken back, the steps begin anew."""
    if fit.held == PaperFit.Held.CUT:
        CutLog.objects.filter(plan=fit.shown_id).delete()
    Run.objects.filter(fit=fit).delete()
    let_go(fit)


@dataclass(frozen=True)
class Ticked:
    """A tick as it comes from a browser."""

    key: UUID
    """What it is known by."""
    run: int
    """The number of the run."""
    done: int
    """How many steps are done."""
    at: datetime.datetime
    """When, by the clock of the device."""
    seconds: float
    """How long since the tick before, as the device counts it."""
    device: str
    """What the device is called."""
    turn: int = 0
    """Its place among all ticks of the run, counted on from the highest that the device knew of; 0: as it comes."""


def last_turn(run: Run) -> int:
    """The highest turn there is."""
    return run.ticks.aggregate(last=Max("turn"))["last"] or 0


@transaction.atomic
def tick(fit: PaperFit, ticks: Iterable[Ticked]) -> Cutting | None:
    """Keep what was ticked, in order; what is here already is here once, and a run that was ended is not gone on with.

    Of two devices at one paper the tick counts that knew most of the others, whatever their clocks say.
    """
    cutting = cutting_of(fit)
    if cutting is None:
        return None
    run = Run.objects.select_for_update().get(pk=cutting.run.pk)
    newest = last_turn(run)
    for each in ticks:
        if each.run == run.number and each.done <= len(run.steps):
            # No device can have counted much further than there are ticks.
            turn = each.turn if 0 < each.turn <= newest + MOST_AHEAD else newest + 1
            newest = max(newest, turn)
            Tick.objects.get_or_create(
                key=each.key,
                defaults={
                    "run": run,
                    "done": each.done,
                    "turn": turn,
                    "at": min(each.at, timezone.now()),
                    "seconds": max(0.0, min(each.seconds, MOST_TICK_SECONDS)),
                    "device": each.device[:40],
                },
            )
    last = run.ticks.order_by("-turn", "-pk").first()
    if last and last.done != run.done:
        run.done = last.done
        run.save(update_fields=["done"])
    return Cutting(fit, run)


def kept_now(cutting: Cutting, counts: Mapping[tuple[int, int, str], int], place: str) -> list[OffcutLine]:
    """What goes on the shelf of what lies on the table: so many of each size."""
    paper, found = cutting.fit.paper, []
    for size, there in left_now(cutting).items():
        count = min(counts.get(size, 0), there)
        if count:
            width, height, up = size
            found.append(OffcutLine(paper=paper.key, count=count, place=place, width=width, height=height, up=up))
    return found


def left_now(cutting: Cutting) -> dict[tuple[int, int, str], int]:
    """What lies there that is worth keeping when the steps are done: by width, height and up edge, the largest first.

    Of a paper whose pieces may lie any way round those of one size count together.
    """
    keep = cutting.made.job.bench.keep_rule
    found: dict[tuple[int, int, str], int] = {}
    for each in cutting.table_at_the_end.of(KEEP, PILE):
        size = offcut_size(cutting, each)
        if keep.keeps(*size[:2]):
            found[size] = found.get(size, 0) + each.count
    return dict(sorted(found.items(), key=lambda entry: -entry[0][0] * entry[0][1]))


def offcut_size(cutting: Cutting, lying: Lying) -> tuple[int, int, str]:
    """Width, height and up edge of what is left over, as the shelf has it: what of it can be used."""
    margins = lying.unusable
    width = lying.width - margins.left - margins.right
    height = lying.height - margins.top - margins.bottom
    free = all(piece.turn for piece in cutting.made.paper.pieces)
    return (min(width, height), max(width, height), "top") if free else (width, height, lying.up)


@transaction.atomic
def finish(
    fit: PaperFit,
    counts: Mapping[tuple[int, int, str], int],
    place: str = "",
    bought: Mapping[str, int] | None = None,
) -> CutLog:
    """All of it is cut: sheets and offcuts are booked as they were used, what is kept as left over; the log says how
    long it took. ``bought`` are sheets, by the plan's names, that came from elsewhere than the shelf.
    """
    PaperFit.objects.select_for_update(of=("self",)).get(pk=fit.pk)
    cutting = cutting_of(fit) or Cutting(fit, begin(fit))
    known = CutLog.objects.filter(plan=fit.shown_id).first()
    if known and fit.held == PaperFit.Held.CUT:
        return known
    kept = kept_now(cutting, counts, place)
    opened = replace(opened_in(cutting), bought=dict(bought or {}))
    cut(fit, True, kept, opened, dict(cutting.run.short))
    return _log(fit, cutting, sum(opened.used.values()), kept)


def opened_in(cutting: Cutting) -> Opened:
    """The sheets that were opened and torn when all steps are done."""
    table = cutting.table_at_the_end
    return Opened(table.opened, table.torn)


def _log(fit: PaperFit, cutting: Cutting, sheets: int, kept: list[OffcutLine]) -> CutLog:
    runs = list(Run.objects.filter(plan=fit.shown_id).prefetch_related("ticks"))
    steps, first = cutting.steps_so_far, CutSteps(read_steps(runs[0].steps))
    card_class = fit.class_paper.card_class
    log, _ = CutLog.objects.update_or_create(
        plan=fit.shown,
        defaults={
            "owner": card_class.owner,
            "paper": fit.name,
            "title": card_class.title,
            "cut_at": timezone.now(),
            "planned_seconds": first.seconds(cutting.pace),
            "seconds": round(sum(min(t.seconds, AWAY_SECONDS) for run in runs for t in run.ticks.all())),
            "steps": len(steps),
            "strokes": sum(step.strokes for step in steps),
            "sheets": sheets,
            "more_sheets": sum(run.more for run in runs if run.number > 1),
            "offcuts": sum(line.count for line in kept),
            "spoiled": [each | {"reason": run.reason} for run in runs for each in run.spoiled],
        },
    )
    return log


def pace_learnt(trimmer: Trimmer) -> Pace | None:
    """The pace by what was ticked at a trimmer; None if that is too little to say."""
    ticks = Tick.objects.filter(run__fit__class_paper__card_class__trimmer=trimmer, seconds__gt=0)
    taken, steps_known = [], {}
    for each in ticks.select_related("run").order_by("-at")[:600]:
        if each.run_id not in steps_known:
            steps_known[each.run_id] = CutSteps(read_steps(each.run.steps))
        work = steps_known[each.run_id].work
        if 1 <= each.done <= len(work):
            taken.append(Taken(*work[each.done - 1], seconds=each.seconds))
    return learnt(taken, trimmer.pace)
