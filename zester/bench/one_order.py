"""The papers of a class cut in one order: looking for it, beginning it, where one is in it.

ask --> OneOrder --worker--> found (legs, steps, figures) --begin--> runs of all its papers with these steps

Each paper is cut, ticked, mended and booked as ever; the order only says which paper comes next. A paper that got other
steps since (a mishap) is put in again where the rail comes to its places; one that is not cut any more falls out.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import takewhile
from typing import Any

from django.conf import settings
from django.db import transaction
from django_tasks import task

from zester.bench import runs
from zester.bench.models import OneOrder
from zester.classes.models import CardClass
from zester.core.cutting.record import read_steps, steps_data
from zester.core.cutting.shared_rail import Leg, PaperToCut, SharedRail, in_sittings, legs_left, share_rail
from zester.core.cutting.steps import CutSteps
from zester.core.errors import JobError
from zester.core.fitting.engine import warm_up
from zester.plans.kept import habits_of, names_for, read_made
from zester.plans.models import PaperFit, PaperPlan
from zester.plans.queue import IDLE
from zester.plans.standing import Papers

log = logging.getLogger(__name__)
# From which share of the minutes on it is offered unasked.
WORTH = 0.03
# How long a sitting is looked at, seconds; what is found by then is taken.
SECONDS = 20.0
# Asked for it comes before other plans are looked for; unasked after everything else.
ASKED, UNASKED = 24, -30
# How many piles may lie on the table where the trimmer's page says nothing.
USUAL_ROOM = 24


class Stopped(Exception):
    """Nobody wants it any more."""


@transaction.atomic
def ask(card_class: CardClass, room: int | None, minutes: int | None, *, asked: bool = True) -> OneOrder:
    """Look for the best order; where a worker looks already with the same wishes nothing happens."""
    there = OneOrder.objects.select_for_update().filter(card_class=card_class).first()
    same = there is not None and (there.room, there.minutes) == (room, minutes)
    if there and there.is_open and same and (there.asked or not asked or there.state == OneOrder.State.LOOKING):
        return there
    fresh: dict[str, Any] = {"state": OneOrder.State.ASKED, "room": room, "minutes": minutes, "asked": asked}
    fresh |= {"told": "", "found": {}, "begun": 0}
    order, _ = OneOrder.objects.update_or_create(card_class=card_class, defaults=fresh)
    priority = ASKED if asked else UNASKED
    # In one transaction: no question without a task.
    order_task.using(queue_name=IDLE, priority=priority).enqueue(order.pk)
    order.refresh_from_db()
    return order


def current(card_class: CardClass, shown: Sequence[PaperFit]) -> OneOrder | None:
    """The order of a class; None where there is none, or all its papers are booked or given up."""
    order = OneOrder.objects.filter(card_class=card_class).first()
    if order is None or order.state != OneOrder.State.DONE or order.begun < len(order.found["sittings"]):
        return order
    plans = order.found["plans"]
    being_cut = (fit for fit in shown if fit.held == PaperFit.Held.CUTTING)
    return order if any(plans.get(fit.key) == fit.shown_id for fit in being_cut) else None


def look_unasked(card_class: CardClass, papers: Papers) -> OneOrder | None:
    """The order there is, if it is for these plans; otherwise it is looked for when nothing else is to be done."""
    order = current(card_class, papers.shown)
    plans = {fit.key: fit.shown_id for fit in papers.shown if fit.held != PaperFit.Held.CUT}
    if order and (order.is_open or order.begun or order.state != OneOrder.State.DONE):
        return order
    if order and order.found.get("plans") == plans:
        return order
    if not settings.IDLE_WORK:
        return None
    ready = all(fit.answered and fit.shown.stage == PaperPlan.Stage.POLISHED for fit in papers.shown)
    if len(plans) < 2 or not ready or card_class.closed_at or any(fit.done for fit in papers.shown):
        return None
    # What somebody has wished once stays.
    wishes = (order.room, order.minutes) if order else (usual_room(card_class), None)
    return ask(card_class, *wishes, asked=False)


def offered(order: OneOrder | None, shown: Sequence[PaperFit]) -> dict[str, Any] | None:
    """What an order saves that is found and not begun, in seconds and as a share, where it is worth it and still so."""
    if order is None or order.state != OneOrder.State.DONE or order.begun or not order.found["sittings"]:
        return None
    if any(order.found["plans"].get(fit.key) != fit.shown_id for fit in shown if fit.held != PaperFit.Held.CUT):
        return None
    summed = sums_of(order.found["sittings"])
    return summed if summed["share"] >= WORTH else None


def sums_of(sittings: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """The figures of all sittings together."""
    names = ("apart", "seconds", "minutes", "settings_apart", "settings")
    found: dict[str, Any] = {name: sum(each[name] for each in sittings) for name in names}
    found |= {name: max((each[name] for each in sittings), default=0) for name in ("piles", "piles_apart")}
    found["saved"] = saved_minutes(found)
    found["share"] = 1 - found["seconds"] / found["apart"] if found["apart"] else 0.0
    return found


def saved_minutes(figures: Mapping[str, Any]) -> int:
    """Whole minutes that an order saves."""
    return (figures["apart"] - figures["seconds"]) // 60


def usual_room(card_class: CardClass) -> int:
    """How many piles there is room for."""
    return card_class.cut_with.most_piles or USUAL_ROOM


def stop(card_class: CardClass) -> None:
    """Stop looking."""
    OneOrder.objects.filter(card_class=card_class, state__in=OneOrder.OPEN).update(state=OneOrder.State.STOPPED)


def forget(card_class: CardClass) -> None:
    """Every paper goes on by itself."""
    OneOrder.objects.filter(card_class=card_class).delete()


@task(queue_name=IDLE)
def order_task(pk: int) -> None:
    """Look."""
    # Also after a worker that looked has died.
    if not OneOrder.objects.filter(pk=pk, state__in=OneOrder.OPEN).update(state=OneOrder.State.LOOKING):
        return
    order = OneOrder.objects.select_related("card_class__trimmer").get(pk=pk)
    wishes = {"room": order.room, "minutes": order.minutes}
    mine = OneOrder.objects.filter(pk=pk, state=OneOrder.State.LOOKING, **wishes)
    try:
        found = _look(order, mine)
        mine.update(state=OneOrder.State.DONE, found=found, told="")
    except Stopped:
        return
    except Exception:
        log.exception("one order over the papers was not found")
        mine.update(state=OneOrder.State.FAILED, told="Something went wrong on our side. Ask for it once more.")


def _look(order: OneOrder, mine) -> dict[str, Any]:
    warm_up()
    fits = [fit for fit in runs.fits_of(order.card_class) if not fit.done]
    papers = [_to_cut(fit) for fit in fits]
    found: dict[str, Any] = {"sittings": [], "steps": {}, "plans": {fit.key: fit.shown_id for fit in fits}}
    groups = in_sittings(papers, order.minutes and 60 * order.minutes)
    for number, group in enumerate(groups, start=1):
        words = f"sitting {number} of {len(groups)}, trying orders" if len(groups) > 1 else "trying orders"
        _tell(mine, words)
        end = time.monotonic() + SECONDS

        def go_on(end: float = end, words: str = words) -> bool:
            _tell(mine, words)
            return time.monotonic() < end

        shared = share_rail([papers[n] for n in group], order.room, go_on)
        found["sittings"].append(_sitting([fits[n].key for n in group], shared, [papers[n] for n in group]))
        for n, steps in zip(group, shared.papers, strict=True):
            found["steps"][fits[n].key] = {"steps": steps_data(steps.steps), "places": papers[n].alone.places}
    return found


def _tell(mine, words: str) -> None:
    if not mine.update(told=words):
        raise Stopped


def _to_cut(fit: PaperFit) -> PaperToCut:
    made = read_made(fit.shown)
    habits = habits_of(fit, names_for(fit))
    return PaperToCut(
        job=made.paper, plan=made.plan, bench=made.job.bench, habits=habits, alone=runs.steps_of(fit, made)
    )


def _sitting(keys: Sequence[str], shared: SharedRail, papers: Sequence[PaperToCut]) -> dict[str, Any]:
    pace = papers[0].habits.pace
    return {
        "keys": list(keys),
        "legs": [[keys[leg.paper], leg.first, leg.last] for leg in shared.legs],
        "apart": sum(paper.alone.seconds(pace) for paper in papers),
        # As every page says a paper's minutes, so that what is shown adds up.
        "minutes": sum(-(-paper.alone.seconds(pace) // 60) for paper in papers),
        "seconds": shared.seconds(pace),
        "settings_apart": sum(paper.alone.settings for paper in papers),
        "settings": shared.settings,
        "places": shared.places,
        "piles_apart": max((paper.alone.most_piles for paper in papers), default=0),
        "piles": shared.most_piles,
    }


@transaction.atomic
def begin(card_class: CardClass) -> list[PaperFit]:
    """Begin the next sitting: all its papers, with the steps of the order; the papers.

    Raises
    ------
    JobError
        If there is no order, or a paper of it has another plan now or is being cut already.
    """
    order = OneOrder.objects.select_for_update().filter(card_class=card_class, state=OneOrder.State.DONE).first()
    if order is None or order.begun >= len(order.found["sittings"]):
        raise JobError("There is no order to begin", mend="Look for one first")
    fits = {fit.key: fit for fit in runs.fits_of(card_class)}
    mine = [fits.get(key) for key in order.found["sittings"][order.begun]["keys"]]
    for fit, key in zip(mine, order.found["sittings"][order.begun]["keys"], strict=True):
        if fit is None or fit.shown_id != order.found["plans"][key] or fit.done:
            name = fit.name if fit else "A paper"
            raise JobError(f"{name} has changed since this order was found", mend="Look for the order once more")
    for fit in mine:
        kept = order.found["steps"][fit.key]
        runs.begin(fit, CutSteps(read_steps(kept["steps"]), kept["places"]))
    order.begun += 1
    order.save(update_fields=["begun"])
    return mine


@dataclass(frozen=True)
class Stop:
    """One place of the rail with what is done there, paper by paper."""

    at: int
    """Ticks."""
    legs: list[tuple[PaperFit, int, int, bool]]
    """The paper, its first and last step by the numbers its page gives them, whether they are done."""

    @property
    def done(self) -> bool:
        """Whether all of it is done."""
        return all(done for *_, done in self.legs)


@dataclass(frozen=True)
class OtherLeg:
    """Steps of another paper that come in between."""

    fit: PaperFit
    """The paper."""
    first: int
    """Its first step, by the number its page gives it."""
    last: int
    """Its last one."""
    until: int
    """How many of its steps are done then."""
    at: int
    """The place of the rail, ticks."""
    stays: bool
    """Whether the rail is there already."""
    known: int
    """How many of the paper's steps are done."""
    run: int
    """The number of the run they are of."""


