"""Columns that are easy to cut, for ``easing.py`` to choose from: whole strips, few settings, full stacks.

They come from three sources:

1. column generation for minutes instead of costs, at no more than a given cost. The knapsack is that over rows
   (``rows.py``), where a setting and a stack fetched are paid for, so it weighs a fuller sheet against more handling;
2. the same with shaken prices, at the places of the rail that a plan has already;
3. plans made layout by layout in full stacks of what is still wanted (a sequential heuristic: Haessler 1971), which
   give the columns for odd rests.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from zester.core.fitting.jobs.job import KeepRule
from zester.core.fitting.minutes.carrying import carried
from zester.core.fitting.minutes.stripping import strip_tree
from zester.core.fitting.parts import Part
from zester.core.fitting.patterns.columns import (
    Column,
    Tables,
    make_column,
    program_at_cost,
    rents_at_cost,
    rows_at_cost,
)
from zester.core.fitting.patterns.handling import Group, group_seconds, groups_of
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.patterns.rows import UNITS, RowTable, row_tables
from zester.core.fitting.patterns.tidy import tidy
from zester.core.pace import DEFAULT_PACE

SEED = 7
ROUNDS = 60
# What a copy counts beside its seconds, so that none is cut for nothing.
A_COPY = 0.01
# What a new place of the rail costs where a plan's places are to be used again, in settings.
NEW_PLACE = 3
# How often in a row shaken prices may give no new column.
SHAKEN_IN_VAIN = 4
STACKS = (100, 64, 40, 24, 16, 12, 9, 7, 5, 4, 3, 2, 1)
# How many full tables a plan made layout by layout may take in all, by the cuts they compare.
EFFORT, MOST_TABLES, LEAST_TABLES = 120_000_000, 120, 12
# How full a sheet must be to be taken at once, drawn anew for every layout; how many copies are tried for it.
FULL_ENOUGH = (0.8, 0.97)
TRIES = 4
LONGEST = 40
# How many plans are made in strips; up to how many sheets any of their sheets is taken, and how full others must be.
STRIP_PLANS, FEW_STRIP_PLANS, FEW_SHEETS, STRIPS_FULL = 60, 300, 12, 0.98


@dataclass(frozen=True)
class EasyColumn:
    """A column with what handling it is."""

    column: Column
    """The column."""
    groups: Counter[Group]
    """What is cut of one copy at the trimmer; of a hidden middle nothing."""

    def seconds(self, stack: int) -> float:
        """What one copy takes if all its stacks are full."""
        return sum(count * group_seconds(group) for group, count in self.groups.items()) / stack


class EasyColumns:
    """The columns found so far, each once, and the ways to more of them.

    Parameters
    ----------
    problem, tables
        The paper's problem and its knapsack tables.
    stack : int
        Sheets cut at once.
    go_on : callable
        Whether there is time for more; may raise to stop.
    keep : KeepRule, optional
        Which offcuts are kept.
    """

    def __init__(
        self,
        problem: Problem,
        tables: Tables,
        stack: int,
        go_on: Callable[[], bool],
        keep: KeepRule | None = None,
    ):
        self.problem, self.tables, self.stack, self.go_on, self.keep = problem, tables, stack, go_on, keep
        self.dice = random.Random(SEED)
        self._known: dict[tuple[Any, ...], EasyColumn] = {}
        self._rows = row_tables(problem, tables)

    @property
    def all(self) -> list[EasyColumn]:
        """All of them, in the order in which they were found."""
        return list(self._known.values())

    def add(self, stock: int, tree: Part) -> EasyColumn | None:
        """Add a cut tree's column, or give back the one that is known; None if it makes nothing or cannot be cut."""
        kind = self.problem.stocks[stock]
        tree = tidy(tree, halve=False, limits=kind.limits)
        if not kind.is_window and not kind.limits.hold:
            tree = carried(tree, self.keep)
        column = make_column(self.problem, stock, tree)
        if not any(column.counts) or not kind.can_cut(tree):
            return None
        groups = Counter() if kind.is_window else groups_of(tree)
        key = (stock, column.counts, frozenset(groups.items()))
        return self._known.setdefault(key, EasyColumn(column, groups))

    def priced(self, cost: int) -> list[float]:
        """Add the columns of the quickest mix that costs at most ``cost`` units; the sizes' prices in seconds."""
        problem, program = self.problem, program_at_cost(self.problem, cost)
        used: list[EasyColumn] = []
        prices = [0.0] * len(problem.sizes)
        for _ in range(ROUNDS):
            known = self.all
            for easy in known[len(used) :]:
                program.add(easy.seconds(self.stack) + A_COPY, rows_at_cost(problem, easy.column))
            used = known
            _, duals = program.solve()
            prices = [max(0.0, dual) for dual in duals[: len(problem.sizes)]]
            if not self.go_on() or not self._price_out(prices, rents_at_cost(problem, duals)):
                break
        return prices

    def _price_out(self, prices: Sequence[float], rents: Sequence[float]) -> bool:
        """Add every sheet's best column that pays for its rent and its handling; whether one was new."""
        before = len(self._known)
        for index, table in self._filled(prices):
            stock = self.problem.stocks[index]
            if table.best(stock.width, stock.height) > (rents[index] + 1e-3) * UNITS * self.stack:
                self.add(index, table.tree(stock.width, stock.height))
        return len(self._known) > before

    def at_places(self, prices: Sequence[float], places: Collection[int], times: int) -> None:
        """Add columns for shaken prices, at these places of the rail if possible; fewer times if that gives none."""
        in_vain = 0
        for _ in range(times):
            before = len(self._known)
            for index, table in self._filled([price * self.dice.uniform(0.6, 1.4) for price in prices], places):
                if not self.go_on():
                    return
                self.add(index, table.tree(self.problem.stocks[index].width, self.problem.stocks[index].height))
            in_vain = 0 if len(self._known) > before else in_vain + 1
            if in_vain == SHAKEN_IN_VAIN:
                return

    def _filled(self, prices: Sequence[float], places: Collection[int] | None = None) -> Iterator[tuple[int, RowTable]]:
        """The sheets whose tables over rows can be used, with the tables filled for these prices in seconds."""
        pace, filled = DEFAULT_PACE, None
        worth = [int(price * self.stack * UNITS) for price in prices]
        new_place = 0 if places is None else NEW_PLACE * pace.setting * UNITS
        for index, table in enumerate(self._rows):
            if not table.usable or self.problem.stocks[index].is_window:
                continue
            # Sheets that share a table stand one after the other, mostly.
            if filled is not table:
                prices = pace.stack * UNITS, pace.stroke * UNITS
                table.fill(worth, *prices, places=places or (), new_place=new_place)
                filled = table
            yield index, table

    def in_stacks(self, prices: Sequence[float]) -> None:
        """Add the columns of plans made layout by layout in full stacks, as many as there is effort for."""
        tables = max(LEAST_TABLES, min(MOST_TABLES, EFFORT // max(1, self.tables.work)))
        while tables > 0 and self.go_on():
            spent = self._one_plan(prices)
            if not spent:
                break
            tables -= spent

    def _one_plan(self, prices: Sequence[float]) -> int:
        """The columns of one such plan; how many tables were filled for it."""
        sizes, dice = self.problem.sizes, self.dice
        sheets = self._sheets
        area = max(self.problem.stocks[index].area for index in sheets)
        weight = dice.choice((40, 80, 220))
        worth = [
            1 + int(UNITS * dice.uniform(0.7, 1.3) * (max(price * self.stack, 18 * share) + weight * share))
            for price, share in zip(prices, (size.area / area for size in sizes), strict=True)
        ]
        cut_price = dice.choice((2, 6, 10)) * UNITS
        left, spent = list(self.problem.demands), 0
        for _ in range(LONGEST):
            found, tried = self._layout(left, worth, cut_price, dice.choice(sheets))
            spent += tried
            if found is None or not self.go_on():
                break
            column, copies = found
            for index, count in enumerate(column.counts):
                left[index] = max(0, left[index] - count * copies)
            if not any(left):
                break
        return spent

    def in_strips(self, sheets: int, full: float) -> None:
        """Add sheets cut in alike strips, in full stacks.

        Where more than a few ``sheets`` are needed only those of which that share is used.
        """
        problem, dice, few = self.problem, random.Random(SEED), sheets <= FEW_SHEETS
        for _ in range(FEW_STRIP_PLANS if few else STRIP_PLANS):
            left = list(problem.demands)
            for _ in range(LONGEST):
                if not any(left) or not self.go_on():
                    break
                stock, copies = dice.choice(self._sheets), dice.choice(_copies(max(left), self.stack))
                most = [each // copies for each in left] if copies > 1 else left
                tree = strip_tree(problem, problem.stocks[stock], most, dice)
                column = make_column(problem, stock, tree)
                used = sum(n * size.area for n, size in zip(column.counts, problem.sizes, strict=True))
                if few or used >= STRIPS_FULL * full * problem.stocks[stock].area:
                    self.add(stock, tree)
                for index, count in enumerate(column.counts):
                    left[index] -= count * copies

    @property
    def _sheets(self) -> list[int]:
        stocks = enumerate(self.problem.stocks)
        return [index for index, stock in stocks if not stock.is_window and stock.count != 0]

    def _layout(
        self, left: Sequence[int], worth: Sequence[int], cut_price: int, stock: int
    ) -> tuple[tuple[Column, int] | None, int]:
        """A layout that can be cut in many full stacks without making more than is left; how many tables that took."""
        dice = self.dice
        enough, best, fullest, tried = dice.uniform(*FULL_ENOUGH), None, 0.0, 0
        sizes, area = self.problem.sizes, self.problem.stocks[stock].area
        copies = _copies(max(left), self.stack)
        first = dice.randrange(len(copies))
        for many in copies[first : first + TRIES]:
            most = [-(-each // many) if many == 1 else each // many for each in left]
            if not any(most):
                continue
            tried += 1
            easy = self.add(stock, self.tables.bounded_tree(stock, worth, most, cut_price))
            if easy is None:
                # What is left may be worth less than its cuts; it has to be made all the same.
                easy = self.add(stock, self.tables.bounded_tree(stock, worth, most))
            if easy is None:
                continue
            full = sum(n * size.area for n, size in zip(easy.column.counts, sizes, strict=True)) / area
            if best is None or full > fullest + 0.02:
                best, fullest = (easy.column, many), full
            if full >= enough:
                break
        return best, max(1, tried)


def _copies(most: int, stack: int) -> list[int]:
    """How many copies are tried: full stacks, many first, then fewer than one."""
    full = [stack * each for each in STACKS if each * stack <= most]
    return full + list(range(min(stack - 1, most), 0, -1))
