"""Diving: whole sheets one decision at a time, the linear program solved anew for what is left.

The mix is rounded down; of the columns left over in parts, the fullest is taken once; then new columns are made for the
smaller demands and the mix is found again, until little is left, which is fitted exactly. A branch is given up as soon
as what it has used and the bound of the rest are above the target. Where the first choice fails the next ones are
tried, a limited number of times (limited discrepancy search; Sadykov, Vanderbeck, Pessoa, Tahiri & Uchoa 2019).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from zester.core.fitting.parts import renumber
from zester.core.fitting.patterns.columns import Column, ColumnPool, Relaxed, Tables, make_column, relax
from zester.core.fitting.patterns.problem import Problem, part_of

NODES = 120
WIDTH = 3
LAST_SHEETS = 4

Chosen = list[tuple[Column, int]]


@dataclass(kw_only=True)
class Dive:
    """One search. ``finish`` fits a small rest exactly: demands and what it may cost -> columns with copies, or None.

    ``target`` is what a plan may cost, in units; ``go_on`` tells whether there is time left.
    """

    problem: Problem
    target: int
    finish: Callable[[Sequence[int], int], Chosen | None]
    go_on: Callable[[], bool]
    nodes: int = field(default=NODES)

    def run(self, relaxed: Relaxed, pool: ColumnPool) -> Chosen | None:
        """Columns with copies that cost no more than the target, or None."""
        return self._rest(self.problem.demands, 0, relaxed, pool.columns, WIDTH)

    def _rest(
        self, left: Sequence[int], spent: int, relaxed: Relaxed, columns: list[Column], width: int
    ) -> Chosen | None:
        if not any(left):
            return []
        amounts = list(zip(columns, relaxed.amounts, strict=False))
        whole = [(column, int(amount + 1e-6)) for column, amount in amounts if amount >= 1 - 1e-6]
        if whole:
            return self._after(whole, left, spent, columns, width)
        if relaxed.bound <= LAST_SHEETS * max(self.problem.costs):
            found = self.finish(left, self.target - spent)
            if found is not None:
                return found
        parts = sorted((pair for pair in amounts if pair[1] > 0.05), key=lambda pair: -pair[1])
        for number, (column, _) in enumerate(parts[:width]):
            found = self._after([(column, 1)], left, spent, columns, max(1, width - number))
            if found is not None or self.nodes <= 0:
                return found
        return None

    def _after(
        self, taken: Chosen, left: Sequence[int], spent: int, columns: list[Column], width: int
    ) -> Chosen | None:
        """Go on after some columns are taken."""
        self.nodes -= 1
        rest = list(left)
        for column, copies in taken:
            spent += copies * self.problem.costs[column.sheet]
            for index, count in enumerate(column.counts):
                rest[index] = max(0, rest[index] - copies * count)
        if not any(rest):
            return taken if spent <= self.target else None
        if spent >= self.target or self.nodes <= 0 or not self.go_on():
            return None
        small, keep, stocks = part_of(self.problem, rest)
        pool = ColumnPool(small)
        place = {stock: index for index, stock in enumerate(stocks)}
        back = {old: new for new, old in enumerate(keep)}
        for column in columns:
            if column.sheet in place:
                pool.add(place[column.sheet], renumber(column.tree, back))
        relaxed = relax(small, Tables(small), pool, lambda _: None, lambda: 1.0 if self.go_on() else -1.0, rounds=60)
        if spent + relaxed.bound > self.target:
            return None
        again = dict(enumerate(keep))
        wide = [make_column(self.problem, stocks[c.sheet], renumber(c.tree, again)) for c in pool.columns]
        found = self._rest(rest, spent, relaxed, wide, width)
        return None if found is None else taken + found
