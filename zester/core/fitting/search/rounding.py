"""Whole numbers of sheets out of the fractional mix.

Several ways are tried until the proven bound is reached or the rounds are used up:

1. the mix rounded down, the rest filled sheet by sheet with layouts that respect what is still wanted;
2. sheets filled one after the other from nothing, with several values for the sizes;
3. part of the mix rounded at random, the rest sheet by sheet with values that learn (``correcting.py``);
4. the integer program over all columns found so far (Gilmore & Gomory's columns plus those of 1 and 2);
5. one person's share fitted alone and repeated, where that could meet the bound;
6. every column that a cheaper plan could use (``closing.py``), which finds that plan or proves there is none; where
   some sizes have no price, for the others alone, which is proof enough if it proves that there is none;
7. where sheets have several prices, one number of each kind after the other (``mixes.py``);
8. more columns, from the column program of what the rounded-down mix leaves over, and from shaken prices.

Plans of the same cost that take fewer minutes, and easier ones that cost more, come after that (``easing.py``). Among
answers of equal cost the one that takes the fewest minutes at the trimmer is kept.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from functools import reduce
from math import gcd

import numpy as np

from zester.core.fitting.jobs.job import KeepRule
from zester.core.fitting.minutes.easing import Easing
from zester.core.fitting.minutes.easy_columns import EasyColumns
from zester.core.fitting.parts import ANY_CUT, renumber, walk
from zester.core.fitting.patterns.columns import (
    Column,
    ColumnPool,
    Relaxed,
    Tables,
    column_rows,
    lp_cost,
    make_column,
    relax,
    use_up,
)
from zester.core.fitting.patterns.greedy import greedy_sheets
from zester.core.fitting.patterns.handling import seconds_of_layouts
from zester.core.fitting.patterns.problem import Problem, part_of
from zester.core.fitting.patterns.tidy import tidy, tidy_layouts
from zester.core.fitting.search.closing import close_gap, near_perfect
from zester.core.fitting.search.correcting import Correcting
from zester.core.fitting.search.diving import Dive
from zester.core.fitting.search.mixes import Chosen, Mixes
from zester.core.fitting.solver import whole_cover

AREA_VALUES = (1.0, 1.06, 1.15, 0.97, 1.3)
MIP_NODES = 4000
WIDENINGS = 6
HEAVY_WORK = 1_500_000
MANY_SHEETS = 200
# What is kept of the time for judging plans that are easier to cut.
JUDGING = 1.2
# How often pieces are packed greedily.
QUICK_TRIES, TRIES = 12, 200
# How often sheets are filled with values that learn, and for what share of the time left.
# With many kinds of sheets that takes long, and comes later.
FEW_TURNS, TURNS, CORRECTING_SHARE, FEW_KINDS = 6, 40, 0.3, 6
# What share of the time left is for fitting one mix of sheets.
MIX_SHARE = 0.4
# What is kept for listing, seconds.
LISTING = 2.0
# Shares of what closing may do at the most.
EFFORTS = (0.02, 0.1, 0.3)
# What is taken back of the mix, and how many nearly perfect columns are added.
NEAR_TRIES = ((0, 800), (0, 300), (1, 300), (2, 100))
FEW_NEAR_TRIES = ((0, 300), (1, 300), (2, 100))


class Depth(Enum):
    """How much is tried: everything; what settles one person's share; only the first ways."""

    FULL = "full"
    SHARE = "share"
    QUICK = "quick"


@dataclass(frozen=True, kw_only=True)
class Answer:
    """Whole copies of columns, and what they come to."""

    chosen: tuple[tuple[Column, int], ...]
    """Columns and copies."""
    missing: tuple[int, ...]
    """How many of each size are not made."""
    cost: int
    """In units."""
    work: float
    """Seconds at the trimmer, as ``handling.py`` estimates them."""
    offcuts: int
    """Parts left over."""

    def rank(self) -> tuple:
        """What is better comes first: nothing missing, cheap, few sheets, little work, few offcuts, few layouts."""
        sheets = sum(copies for _, copies in self.chosen)
        return (sum(self.missing), self.cost, sheets, self.work, self.offcuts, len(self.chosen))


