"""One order at the trimmer for several papers: what is cut at one place of the rail is cut of all of them there.

    paper by paper              in one order
    White  4, 5¼, 2             rail to 4:    White, Sky
    Sky    4, 2                 rail to 5¼:   White
    Red    5¼, 2                rail to 2:    White, Sky, Red       3 settings instead of 7

Each paper keeps its own steps, its own stacks and its own piles; no stack holds two papers. What is saved are settings
of the rail; what is lost are stacks that would have stayed in the hand, and more piles lie on the table meanwhile.

For every paper there are many orders (``order.py``) that take about as long. Two moves take turns: single visits change
their place among those of the others (simulated annealing), and one paper after the other is taken out and put in again
the best way in any of its orders (dynamic programming over the stops of the others: like a supersequence of several
sequences, where items that match cost nothing). That proves nothing; ``places`` is a bound on the settings.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from zester.core.cutting.habits import Habits
from zester.core.cutting.hands import bridgeable, in_order
from zester.core.cutting.kinds import Kind, Kinds, Roots, roots_of
from zester.core.cutting.order import Group, Search, places_needed
from zester.core.cutting.steps import PILE, CutSteps, Step, Writer, seconds_of_work, work_of
from zester.core.fitting.jobs.job import Bench, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.patterns.strokes import plan_strokes
from zester.core.pace import DEFAULT_PACE, Pace

# How many orders of a paper are tried, and how many of them are worked out in full after a look.
ORDERS, LOOKED_AT = 30, 5
# Moves of one search, how warm it begins at first and later (seconds), and after how many rounds in vain it ends.
MOVES, WARMTH, IN_VAIN, MOST_ROUNDS = 30_000, (20.0, 8.0), 3, 30
# How often less room is asked for than there is, where the piles in the middle of a stop were too many.
TRIES = 3
# What a pile beyond the room counts, in seconds: nearly a prohibition.
A_PILE_TOO_MANY = 60.0
SEED = 11
_Order = list[tuple[Group, ...]]


@dataclass(frozen=True, kw_only=True)
class PaperToCut:
    """A paper with its plan."""

    job: PaperJob
    """What is made of it."""
    plan: PaperPlan
    """How."""
    bench: Bench
    """What it is cut with."""
    habits: Habits
    """How."""
    alone: CutSteps
    """Its steps when it is cut alone."""


@dataclass(frozen=True)
class Leg:
    """Steps of one paper that follow each other at one place of the rail."""

    paper: int
    """Which paper, from 0."""
    first: int
    """The first step, from 1."""
    last: int
    """The last one."""


@dataclass(frozen=True)
class SharedRail:
    """Papers cut in one order."""

    papers: tuple[CutSteps, ...]
    """The steps of each. Whether the rail moves is said as if the paper were cut alone."""
    legs: tuple[Leg, ...]
    """In which order they are done."""
    places: int
    """The fewest different places of the rail with which all papers can be cut at all."""

    @cached_property
    def in_turn(self) -> list[tuple[int, Step]]:
        """All steps in order, with their paper; here whether the rail moves is said as it does."""
        found: list[tuple[int, Step]] = []
        rail = None
        for leg in self.legs:
            for step in self.papers[leg.paper].steps[leg.first - 1 : leg.last]:
                found.append((leg.paper, replace(step, moved=step.at != rail)))
                rail = step.at
        return found

    @property
    def work(self) -> list[tuple[int, int, int]]:
        """Of every step in turn: how often the rail is set, how many stacks are fetched, how many strokes."""
        steps = self.in_turn
        before = [None, *steps]
        return [
            work_of(last[1] if last and last[0] == paper else None, step)
            for last, (paper, step) in zip(before, steps, strict=False)
        ]

    def seconds(self, pace: Pace = DEFAULT_PACE) -> int:
        """What all of it takes at that pace."""
        return sum(seconds_of_work(each, pace) for each in self.work)

    @property
    def settings(self) -> int:
        """How many times the rail is moved."""
        return sum(step.moved for _, step in self.in_turn)

    @property
    def most_piles(self) -> int:
        """How many piles of all papers wait on the table at once, at the most."""
        steps, most = self.in_turn, 0
        lying: set[tuple[int, str]] = set()
        for (paper, step), after in zip(steps, [*steps[1:], None], strict=True):
            lying.discard((paper, step.source_label) if step.source == PILE else (paper, ""))
            lying |= {(paper, result.label) for result in step.results if result.kind == PILE}
            in_hand = {(after[0], after[1].source_label)} if after and after[1].held else set()
            most = max(most, len(lying - in_hand))
        return most


def share_rail(
    papers: Sequence[PaperToCut],
    room: int | None = None,
    go_on: Callable[[], bool] = lambda: True,
    orders: int = ORDERS,
) -> SharedRail:
    """The quickest order over several papers that is found; paper after paper is one, so it never takes longer.

    Parameters
    ----------
    papers
        All cut with the same trimmer, in stacks of the same height, at the same pace.
    room : int, optional
        How many piles may lie on the table, where that can be kept; a paper alone may need more.
    go_on : callable
        Asked between rounds whether there is time for more; may raise to stop.
    orders : int
        How many orders of each paper are tried.
    """
    one_by_one = _one_by_one(papers)
    if len({(paper.bench.stack, paper.bench.keep_rule) for paper in papers}) > 1:
        # Plans of before and after the trimmer was set otherwise.
        return one_by_one
    kinds = Kinds()
    lots = [_Lot.of(paper, lot, kinds, room, orders) for lot, paper in enumerate(papers)]
    if not papers or not all(lot.orders for lot in lots):
        return one_by_one
    pace, stack, keep = papers[0].habits.pace, papers[0].bench.stack, papers[0].bench.keep_rule
    handles = {kind: names for lot in lots for kind, names in lot.roots.handles.items()}
    writer = Writer(Roots(kinds, {}, handles), stack, keep)
    most = None if room is None else max(room, one_by_one.most_piles)
    wanted = room
    for _ in range(1 if most is None else TRIES):
        visits = _Sharing(lots, pace, wanted).run(go_on)
        written = writer.write_lots(in_order(visits, kinds, stack))
        found = _parted(written, len(papers), one_by_one.places)
        # The search counts piles between stops; in the middle of one there may be more.
        if most is None or found.most_piles <= most:
            return found if found.seconds(pace) < one_by_one.seconds(pace) else one_by_one
        wanted = max(1, (wanted or most) - (found.most_piles - most))
    return one_by_one


def _one_by_one(papers: Sequence[PaperToCut]) -> SharedRail:
    legs = [leg for n, paper in enumerate(papers) for leg in _legs((n, step) for step in paper.alone.steps)]
    ways = [_way(paper, False, Kinds(), 0) for paper in papers]
    return SharedRail(tuple(paper.alone for paper in papers), tuple(legs), places_needed(*ways))


def _way(paper: PaperToCut, ordered: bool, kinds: Kinds, lot: int) -> Roots:
    return roots_of(paper.job, paper.plan, ordered, paper.habits.bears, kinds, lot)


def _legs(steps: Iterable[tuple[int, Step]]) -> list[Leg]:
    """Steps with their paper as legs."""
    found: list[Leg] = []
    rail = None
    for paper, step in steps:
        if found and found[-1].paper == paper and rail == step.at:
            found[-1] = replace(found[-1], last=step.number)
        else:
            found.append(Leg(paper, step.number, step.number))
        rail = step.at
    return found


def _parted(written: Sequence[tuple[Step, int]], papers: int, places: int) -> SharedRail:
    """Steps of several papers as those of each, numbered and with piles named by themselves."""
    steps: list[list[Step]] = [[] for _ in range(papers)]
    named: list[dict[str, str]] = [{} for _ in range(papers)]
    in_turn: list[tuple[int, Step]] = []
    for step, lot in written:
        mine, names = steps[lot], named[lot]

        def label(old: str, names: dict[str, str] = names) -> str:
            return names.setdefault(old, str(len(names) + 1))

        source = label(step.source_label) if step.source == PILE else step.source_label
        results = tuple(replace(each, label=label(each.label)) if each.kind == PILE else each for each in step.results)
        moved = not mine or mine[-1].at != step.at
        mine.append(replace(step, number=len(mine) + 1, source_label=source, results=results, moved=moved))
        in_turn.append((lot, mine[-1]))
    return SharedRail(tuple(CutSteps(tuple(each)) for each in steps), tuple(_legs(in_turn)), places)


@dataclass(frozen=True)
class _PaperOrder:
    """One order of a paper."""

    visits: _Order
    """What is done at every place of the rail."""
    seconds: float
    """What it takes without setting the rail and with every stack fetched."""
    items: tuple[np.ndarray, ...]
    """Of every visit the place, whether a stack can stay in the hand after it, its groups, the piles after it."""


@dataclass(frozen=True)
class _Lot:
    """A paper with its orders."""

    roots: Roots
    """Its sheets."""
    orders: list[_PaperOrder]
    """The quickest first."""

    @staticmethod
    def of(paper: PaperToCut, lot: int, kinds: Kinds, room: int | None, many: int) -> _Lot:
        """The orders in which a paper is cut in no more strokes than alone."""
        stack, pace = paper.bench.stack, paper.habits.pace
        most = max(plan_strokes(paper.job, paper.plan, stack), paper.alone.strokes)
        for ordered in (True,) if paper.bench.limits.hold else (False, True):
            roots = _way(paper, ordered, kinds, lot)
            found = Search(roots, stack, pace, None).run(many)
            if room is not None:
                found = [*found[: many // 2], *Search(roots, stack, pace, room).run(many // 2)]
            writer = Writer(roots, stack, paper.bench.keep_rule)
            orders = []
            for visits in found:
                steps = writer.write(in_order(visits, kinds, stack))
                if steps.strokes <= most:
                    orders.append(_order(visits, steps, roots, stack, pace))
            if orders:
                return _Lot(roots, orders)
        return _Lot(roots, [])


def _order(visits: _Order, steps: CutSteps, roots: Roots, stack: int, pace: Pace) -> _PaperOrder:
    """An order with all that the search has to know of it."""
    hands = [*bridgeable(visits, roots.kinds, stack), False]
    piles, left = [], {(kind, sheet): 1 for kind, sheet in roots.sheets if kind.axis}
    for groups in visits:
        for group in groups:
            for kind, _ in group.taken:
                del left[kind, group.sheet]
            left |= {(made, ""): 1 for made in _made(group, roots.kinds)}
        piles.append(sum(1 for _, sheet in left if not sheet))
    places = [groups[0].at for groups in visits]
    columns = (places, hands, [len(groups) for groups in visits], piles)
    items = tuple(np.array(column, dtype=np.int64) for column in columns)
    order = _PaperOrder(visits, 0.0, items)
    return replace(order, seconds=steps.seconds(pace) - _Mix([order]).seconds(np.arange(len(visits)), 0, pace))


def _made(group: Group, kinds: Kinds) -> set[Kind]:
    return {made for kind, _ in group.taken for made, _ in kinds.cut(kind, group.at).gives if made.axis}


class _Mix:
    """One order of each paper, as the tables that the compiled loops take."""

    def __init__(self, orders: Sequence[_PaperOrder]):
        lengths = [len(order.visits) for order in orders]
        self.begin = np.cumsum([0, *lengths])
        papers = np.repeat(np.arange(len(orders)), lengths)
        places, hands, groups, piles = (np.concatenate([order.items[k] for order in orders]) for k in range(4))
        self.items = places, papers, hands, groups, piles
        self.alone = sum(order.seconds for order in orders)
        self.visits = [visit for order in orders for visit in order.visits]

    def seconds(self, order: np.ndarray, room: int, pace: Pace) -> float:
        """What an order takes in all."""
        from zester.core.cutting.loops import order_seconds

        stop_of = np.zeros(len(order) + 1, np.int64)
        return float(self.alone + order_seconds(order, self.items, room, _prices(pace), stop_of))

    def stops(self, order: Iterable[int]) -> list[list[int]]:
        """The items by the stops of the rail."""
        found: list[list[int]] = []
        for item in order:
            if found and self.items[0][found[-1][0]] == self.items[0][item]:
                found[-1].append(int(item))
            else:
                found.append([int(item)])
        return found


def _prices(pace: Pace) -> tuple[float, float, float]:
    return float(pace.setting), float(pace.stack), A_PILE_TOO_MANY


class _Sharing:
    """The search over several papers."""

    def __init__(self, lots: Sequence[_Lot], pace: Pace, room: int | None):
        self.lots, self.pace, self.dice = lots, pace, random.Random(SEED)
        # A paper alone may need more than there is room for.
        alone = max(min(int(order.items[3].max()) for order in lot.orders) for lot in lots)
        self.room = 0 if room is None else max(room, alone)
        self.chosen = [0] * len(lots)
        self.mix = self._mix(self.chosen)
        self.order = self.best = np.arange(len(self.mix.visits))
        self.now = self.mix.seconds(self.order, self.room, pace)

    def _mix(self, chosen: Sequence[int]) -> _Mix:
        return _Mix([lot.orders[n] for lot, n in zip(self.lots, chosen, strict=True)])

    def run(self, go_on: Callable[[], bool]) -> list[tuple[Group, ...]]:
        """What is done at every stop of the rail, by the best order found."""
        from zester.core.cutting.loops import shorten

        best, vain = (self.now, self.mix, self.order.copy()), 0
        for turn in range(MOST_ROUNDS):
            warmth = WARMTH[turn > 0]
            shorten(SEED + turn, self.order, self.mix.items, self.room, _prices(self.pace), MOVES, warmth)
            self.now = self.mix.seconds(self.order, self.room, self.pace)
            for lot in self.dice.sample(range(len(self.lots)), len(self.lots)):
                self._put_in_again(lot)
            vain = 0 if self.now < best[0] else vain + 1
            if self.now < best[0]:
                best = self.now, self.mix, self.order.copy()
            if vain == IN_VAIN or not go_on():
                break
        _, mix, order = best
        self.mix, self.best = mix, order
        return [tuple(group for item in stop for group in mix.visits[item]) for stop in mix.stops(order)]

    def _put_in_again(self, lot: int) -> None:
        """Take a paper out and put it in the best way in any of its orders; what is as good is taken, too."""
        from zester.core.cutting.loops import fit_in

        mix, begin = self.mix, self.mix.begin
        others = mix.stops([int(item) for item in self.order if not begin[lot] <= item < begin[lot + 1]])
        stop_of = {item: number for number, stop in enumerate(others) for item in stop}
        bridged = np.zeros(len(others), np.bool_)
        for item, stop in stop_of.items():
            bridged[stop] |= bool(mix.items[2][item]) and stop_of.get(item + 1) == stop + 1
        stops = np.array([mix.items[0][stop[0]] for stop in others], dtype=np.int64)
        looks = []
        for number, mine in enumerate(self.lots[lot].orders):
            prices = _prices(self.pace)[:2]
            seconds, spots = fit_in(stops, bridged, mine.items[0], mine.items[1], *prices)
            looks.append((seconds + mine.seconds, number, spots))
        looks.sort(key=lambda look: look[:2])
        found = [self._with(lot, number, others, spots) for _, number, spots in looks[:LOOKED_AT]]
        seconds, chosen, new, order = min(found, key=lambda each: each[0])
        if seconds <= self.now:
            self.now, self.chosen, self.mix, self.order = seconds, chosen, new, order

    def _with(
        self, lot: int, number: int, others: Sequence[Sequence[int]], spots: np.ndarray
    ) -> tuple[float, list[int], _Mix, np.ndarray]:
        """The order with a paper's order put in at these spots between the stops of the others."""
        chosen = [*self.chosen]
        chosen[lot] = number
        new = self._mix(chosen)
        papers, begin = self.mix.items[1], self.mix.begin
        moved = new.begin - begin

        def put() -> Iterator[int]:
            mine, at = iter(range(new.begin[lot], new.begin[lot + 1])), 0
            for spot in range(2 * len(others) + 1):
                if spot % 2:
                    yield from (item + moved[papers[item]] for item in others[spot // 2])
                while at < len(spots) and spots[at] == spot:
                    yield next(mine)
                    at += 1

        order = np.array(list(put()), dtype=np.int64)
        return new.seconds(order, self.room, self.pace), chosen, new, order


def in_sittings(papers: Sequence[PaperToCut], seconds: int | None) -> list[list[int]]:
    """Which papers are cut at one sitting, so that none lies half cut until the next; those beside each other that
    share most places of the rail.

    ``seconds``: how long a sitting lasts, reckoned as if each paper were cut alone; None: all at one. A paper that
    takes longer has a sitting to itself. The first paper is in the first sitting.
    """
    left = list(range(len(papers)))
    if seconds is None:
        return [left] if left else []
    found: list[list[int]] = []
    places = [{step.at for step in paper.alone.steps} for paper in papers]
    takes = [paper.alone.seconds(paper.habits.pace) for paper in papers]
    while left:
        group = [left.pop(0)]
        while True:
            there = set[int]().union(*(places[n] for n in group))
            room = seconds - sum(takes[n] for n in group)
            fits = [n for n in left if takes[n] <= room]
            if not fits:
                break
            # A paper of many places shares some with any other: what counts is what it need not set anew.
            best = max(fits, key=lambda n: (len(places[n] & there) - len(places[n] - there), -n))
            left.remove(best)
            group.append(best)
        found.append(sorted(group))
    return found


def legs_left(
    legs: Sequence[Leg], at: Sequence[Sequence[int]], begun_anew: dict[int, tuple[int, Sequence[int]]]
) -> list[Leg]:
    """What of an order is left when some papers have got other steps since, as after a mishap.

    Parameters
    ----------
    legs
        The legs that are not done.
    at
        Of every paper the places of its steps when the order was found, ticks.
    begun_anew
        By paper the number of its first new step that is not done, and the places of all its new steps.

    Returns
    -------
    list of Leg
        The new steps of a paper are done where the rail comes to their places anyhow, in their order; what is left of
        them at the end.
    """
    found: list[Leg] = []
    stand = {paper: first for paper, (first, _) in begun_anew.items()}

    def take(paper: int, place: int | None) -> None:
        places = begun_anew[paper][1]
        while stand[paper] <= len(places) and (place is None or places[stand[paper] - 1] == place):
            first, here = stand[paper], places[stand[paper] - 1]
            while stand[paper] <= len(places) and places[stand[paper] - 1] == here:
                stand[paper] += 1
            found.append(Leg(paper, first, stand[paper] - 1))

    rail = None
    for leg in legs:
        place = at[leg.paper][leg.first - 1]
        if place != rail and rail is not None:
            for paper in stand:
                take(paper, rail)
        rail = place
        if leg.paper not in begun_anew:
            found.append(leg)
    for paper in stand:
        take(paper, rail)
    for paper in stand:
        take(paper, None)
    return found
