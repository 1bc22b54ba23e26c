"""Plans that take few minutes for their cost: from the thriftiest to the easiest to cut, of which none beats another.

The columns of ``easy_columns.py`` are chosen by simulated annealing over whole copies (Kirkpatrick, Gelatt & Vecchi
1983). What is minimised are the seconds that ``handling.py`` estimates: groups of alike parts over all layouts, so
strips that several layouts share pay twice. Sheets beyond a cap and pieces that are short have a price, so that the
search may pass through plans that are neither. Whatever is met on the way with nothing short is kept by its cost. That
proves nothing; the bound is in ``least_minutes.py``.

                seconds
                  | *
                  |   *                 one search for every cap of sheets; each keeps the best of every number it
                  |       *  *          meets, and the next begins where it ended
                  +------------- sheets
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from operator import itemgetter

import numpy as np

from zester.core.fitting.minutes.easy_columns import A_COPY, EasyColumn, EasyColumns
from zester.core.fitting.patterns.columns import Column, ColumnPool, column_rows, limits_at_cost, relax, rows_at_cost
from zester.core.fitting.patterns.handling import AGAIN, IN_HAND, add_up, group_seconds, seconds_of_groups
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.solver import WholeAnswer, whole_cover
from zester.core.pace import DEFAULT_PACE

# Moves of one search, at the most and for every column: two and a half times as many found nothing more in 24 papers.
MOVES, MOVES_A_COLUMN = 600_000, 1_000
# How many rounds begin with the best so far, and what share one has to save for the next.
AGAIN_ROUNDS, GAIN = 2, 0.005
# How hot it is at the beginning, in seconds; it ends at a thirtieth of that.
WARMTH = 60.0
# What a sheet beyond the cap counts, and what a sheet's worth of pieces that are short does, in seconds.
OVER, SHORT, A_PIECE = 400.0, 800.0, 5.0
# The integer program that a search begins from: what a copy counts beside its seconds, nodes, an emergency brake.
COPIES, PROGRAM_NODES, PROGRAM_SECONDS = (A_COPY, 40.0), 300, 1.2
# The same where the sheets leave no room, for any plan as cheap.
CHEAP_NODES, CHEAP_SECONDS = 4000, 4.5
# Shares of sheets more, and how many buckets of costs there are at the most.
SHARES = (0.0, 0.01, 0.02, 0.04, 0.08, 0.16, 0.25)
BUCKETS = 40
SHAKEN = 10
# What is given back: plans about as quick as the quickest for that cost, as the estimate is no more than that.
NEARLY, NEAR, MOST = 1.04, 25, 24

Chosen = tuple[tuple[Column, int], ...]
_Plan = list[tuple[EasyColumn, int]]


@dataclass(frozen=True)
class Eased:
    """A plan and what it takes, estimated."""

    chosen: Chosen
    """Columns and copies."""
    seconds: float
    """By ``handling.py``."""


class Easing:
    """The search for one paper.

    Parameters
    ----------
    columns : EasyColumns
        What its columns come from, with the problem, the stack and the time.
    known : sequence of Column
        Columns to begin with.
    thrifty : Chosen
        A plan with nothing missing; no plan found costs less.
    seconds_left : callable
        How long it may take.
    """

    def __init__(
        self,
        columns: EasyColumns,
        known: Sequence[Column],
        thrifty: Chosen,
        seconds_left: Callable[[], float] = lambda: float("inf"),
    ):
        self.columns, self.seconds_left, problem = columns, seconds_left, columns.problem
        self.problem, self.tables, self.stack, self.go_on = problem, columns.tables, columns.stack, columns.go_on
        for column in known:
            self.columns.add(column.sheet, column.tree)
        self.cost = sum(problem.costs[column.sheet] * copies for column, copies in thrifty)
        added = [(self.columns.add(column.sheet, column.tree), copies) for column, copies in thrifty]
        # Empty where a column of it cannot be one here: then there is nothing to begin with.
        whole = all(easy is not None for easy, _ in added)
        self.thrifty: _Plan = [(easy, copies) for easy, copies in added if easy is not None] if whole else []

    def run(self, more: float = 0.0) -> list[Eased]:
        """The quickest plans found for every cost up to ``more`` of it above the thrifty one's, in that order."""
        if not self.thrifty:
            return []
        buckets = self._buckets(more)
        caps = self._caps(buckets, more)
        prices = {cap: self.columns.priced(cap) for cap in caps}
        for cap in caps:
            self.columns.in_stacks(prices[cap])
        rounds: list[list[tuple[_Plan, float]]] = []
        best = None
        for number, start in enumerate(self._starts(caps, rounds, 0 if more else AGAIN_ROUNDS)):
            # As thrifty plans are begun anew each time, so that there are several to choose from.
            best = Best(buckets, start) if best is None or not more else best
            rounds.append([(start, self._seconds(start))])
            for index, cap in enumerate(caps):
                if not self.go_on():
                    return self._found([*rounds, best.plans()])
                self._search(best, cap, number * len(caps) + index)
            rounds.append(best.plans())
            for cap in caps:
                places = {group.at for easy, _ in best.plan_at(cap) for group in easy.groups}
                self.columns.at_places(prices[cap], places, SHAKEN)
        return self._found(rounds)

    def _starts(
        self, caps: Sequence[int], rounds: Sequence[Sequence[tuple[_Plan, float]]], again: int
    ) -> Iterator[_Plan]:
        """What every round begins with.

        Whole programs (or, where there is no room for these, any plan as cheap), the thrifty plan, up to ``again``
        times the best so far, while that still saves something; once more that with sheets cut in strips.
        """

        def best() -> _Plan:
            found = [plan for plans in rounds for plan in plans]
            return min(found, key=lambda plan: plan[1])[0] if found else self.thrifty

        def least() -> float:
            return min((seconds for plans in rounds for _, seconds in plans), default=float("inf"))

        first = self._program(caps[0], COPIES[0])
        if first is self.thrifty:
            yield self._as_cheap(caps[0])
        else:
            yield first
            yield self._program(caps[0], COPIES[1])
        yield self.thrifty
        for _ in range(again):
            before = least()
            yield best()
            if least() > before * (1 - GAIN):
                break
        self._strips(caps[-1])
        yield best()

    def _strips(self, cap: int) -> None:
        """Add columns cut in strips, as full as plans at the cap have to be."""
        problem, used = self.problem, sum(size.area * size.demand for size in self.problem.sizes)
        sheets = [(problem.stocks[easy.column.sheet], n) for easy, n in self.thrifty]
        area = sum(stock.area * n for stock, n in sheets if not stock.is_window)
        more = cap / self.cost if self.cost else 1.0
        if area:
            self.columns.in_strips(sum(n for stock, n in sheets if not stock.is_window), used / area / more)

    def _program(self, cap: int, a_copy: float) -> _Plan:
        """The quickest plan if all stacks were full and strips never shared, or the thrifty one if none is found."""
        problem, columns = self.problem, self.columns.all
        found = whole_cover(
            [easy.seconds(self.stack) + a_copy for easy in columns],
            [rows_at_cost(problem, easy.column) for easy in columns],
            problem.demands,
            limits_at_cost(problem, cap),
            good_enough=0,
            nodes=PROGRAM_NODES,
            seconds=self._at_most(PROGRAM_SECONDS),
        )
        return self._plan(columns, found)

    def _as_cheap(self, cap: int) -> _Plan:
        """Any plan as cheap as the cap, or the thrifty one if none is found.

        Where the sheets leave no room a program that asks for the quickest finds none. Only columns are asked that
        lose no more by the linear program's prices than such a plan may; those of that program are among them.
        """
        problem, pool = self.problem, ColumnPool(self.problem)
        until = time.monotonic() + self._at_most(CHEAP_SECONDS) / 2
        relaxed = relax(problem, self.tables, pool, self._told, lambda: until - time.monotonic(), early=False)
        for column in pool.columns:
            self.columns.add(column.sheet, column.tree)
        room = cap - sum(price * demand for price, demand in zip(relaxed.prices, problem.demands, strict=True))
        columns = [easy for easy in self.columns.all if self._loses(easy.column, relaxed.prices) <= room + 1e-6]
        found = whole_cover(
            [float(problem.costs[easy.column.sheet]) for easy in columns],
            [column_rows(problem, easy.column) for easy in columns],
            problem.demands,
            problem.how_many,
            good_enough=cap,
            nodes=CHEAP_NODES,
            seconds=self._at_most(CHEAP_SECONDS),
        )
        return self._plan(columns, found)

    def _at_most(self, seconds: float) -> float:
        """So long, or as long as there is time."""
        return max(0.1, min(seconds, self.seconds_left()))

    def _told(self, _: int) -> None:
        self.go_on()

    def _loses(self, column: Column, prices: Sequence[float]) -> float:
        """What a column costs beyond what it makes is worth."""
        made = sum(price * count for price, count in zip(prices, column.counts, strict=True))
        return self.problem.costs[column.sheet] - made

    def _plan(self, columns: Sequence[EasyColumn], found: WholeAnswer) -> _Plan:
        plan = [(easy, n) for easy, n in zip(columns, found.amounts or [], strict=False) if n]
        as_cheap = self._cost(Eased(_columns(plan), 0.0)) <= self.cost
        return plan if plan and as_cheap else self.thrifty

    def _buckets(self, more: float) -> list[int]:
        """Costs up to which the best is kept: each a dearest sheet more, or so many that there are not too many."""
        sheet = max(self.problem.costs)
        most = 1 + int(self.cost * more) // sheet if more and sheet else 1
        step = -(-most // BUCKETS)
        return [self.cost + sheet * number for number in range(0, most, step)]

    def _caps(self, buckets: Sequence[int], more: float) -> list[int]:
        wanted = {buckets[0]}
        wanted |= {max(b for b in buckets if b <= self.cost * (1 + share)) for share in SHARES if share <= more}
        return sorted(wanted | set(buckets[:3]) if more else wanted)

    def _search(self, best: Best, cap: int, seed: int) -> None:
        columns = self.columns.all
        arrays = Arrays(self.problem, columns, self.stack)
        best.search(arrays, cap, seed, max(self.problem.costs), min(MOVES, MOVES_A_COLUMN * len(columns)))

    def _found(self, rounds: Sequence[Sequence[tuple[_Plan, float]]]) -> list[Eased]:
        """Every plan once that is about as quick as what costs no more, the thriftiest first; not too many."""
        unlike = {tuple((id(e), n) for e, n in chosen): (chosen, s) for plans in rounds for chosen, s in plans}
        found = [Eased(_columns(chosen), seconds) for chosen, seconds in unlike.values()]
        found.sort(key=lambda eased: (self._cost(eased), eased.seconds))
        least, before = float("inf"), Counter[int]()
        kept: list[tuple[int, int, Eased]] = []
        for number, eased in enumerate(found):
            least, cost = min(least, eased.seconds), self._cost(eased)
            if eased.seconds <= least * NEARLY + NEAR:
                kept.append((before[cost], number, eased))
                before[cost] += 1
        # The best of every cost, then the second best, until there are enough.
        kept = sorted(sorted(kept)[:MOST], key=itemgetter(1))
        return [eased for _, _, eased in kept]

    def _seconds(self, plan: _Plan) -> float:
        return seconds_of_groups(add_up((easy.groups, copies) for easy, copies in plan), self.stack)

    def _cost(self, eased: Eased) -> int:
        return sum(self.problem.costs[column.sheet] * copies for column, copies in eased.chosen)


def _columns(plan: _Plan) -> Chosen:
    return tuple((easy.column, copies) for easy, copies in plan)


class Arrays:
    """Columns as the arrays that the compiled search takes."""

    def __init__(self, problem: Problem, columns: Sequence[EasyColumn], stack: int):
        self.columns, self.stack = columns, stack
        self.place = {id(easy): index for index, easy in enumerate(columns)}
        self.counts = np.array([easy.column.counts for easy in columns], dtype=np.int64)
        self.demands = np.array(problem.demands, dtype=np.int64)
        self.kinds = np.array([easy.column.sheet for easy in columns], dtype=np.int64)
        self.costs = np.array([problem.costs[kind] for kind in self.kinds], dtype=np.int64)
        self.there = np.array([-1 if s.count is None else s.count for s in problem.stocks], dtype=np.int64)
        sheet = max(stock.area for stock in problem.stocks)
        self.short = np.array([SHORT * size.area / sheet + A_PIECE for size in problem.sizes])
        numbers = {group: n for n, group in enumerate(dict.fromkeys(g for easy in columns for g in easy.groups))}
        begin = np.cumsum([0, *(len(easy.groups) for easy in columns)])
        groups = np.array([numbers[g] for easy in columns for g in easy.groups], dtype=np.int64)
        times = np.array([n for easy in columns for n in easy.groups.values()], dtype=np.int64)
        self.where = begin, groups, times
        places = {at: n for n, at in enumerate(dict.fromkeys(group.at for group in numbers))}
        seconds = np.array([float(group_seconds(group)) for group in numbers])
        at = np.array([places[group.at] for group in numbers], dtype=np.int64)
        pace = DEFAULT_PACE
        self.prices = seconds, at, stack, IN_HAND * pace.stack, AGAIN * pace.setting

    def copies(self, chosen: Sequence[tuple[EasyColumn, int]]) -> np.ndarray:
        """A plan as copies of every column."""
        found = np.zeros(len(self.columns), dtype=np.int64)
        for easy, copies in chosen:
            found[self.place[id(easy)]] += copies
        return found


class Best:
    """The best plans of every bucket of costs."""

    def __init__(self, buckets: Sequence[int], thrifty: Sequence[tuple[EasyColumn, int]]):
        self.buckets, self.thrifty = np.array(buckets, dtype=np.int64), list(thrifty)
        self.seconds = np.full(len(buckets), np.inf)
        self.chosen: list[_Plan] = [[] for _ in buckets]

    def plan_at(self, cost: int) -> _Plan:
        """The best plan for a bucket's cost, or the thrifty one."""
        return self.chosen[int(np.searchsorted(self.buckets, cost))] or self.thrifty

    def plans(self) -> list[tuple[_Plan, float]]:
        """All of them, with their seconds."""
        return [(chosen, float(s)) for chosen, s in zip(self.chosen, self.seconds, strict=True) if chosen]

    def search(self, arrays: Arrays, cap: int, seed: int, sheet: int, moves: int) -> None:
        """Search at one cap from the best plan there; what is met is kept."""
        if not len(arrays.where[1]):
            return
        from zester.core.fitting.patterns.kernels import anneal

        kept = np.zeros((len(self.buckets), len(arrays.columns)), dtype=np.int64)
        before = self.seconds.copy()
        anneal(
            seed,
            moves,
            WARMTH,
            arrays.copies(self.plan_at(cap)),
            arrays.counts,
            arrays.demands,
            arrays.short,
            arrays.costs,
            arrays.kinds,
            arrays.there,
            arrays.where,
            arrays.prices,
            cap,
            OVER / max(1, sheet),
            self.buckets,
            self.seconds,
            kept,
        )
        for index in np.flatnonzero(self.seconds < before):
            copies = kept[index]
            self.chosen[index] = [(arrays.columns[c], int(copies[c])) for c in np.flatnonzero(copies).tolist()]