@dataclass(frozen=True)
class Turn:
    """Where a paper gives way to others."""

    at: int
    """After so many of its steps."""
    legs: list[OtherLeg]
    """What comes there, in order."""


class InOrder:
    """Papers that are cut in one order, as far as they are."""

    def __init__(self, order: OneOrder, fits: Sequence[PaperFit]):
        self.order = order
        found = order.found
        begun = found["sittings"][: order.begun]
        keys = [key for sitting in begun for key in sitting["keys"]]
        mine = {fit.key: fit for fit in fits if fit.done and fit.shown_id == found["plans"].get(fit.key)}
        self.keys = [key for key in keys if key in mine]
        self.fits = [mine[key] for key in self.keys]
        self._legs = [leg for sitting in begun for leg in sitting["legs"]]

    @cached_property
    def cuttings(self) -> list[runs.Cutting | None]:
        """Where each paper is; None where it has no run."""
        known = runs.cuttings_of(self.fits)
        return [known.get(fit.pk) for fit in self.fits]

    @cached_property
    def legs(self) -> list[Leg]:
        """What is done in which order, what is done already first; papers numbered as ``fits``."""
        at = [[step["at"] for step in self.order.found["steps"][key]["steps"]] for key in self.keys]
        number = {key: n for n, key in enumerate(self.keys)}
        legs = [Leg(number[key], first, last) for key, first, last in self._legs if key in number]
        anew: dict[int, tuple[int, list[int]]] = {}
        for n, cutting in enumerate(self.cuttings):
            if cutting and cutting.run.number > 1:
                anew[n] = 1, [step.at for step in cutting.steps]
        if not anew:
            return legs
        # What others have done is past; a new step is put where the rail still comes.
        gone = [leg for leg in legs if leg.paper not in anew and leg.last <= self.done(leg.paper)]
        left = [leg for leg in legs if leg not in gone]
        return gone + legs_left(left, at, anew)

    def done(self, paper: int) -> int:
        """How many of a paper's steps are done."""
        cutting = self.cuttings[paper]
        if cutting is None or self.fits[paper].held == PaperFit.Held.CUT:
            return len(cutting.steps) if cutting else 0
        return cutting.steps_done

    def place_of(self, leg: Leg) -> int:
        """Where the rail stands for a leg, ticks."""
        cutting = self.cuttings[leg.paper]
        return cutting.steps[leg.first - 1].at if cutting else 0

    def numbers(self, leg: Leg) -> tuple[int, int]:
        """What a paper's page calls the first and the last step of a leg: after a mishap the numbers go on."""
        cutting = self.cuttings[leg.paper]
        first = cutting.steps[0].number - 1 if cutting and cutting.steps else 0
        return first + leg.first, first + leg.last

    @property
    def past(self) -> list[Stop]:
        """The places at the beginning where nothing is left to do."""
        return list(takewhile(lambda stop: stop.done, self.stops))

    @property
    def to_come(self) -> list[Stop]:
        """The others."""
        return self.stops[len(self.past) :]

    @cached_property
    def stops(self) -> list[Stop]:
        """The places of the rail in order."""
        found: list[Stop] = []
        for leg in self.legs:
            done = leg.last <= self.done(leg.paper)
            at, entry = self.place_of(leg), (self.fits[leg.paper], *self.numbers(leg), done)
            if found and found[-1].at == at:
                found[-1].legs.append(entry)
            else:
                found.append(Stop(at, [entry]))
        return found

    @property
    def next(self) -> PaperFit | None:
        """The paper whose turn it is; None if all is done."""
        return next((self.fits[leg.paper] for leg in self.legs if leg.last > self.done(leg.paper)), None)

    def turns(self, fit: PaperFit) -> list[Turn]:
        """For the bench of a paper: before which of its steps, and after its last, the steps of others come."""
        mine, found = self.keys.index(fit.key), []
        between: list[OtherLeg] = []
        rail = None
        for leg in self.legs:
            at = self.place_of(leg)
            if leg.paper == mine:
                if between:
                    found.append(Turn(leg.first - 1, between))
                between = []
            else:
                cutting = self.cuttings[leg.paper]
                run = cutting.run.number if cutting else 0
                fit_there, numbers, done = self.fits[leg.paper], self.numbers(leg), self.done(leg.paper)
                between.append(OtherLeg(fit_there, *numbers, leg.last, at, at == rail, done, run))
            rail = at
        own = self.cuttings[mine]
        if between and own:
            found.append(Turn(len(own.steps), between))
        return found

    def rail(self, fit: PaperFit) -> dict[int, bool]:
        """By the number of a paper's step whether its page says where to set the rail.

        At the beginning of every leg, also where the rail should be there already: other papers may have been left out.
        """
        mine = [leg for leg in self.legs if leg.paper == self.keys.index(fit.key)]
        return {number: number == leg.first for leg in mine for number in range(leg.first, leg.last + 1)}


def in_order_of(card_class: CardClass, fits: Sequence[PaperFit]) -> InOrder | None:
    """The order in which papers of a class are being cut; None if none is, or all of it is done."""
    order = current(card_class, fits)
    return InOrder(order, fits) if order and order.state == OneOrder.State.DONE and order.begun else None
