"""Sheets filled one after the other: from the mix rounded down or from nothing, by several values of the sizes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zester.core.fitting.parts import ANY_CUT
from zester.core.fitting.patterns.columns import Column, lp_cost, make_column, use_up
from zester.core.fitting.patterns.greedy import greedy_sheets
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.patterns.tidy import tidy
from zester.core.fitting.search.correcting import Correcting
from zester.core.fitting.search.found import Answer, Found

# For what share of the time left sheets are filled with values that learn.
CORRECTING_SHARE = 0.3


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


class Filling:
    """The ways that fill sheets; what they find is put into ``found``."""

    def __init__(self, found: Found):
        self.found = found
        self._correcting: Correcting | None = None

    def one_size_a_sheet(self) -> Answer | None:
        """For every size the sheets filled with it alone; None where a limited shelf could not hold them."""
        if self.found.problem.may_run_out:
            return None
        chosen = []
        for index, demand in enumerate(self.found.problem.demands):
            alone = [c for c in self.found.pool.columns if c.counts[index] == sum(c.counts) > 0 and self._endless(c)]
            column = min(
                alone, key=lambda c: (lp_cost(self.found.problem, c.sheet) / c.counts[index], -c.counts[index])
            )
            chosen.append((column, -(-demand // column.counts[index])))
        return self.found.answer(chosen, self.found.nothing)

    def _endless(self, column: Column) -> bool:
        return self.found.problem.stocks[column.sheet].count is None

    def fill_rest(self, amounts: Sequence[float], worth: list[int]) -> Answer | None:
        """Round the amounts down and fill what they leave over, sheet by sheet."""
        left = list(self.found.problem.demands)
        stock = [sheet.count for sheet in self.found.problem.stocks]
        chosen: list[tuple[Column, int]] = []
        for column, amount in zip(self.found.pool.columns, amounts, strict=False):
            copies = int(amount + 1e-6)
            if copies:
                chosen.append((column, copies))
                use_up(column, copies, left, stock)
        known = _Known(self.found.pool.columns, worth)
        while any(left):
            self.found.tell("filling sheets")
            hurry = self.found.seconds_left() < 0
            rest = self._by_greedy(left) if hurry else []
            if rest:
                chosen += rest
                left = [0] * len(left)
                break
            sheet = known.next_sheet(self.found.problem, left, stock) if hurry else self.next_sheet(left, stock, worth)
            if sheet is None:
                break
            most = [left[k] // count for k, count in enumerate(sheet.counts) if count]
            there = stock[sheet.sheet]
            copies = max(1, min(most) if there is None else min(*most, there))
            chosen.append((sheet, copies))
            use_up(sheet, copies, left, stock)
        return self.found.answer(chosen, left)

    def greedy(self, tries: int) -> None:
        """Piece after piece where it fits best, several times; what the sheets are comes into the pool."""
        if not self.found.one_endless_sheet:
            return
        stock = self.found.problem.stocks[0]
        sizes = [(size.width, size.height, size.turn) for size in self.found.problem.sizes]
        for number, trees in enumerate(
            greedy_sheets(stock.width, stock.height, sizes, self.found.problem.demands, tries)
        ):
            if self.found.done or (number and self.found.seconds_left() < 0):
                return
            if len(trees) * self.found.problem.costs[0] <= self.found.best.cost:
                chosen = [(make_column(self.found.problem, 0, tree), 1) for tree in trees]
                for tree in trees:
                    self.found.pool.add(0, tree)
                self.found.take_whole(chosen)

    def correct(self, turns: int) -> None:
        """Sheet after sheet with values that learn, so many times; what is better than the best so far is taken."""
        if self.found.lacks:
            return
        self.found.settle_prices()
        until = self.found.seconds_left() * (1 - CORRECTING_SHARE)

        def go_on() -> bool:
            return self.found.seconds_left() > until

        if self._correcting is None:
            mix = list(zip(self.found.pool.columns, self.found.relaxed.amounts, strict=False))
            self._correcting = Correcting(self.found.problem, mix, self.next_sheet)
        for _ in range(turns):
            self.found.tell("sheets with values that learn")
            if self.found.done or not go_on():
                return
            found = self._correcting.fill(self.found.best.cost, go_on)
            if found:
                self.found.take_whole(found)

    def _by_greedy(self, left: Sequence[int]) -> list[tuple[Column, int]]:
        """What is left, piece after piece where it fits best: the quickest way there is. Empty where that is no way."""
        stock = self.found.problem.stocks[0]
        if not self.found.one_endless_sheet or stock.limits != ANY_CUT:
            return []
        sizes = [(size.width, size.height, size.turn) for size in self.found.problem.sizes]
        trees = next(greedy_sheets(stock.width, stock.height, sizes, left, 1), [])
        return [(make_column(self.found.problem, 0, tree), 1) for tree in trees]

    def next_sheet(self, left: list[int], stock: list[int | None], worth: list[int]) -> Column | None:
        """The sheet that gives most of what is left for what it costs; None where none holds anything."""
        best, best_rate = None, 0.0
        for index in range(len(stock)):
            if stock[index] == 0:
                continue
            column = self._fullest(index, worth, left)
            value = sum(min(c, m) * w for c, m, w in zip(column.counts, left, worth, strict=True))
            rate = value / (lp_cost(self.found.problem, index) + 1e-9)
            if value and rate > best_rate:
                best, best_rate = column, rate
        return best

    def _fullest(self, stock: int, worth: list[int], left: list[int]) -> Column:
        """A sheet with much of what is left; a known column where the trimmer cannot cut what was found."""
        tree, sheet = self.found.tables.bounded_tree(stock, worth, left), self.found.problem.stocks[stock]
        if sheet.can_cut(tidy(tree, halve=False, limits=sheet.limits)):
            self.found.pool.add(stock, tree)
            return make_column(self.found.problem, stock, tree)

        def value(column: Column) -> int:
            return sum(min(c, m) * w for c, m, w in zip(column.counts, left, worth, strict=True))

        return max((column for column in self.found.pool.columns if column.sheet == stock), key=value)