class _Known:
    """The columns there are, asked which of them holds most of what is left: quicker than a new sheet by far."""

    def __init__(self, columns: Sequence[Column], worth: Sequence[int]):
        self.columns, self.worth = tuple(columns), np.array(worth, dtype=float)
        self._counts: np.ndarray | None = None

    def next_sheet(self, problem: Problem, left: Sequence[int], stock: Sequence[int | None]) -> Column | None:
        """The column that is worth most for what it costs; None where no sheet is left that would hold anything."""
        if self._counts is None:
            self._counts = np.array([column.counts for column in self.columns])
            self._costs = np.array([lp_cost(problem, column.sheet) + 1e-9 for column in self.columns])
            self._sheets = np.array([column.sheet for column in self.columns])
        there = np.array([count != 0 for count in stock])[self._sheets]
        rates = np.minimum(self._counts, np.array(left)) @ self.worth / self._costs * there
        best = int(rates.argmax())
        return self.columns[best] if rates[best] > 0 else None


class Rounding:
    """Looks for the best whole answer to one problem.

    Parameters
    ----------
    problem, tables, pool, relaxed
        The paper's problem, its knapsack tables, the columns so far and the solved linear program.
    stack : int
        Sheets cut at once, for counting strokes.
    tell : callable
        Called with a short text at every step; may raise to stop.
    seconds_left : callable
        How much of the time budget is left.
    depth : Depth
        How much to try.
    compiled : callable
        Called before compiled loops are needed that a small table does without.
    """

    def __init__(  # noqa: PLR0913 (one search, all of it named)
        self,
        problem: Problem,
        tables: Tables,
        pool: ColumnPool,
        relaxed: Relaxed,
        *,
        stack: int,
        tell: Callable[[str], None],
        seconds_left: Callable[[], float],
        depth: Depth = Depth.FULL,
        compiled: Callable[[], None] = lambda: None,
    ):
        self.depth, self.compiled = depth, compiled
        self.problem, self.tables, self.pool, self.relaxed = problem, tables, pool, relaxed
        self.stack, self.tell, self.seconds_left = stack, tell, seconds_left
        self.best: Answer | None = None
        self.bound = relaxed.bound
        self._closed_at: tuple | None = None
        self._nearly: list[Column] | None = None
        self._correcting: Correcting | None = None

    def run(self) -> Answer:
        """The best answer found; never worse than sheets that each hold one size only."""
        self._take(self._one_size_a_sheet())
        for number, way in enumerate(self._ways()):
            # However little time there is, sheets are filled once, and pieces packed greedily once.
            if self._done() or (number > 1 and self.best and self.seconds_left() < 0):
                break
            way()
        return self.best

    def eased(self, more: float = 0.0, keep: KeepRule | None = None) -> list[Answer]:
        """The best answer and others that take fewer minutes, the thriftiest first.

        They cost up to ``more`` of its cost more; with 0 they cost the same. ``keep`` tells which offcuts are kept.
        """
        if any(self.best.missing):
            return [self.best]

        def go_on() -> bool:
            self.tell("fewer minutes")
            return self.seconds_left() > JUDGING

        columns = EasyColumns(self.problem, self.tables, self.stack, go_on, keep)
        easing = Easing(columns, self.pool.columns, self.best.chosen)
        none = [0] * len(self.problem.sizes)
        found = [self._answer(each.chosen, none) for each in easing.run(more)]
        return sorted([self.best, *(answer for answer in found if answer)], key=Answer.rank)

    def _ways(self) -> Iterator[Callable[[], None]]:
        """What is tried, one after the other, until the bound is met."""
        yield lambda: self._take(self._fill_rest(self.relaxed.amounts, self._price_worth()))
        if self.depth is not Depth.QUICK:
            yield lambda: self._greedy(QUICK_TRIES)
            yield self._exclude_mixes
            if len(self.problem.stocks) <= FEW_KINDS and self._quick and not self._many:
                yield lambda: self._correct(FEW_TURNS)
        yield lambda: self._take(self._whole_program())
        if self.depth is Depth.QUICK:
            return
        if self.depth is Depth.FULL:
            yield self._one_share
            yield self._close_for_priced
            yield self._by_mixes
            if not self._many:
                yield lambda: self._correct(TURNS)
            yield from self._for_many_sheets() if self._many else self._for_few_sheets()
        else:
            yield from self._for_few_sheets()
        if self.depth is Depth.SHARE:
            return
        shaker = random.Random(20)
        for turn in range(WIDENINGS):
            yield lambda turn=turn: self._widen(turn, shaker)
            yield lambda turn=turn: self._close(EFFORTS[min(1 + turn, len(EFFORTS) - 1)])

    @property
    def _quick(self) -> bool:
        """Whether filling the tables takes next to no time."""
        return self.tables.work <= HEAVY_WORK

    @property
    def _many(self) -> bool:
        """Whether hundreds of sheets are needed, so that nearly everything is in the rounded-down mix."""
        return self.bound >= MANY_SHEETS * max(self.problem.costs) and not self.problem.limited

    def _for_many_sheets(self) -> Iterator[Callable[[], None]]:
        # A dive fills tables again and again; where that takes long the nearly perfect columns come first.
        before = 1 if self._quick else len(NEAR_TRIES)
        for back, most in NEAR_TRIES[:before]:
            yield lambda back=back, most=most: self._near_perfect(back, most)
        yield self._dive
        for back, most in NEAR_TRIES[before:]:
            yield lambda back=back, most=most: self._near_perfect(back, most)
        yield lambda: self._close(EFFORTS[0])

    def _for_few_sheets(self) -> Iterator[Callable[[], None]]:
        yield lambda: self._take(self._fill_rest([], self._area_worth(AREA_VALUES[0])))
        yield lambda: self._close(EFFORTS[0])
        if self._quick:
            yield from self._by_areas()
        if self.depth is not Depth.SHARE:
            if not self.problem.limited:
                # Where a few sheets leave next to no waste, sheets that lose next to nothing find the plan in a tenth
                # of the time a dive takes.
                for back, most in FEW_NEAR_TRIES:
                    yield lambda back=back, most=most: self._near_perfect(back, most)
            yield self._dive
        if not self._quick:
            yield from self._by_areas()
        yield lambda: self._greedy(TRIES)
        yield lambda: self._take(self._whole_program())
        yield lambda: self._close(EFFORTS[1])

    def _by_areas(self) -> Iterator[Callable[[], None]]:
        for power in AREA_VALUES[1:]:
            yield lambda power=power: self._take(self._fill_rest([], self._area_worth(power)))
        yield lambda: self._take(self._whole_program())

    def _greedy(self, tries: int) -> None:
        """Piece after piece where it fits best, several times; what the sheets are comes into the pool."""
        if not self._one_endless_sheet:
            return
        stock = self.problem.stocks[0]
        sizes = [(size.width, size.height, size.turn) for size in self.problem.sizes]
        for number, trees in enumerate(greedy_sheets(stock.width, stock.height, sizes, self.problem.demands, tries)):
            if self._done() or (number and self.seconds_left() < 0):
                return
            if len(trees) * self.problem.costs[0] <= self.best.cost:
                chosen = [(make_column(self.problem, 0, tree), 1) for tree in trees]
                for tree in trees:
                    self.pool.add(0, tree)
                self._take(self._answer(chosen, [0] * len(sizes)))

    def _correct(self, turns: int) -> None:
        """Sheet after sheet with values that learn, so many times; what is better than the best so far is taken."""
        if any(self.best.missing):
            return
        self._settle_prices()
        until = self.seconds_left() * (1 - CORRECTING_SHARE)

        def go_on() -> bool:
            return self.seconds_left() > until

        if self._correcting is None:
            mix = list(zip(self.pool.columns, self.relaxed.amounts, strict=False))
            self._correcting = Correcting(self.problem, mix, self._next_sheet)
        for _ in range(turns):
            self.tell("sheets with values that learn")
            if self._done() or not go_on():
                return
            found = self._correcting.fill(self.best.cost, go_on)
            if found:
                self._take(self._answer(found, [0] * len(self.problem.sizes)))

    def _settle_prices(self) -> None:
        """Solve the linear program to its end, if that was stopped early."""
        if not self.relaxed.settled:
            self.tell("better prices")
            self.relaxed = relax(
                self.problem, self.tables, self.pool, lambda _: None, lambda: self.seconds_left() - 1.0, early=False
            )
            self.bound = max(self.bound, self.relaxed.bound)

    def _close(self, effort: float) -> None:
        """List every column a cheaper plan could use, and settle whether there is one."""
        if any(self.best.missing) or self._closed_at == (self.best.cost, effort):
            return
        self._settle_prices()
        self._closed_at = (self.best.cost, effort)
        area = [size.area for size in self.problem.sizes]
        self.tell("closing the gap")
        self.compiled()
        closed = close_gap(
            self.problem,
            self.tables,
            [self.relaxed.worth, area],
            self.best.cost,
            self.bound,
            seconds=max(0.3, min(3.0, self.seconds_left())),
            effort=effort,
        )
        if closed.chosen:
            self._take(self._answer(closed.chosen, [0] * len(self.problem.sizes)))
        if closed.settled:
            self.bound = max(self.bound, self.best.cost)

    def _close_for_priced(self) -> None:
        """Settle the gap for the sizes that have a price alone: what they need at least, all of them need.

        What has no price fits in beside the others in any mix, in more ways than can be listed.
        """
        self._settle_prices()
        priced = [bool(worth) for worth in self.relaxed.worth]
        windows = [stock for stock in self.problem.stocks if stock.is_window]
        if all(priced) or not any(priced) or self._done() or any(self.best.missing):
            return
        if any(fits and price for window in windows for fits, price in zip(window.allowed, priced, strict=True)):
            return
        self.tell("closing the gap")
        demands = [demand * price for demand, price in zip(self.problem.demands, priced, strict=True)]
        small = part_of(self.problem, demands)[0]
        tables = Tables(small)
        relaxed = relax(small, tables, ColumnPool(small), lambda _: None, self.seconds_left, early=False)
        left = max(0.3, min(3.0, self.seconds_left()))
        closed = close_gap(
            small, tables, [relaxed.worth], self.best.cost, relaxed.bound, seconds=left, effort=EFFORTS[1]
        )
        self.bound = max(self.bound, relaxed.bound)
        if closed.settled and not closed.chosen:
            self.bound = max(self.bound, self.best.cost)

    def _exclude_mixes(self) -> None:
        """Where sheets have several prices: the bound of those numbers of each kind that prices exclude."""
        mixes = self._open_mixes()
        if mixes:
            self.bound = max(self.bound, mixes.exclude(self.bound, self.best.cost))

    def _open_mixes(self) -> Mixes | None:
        """The numbers of sheets of several prices between the bound and the best so far, if there are any."""
        mixes = Mixes(self.problem, self.tables, self.pool, self._fit_mix, self._more_mixes)
        if any(self.best.missing) or not mixes.apply:
            return None
        self._settle_prices()
        self.compiled()
        return None if self._done() else mixes

    def _by_mixes(self) -> None:
        """Where sheets have several prices: one number of each kind after the other."""
        mixes = self._open_mixes()
        if not mixes:
            return
        chosen, bound = mixes.run(self.bound, self.best.cost)
        if chosen:
            self._take(self._answer(chosen, [0] * len(self.problem.sizes)))
        self.bound = max(self.bound, bound)

    def _more_mixes(self) -> bool:
        self.tell("sheets of several prices")
        return self.seconds_left() > LISTING

    def _fit_mix(self, mix: Problem, cost: int) -> Chosen | None:
        """A plan from just these sheets that costs no more than that; its columns join the pool."""
        pool, until = ColumnPool(mix), self.seconds_left() * (1 - MIX_SHARE)

        def left() -> float:
            return self.seconds_left() - until

        for column in self.pool.columns:
            pool.add(column.sheet, column.tree)
        relaxed = relax(mix, self.tables, pool, lambda _: self.tell("sheets of several prices"), left)
        rounding = Rounding(
            mix, self.tables, pool, replace(relaxed, bound=cost), stack=self.stack, tell=self.tell, seconds_left=left
        )
        answer = rounding.run()
        for column in pool.columns:
            self.pool.add(column.sheet, column.tree)
        return answer.chosen if answer.cost <= cost and not any(answer.missing) else None

    def _near_perfect(self, back: int, most: int) -> None:
        """For large demands: most of the mix rounded down, the rest from columns that lose next to nothing."""
        if any(self.best.missing):
            return
        self._settle_prices()
        self.tell("nearly perfect sheets")
        self.compiled()
        if self._nearly is None:
            self._nearly = near_perfect(self.problem, self.tables, self.relaxed.worth)
        left = list(self.problem.demands)
        whole = [
            (column, max(0, int(amount + 1e-6) - back))
            for column, amount in zip(self.pool.columns, self.relaxed.amounts, strict=False)
        ]
        for column, copies in whole:
            use_up(column, copies, left, [None] * len(self.problem.stocks))
        spent = sum(self.problem.costs[column.sheet] * copies for column, copies in whole)
        mix = [column for column, _ in whole]
        columns = list({(c.sheet, c.counts): c for c in (*self._nearly[:most], *mix)}.values())
        found = whole_cover(
            [float(self.problem.costs[column.sheet]) for column in columns],
            [column_rows(self.problem, column) for column in columns],
            left,
            [],
            good_enough=self.bound - spent,
            nodes=MIP_NODES,
            seconds=max(0.2, min(3.0, self.seconds_left() - 0.5)),
            ceiling=self.bound - spent,
        )
        if found.amounts:
            rest = [(column, n) for column, n in zip(columns, found.amounts, strict=True) if n]
            self._take(self._answer([*((c, n) for c, n in whole if n), *rest], [0] * len(left)))

    def _dive(self) -> None:
        """Whole sheets one decision at a time."""
        if self.problem.limited or any(self.best.missing):
            return
        self._settle_prices()
        self.tell("one sheet after the other")

        def go_on() -> bool:
            self.tell("one sheet after the other")
            return self.seconds_left() > 1.0

        dive = Dive(problem=self.problem, target=self.bound, finish=self._finish, go_on=go_on)
        chosen = dive.run(self.relaxed, self.pool)
        if chosen:
            self._take(self._answer(chosen, [0] * len(self.problem.sizes)))

    def _finish(self, demands: Sequence[int], most: int) -> list[tuple[Column, int]] | None:
        """A small rest fitted as well as can be, if it costs no more than ``most``."""
        chosen = self._part_problem(demands, Depth.SHARE)
        cost = sum(self.problem.costs[column.sheet] * copies for column, copies in chosen)
        return chosen if cost <= most else None

    def _one_share(self) -> None:
        """Fit one person's share alone and repeat it, where that could meet the bound."""
        share = reduce(gcd, self.problem.demands)
        if share == 1 or self.problem.limited or self.bound % share:
            return
        chosen = self._part_problem([demand // share for demand in self.problem.demands], Depth.SHARE)
        self._take(self._answer([(column, n * share) for column, n in chosen], [0] * len(self.problem.sizes)))

    def _part_problem(self, demands: Sequence[int], depth: Depth) -> list[tuple[Column, int]]:
        """A plan for other demands from the sheets that are there without limit; its columns join the pool."""
        small, keep, endless = part_of(self.problem, demands)
        if not keep:
            return []
        again = dict(enumerate(keep))

        def tell(_: object) -> None:
            self.tell("a part of it")

        def left() -> float:
            return self.seconds_left() / 2

        tables, pool = Tables(small), ColumnPool(small)
        relaxed = relax(small, tables, pool, tell, left, rounds=80)
        rounding = Rounding(
            small,
            tables,
            pool,
            relaxed,
            stack=self.stack,
            tell=tell,
            seconds_left=left,
            depth=depth,
            compiled=self.compiled,
        )
        answer = rounding.run()
        for column in pool.columns:
            self.pool.add(endless[column.sheet], renumber(column.tree, again))
        return [
            (make_column(self.problem, endless[column.sheet], renumber(column.tree, again)), copies)
            for column, copies in answer.chosen
        ]

    def _done(self) -> bool:
        return self.best is not None and not any(self.best.missing) and self.best.cost <= self.bound

    def _take(self, answer: Answer | None) -> None:
        if answer is not None and (self.best is None or answer.rank() < self.best.rank()):
            self.best = answer
            self.tell(f"{sum(copies for _, copies in answer.chosen)} sheets")

    def _price_worth(self) -> list[int]:
        sizes = self.problem.sizes
        top = max(self.relaxed.prices) or 1.0
        largest = max(size.area for size in sizes)
        return [
            int(1e6 * price / top + 1e3 * size.area / largest) + 1
            for price, size in zip(self.relaxed.prices, sizes, strict=True)
        ]

    def _area_worth(self, power: float) -> list[int]:
        largest = max(size.area for size in self.problem.sizes)
        return [int(1e6 * (size.area / largest) ** power) + 1 for size in self.problem.sizes]

    def _one_size_a_sheet(self) -> Answer | None:
        """For every size the sheets filled with it alone; None where a limited shelf could not hold them."""
        if self.problem.may_run_out:
            return None
        chosen = []
        for index, demand in enumerate(self.problem.demands):
            alone = [c for c in self.pool.columns if c.counts[index] == sum(c.counts) > 0 and self._endless(c)]
            column = min(alone, key=lambda c: (lp_cost(self.problem, c.sheet) / c.counts[index], -c.counts[index]))
            chosen.append((column, -(-demand // column.counts[index])))
        return self._answer(chosen, [0] * len(self.problem.sizes))

    def _endless(self, column: Column) -> bool:
        return self.problem.stocks[column.sheet].count is None

    def _fill_rest(self, amounts: Sequence[float], worth: list[int]) -> Answer | None:
        """Round the amounts down and fill what they leave over, sheet by sheet."""
        left = list(self.problem.demands)
        stock = [sheet.count for sheet in self.problem.stocks]
        chosen: list[tuple[Column, int]] = []
        for column, amount in zip(self.pool.columns, amounts, strict=False):
            copies = int(amount + 1e-6)
            if copies:
                chosen.append((column, copies))
                use_up(column, copies, left, stock)
        known = _Known(self.pool.columns, worth)
        while any(left):
            self.tell("filling sheets")
            hurry = self.seconds_left() < 0
            rest = self._by_greedy(left) if hurry else []
            if rest:
                chosen += rest
                left = [0] * len(left)
                break
            column = known.next_sheet(self.problem, left, stock) if hurry else self._next_sheet(left, stock, worth)
            if column is None:
                break
            copies = min(left[k] // count for k, count in enumerate(column.counts) if count)
            copies = max(1, copies if stock[column.sheet] is None else min(copies, stock[column.sheet]))
            chosen.append((column, copies))
            use_up(column, copies, left, stock)
        return self._answer(chosen, left)

    @property
    def _one_endless_sheet(self) -> bool:
        """Whether all comes from sheets of one kind, of which there are enough."""
        return not (len(self.problem.stocks) > 1 or self.problem.limited or self.problem.may_run_out)

    def _by_greedy(self, left: Sequence[int]) -> list[tuple[Column, int]]:
        """What is left, piece after piece where it fits best: the quickest way there is. Empty where that is no way."""
        stock = self.problem.stocks[0]
        if not self._one_endless_sheet or stock.limits != ANY_CUT:
            return []
        sizes = [(size.width, size.height, size.turn) for size in self.problem.sizes]
        trees = next(greedy_sheets(stock.width, stock.height, sizes, left, 1), [])
        return [(make_column(self.problem, 0, tree), 1) for tree in trees]

    def _next_sheet(self, left: list[int], stock: list[int | None], worth: list[int]) -> Column | None:
        best, best_rate = None, 0.0
        for index in range(len(stock)):
            if stock[index] == 0:
                continue
            column = self._fullest(index, worth, left)
            value = sum(min(c, m) * w for c, m, w in zip(column.counts, left, worth, strict=True))
            rate = value / (lp_cost(self.problem, index) + 1e-9)
            if value and rate > best_rate:
                best, best_rate = column, rate
        return best

    def _fullest(self, stock: int, worth: list[int], left: list[int]) -> Column:
        """A sheet with much of what is left; a known column where the trimmer cannot cut what was found."""
        tree, sheet = self.tables.bounded_tree(stock, worth, left), self.problem.stocks[stock]
        if sheet.can_cut(tidy(tree, halve=False, limits=sheet.limits)):
            self.pool.add(stock, tree)
            return make_column(self.problem, stock, tree)

        def value(column: Column) -> int:
            return sum(min(c, m) * w for c, m, w in zip(column.counts, left, worth, strict=True))

        return max((column for column in self.pool.columns if column.sheet == stock), key=value)

    def _whole_program(self) -> Answer | None:
        self.tell("whole sheets")
        problem, columns = self.problem, self.pool.columns
        costs = [lp_cost(problem, column.sheet) for column in columns]
        rows = [column_rows(problem, column) for column in columns]
        if problem.may_run_out:
            # Elsewhere nothing may be missing.
            costs += [4.0 * (max(problem.costs) + 1)] * len(problem.sizes)
            rows += [{index: 1} for index in range(len(problem.sizes))]
        found = whole_cover(
            costs,
            rows,
            problem.demands,
            [problem.stocks[s].count for s in problem.limited],
            good_enough=self.bound,
            nodes=MIP_NODES,
            seconds=max(0.3, min(1.0 if self._many else 3.0, self.seconds_left())),
        )
        if found.amounts is None:
            return None
        chosen = [(column, n) for column, n in zip(columns, found.amounts, strict=False) if n]
        missing = found.amounts[len(columns) :] or [0] * len(problem.sizes)
        return self._answer(chosen, missing)

    def _answer(self, chosen: Sequence[tuple[Column, int]], missing: Sequence[int]) -> Answer | None:
        """The columns and copies as an answer; None if they do not make what they should (a float gone wrong)."""
        made = [0] * len(self.problem.sizes)
        for column, copies in chosen:
            for index, count in enumerate(column.counts):
                made[index] += copies * count
        if any(m + lost < demand for m, lost, demand in zip(made, missing, self.problem.demands, strict=True)):
            return None
        merged: dict[tuple, tuple[Column, int]] = {}
        for column, copies in chosen:
            key = (column.sheet, column.counts)
            merged[key] = (column, copies + (merged[key][1] if key in merged else 0))
        trees = tidy_layouts(
            [(column.tree, copies) for column, copies in merged.values()], self.stack, self.problem.limits
        )
        pairs = zip(merged.values(), trees, strict=True)
        if not all(self.problem.stocks[column.sheet].can_cut(tree) for (column, _), tree in pairs):
            return None
        kept = tuple(
            (replace(column, tree=tree), copies) for (column, copies), tree in zip(merged.values(), trees, strict=True)
        )
        cost = sum(self.problem.costs[column.sheet] * copies for column, copies in kept)
        offcuts = sum(copies * sum(part.left_over for part in walk(column.tree)) for column, copies in kept)
        work = seconds_of_layouts(
            ((c.tree, n) for c, n in kept if not self.problem.stocks[c.sheet].is_window), self.stack
        )
        return Answer(chosen=kept, missing=tuple(missing), cost=cost, work=work, offcuts=offcuts)

    def _widen(self, turn: int, shaker: random.Random) -> None:
        """More columns, and the whole program again."""
        known = len(self.pool.columns)
        self._residual_columns(turn)
        self._shaken_columns(shaker)
        self._take(self._fill_rest([], self._shaken_worth(shaker)))
        if len(self.pool.columns) > known:
            self._take(self._whole_program())

    def _residual_columns(self, turn: int) -> None:
        """Columns that are good for what is left when the mix is rounded down a little further each turn."""
        left = list(self.problem.demands)
        for column, amount in zip(self.pool.columns, self.relaxed.amounts, strict=False):
            copies = max(0, int(amount + 1e-6) - turn // 2)
            for index, count in enumerate(column.counts):
                left[index] = max(0, left[index] - copies * count)
        self._part_problem(left, Depth.QUICK)

    def _shaken_columns(self, shaker: random.Random) -> None:
        for _ in range(4):
            worth = self._shaken_worth(shaker)
            self.tables.fill(worth)
            for index in range(len(self.problem.stocks)):
                self.pool.add(index, self.tables.tree(index))
                self.pool.add(index, self.tables.bounded_tree(index, worth, self.problem.demands))

    def _shaken_worth(self, shaker: random.Random) -> list[int]:
        return [max(1, int(worth * shaker.uniform(0.75, 1.25))) for worth in self._area_worth(1.05)]
