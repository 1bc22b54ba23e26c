"""Smaller problems out of one, each rounded by itself: one person's share, a rest, a mix of prices."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from enum import Enum
from functools import reduce
from math import gcd

from zester.core.fitting.parts import renumber
from zester.core.fitting.patterns.columns import Column, ColumnPool, Tables, make_column, relax
from zester.core.fitting.patterns.problem import Problem, part_of
from zester.core.fitting.search.diving import Dive
from zester.core.fitting.search.found import Answer, Found
from zester.core.fitting.search.mixes import Chosen

# What share of the time left is for fitting one mix of sheets.
MIX_SHARE = 0.4


class Depth(Enum):
    """How much is tried: everything; what settles one person's share; only the first ways."""

    FULL = "full"
    SHARE = "share"
    QUICK = "quick"


# Rounds a problem as deep as is said.
Round = Callable[[Found, Depth], Answer]


class Smaller:
    """The ways that round a smaller problem; ``round_it`` does that."""

    def __init__(self, found: Found, round_it: Round):
        self.found, self.round_it = found, round_it

    def one_share(self) -> None:
        """Fit one person's share alone and repeat it, where that could meet the bound."""
        share = reduce(gcd, self.found.problem.demands)
        if share == 1 or self.found.problem.limited or self.found.bound % share:
            return
        chosen = self.part_problem([demand // share for demand in self.found.problem.demands], Depth.SHARE)
        self.found.take_whole([(column, n * share) for column, n in chosen])

    def dive(self) -> None:
        """Whole sheets one decision at a time."""
        if self.found.problem.limited or self.found.lacks:
            return
        self.found.settle_prices()
        self.found.tell("one sheet after the other")

        def go_on() -> bool:
            self.found.tell("one sheet after the other")
            return self.found.seconds_left() > 1.0

        dive = Dive(problem=self.found.problem, target=self.found.bound, finish=self._finish, go_on=go_on)
        chosen = dive.run(self.found.relaxed, self.found.pool)
        if chosen:
            self.found.take_whole(chosen)

    def _finish(self, demands: Sequence[int], most: int) -> list[tuple[Column, int]] | None:
        """A small rest fitted as well as can be, if it costs no more than ``most``."""
        chosen = self.part_problem(demands, Depth.SHARE)
        cost = sum(self.found.problem.costs[column.sheet] * copies for column, copies in chosen)
        return chosen if cost <= most else None

    def fit_mix(self, mix: Problem, cost: int) -> Chosen | None:
        """A plan from just these sheets that costs no more than that; its columns join the pool."""
        pool, until = ColumnPool(mix), self.found.seconds_left() * (1 - MIX_SHARE)

        def left() -> float:
            return self.found.seconds_left() - until

        for column in self.found.pool.columns:
            pool.add(column.sheet, column.tree)
        relaxed = relax(mix, self.found.tables, pool, lambda _: self.found.tell("sheets of several prices"), left)
        mixed = Found(
            mix,
            self.found.tables,
            pool,
            replace(relaxed, bound=cost),
            stack=self.found.stack,
            tell=self.found.tell,
            seconds_left=left,
        )
        answer = self.round_it(mixed, Depth.FULL)
        for column in pool.columns:
            self.found.pool.add(column.sheet, column.tree)
        return answer.chosen if answer.cost <= cost and not any(answer.missing) else None

    def residual_columns(self, turn: int) -> None:
        """Columns that are good for what is left when the mix is rounded down a little further each turn."""
        left = list(self.found.problem.demands)
        for column, amount in zip(self.found.pool.columns, self.found.relaxed.amounts, strict=False):
            copies = max(0, int(amount + 1e-6) - turn // 2)
            for index, count in enumerate(column.counts):
                left[index] = max(0, left[index] - copies * count)
        self.part_problem(left, Depth.QUICK)

    def part_problem(self, demands: Sequence[int], depth: Depth) -> list[tuple[Column, int]]:
        """A plan for other demands from the sheets that are there without limit; its columns join the pool."""
        small, keep, endless = part_of(self.found.problem, list(demands))
        if not keep:
            return []
        again = dict(enumerate(keep))

        def tell(_: object) -> None:
            self.found.tell("a part of it")

        def left() -> float:
            return self.found.seconds_left() / 2

        tables, pool = Tables(small), ColumnPool(small)
        relaxed = relax(small, tables, pool, tell, left, rounds=80)
        part = Found(
            small,
            tables,
            pool,
            relaxed,
            stack=self.found.stack,
            tell=tell,
            seconds_left=left,
            compiled=self.found.compiled,
        )
        answer = self.round_it(part, depth)
        for column in pool.columns:
            self.found.pool.add(endless[column.sheet], renumber(column.tree, again))
        return [
            (make_column(self.found.problem, endless[column.sheet], renumber(column.tree, again)), copies)
            for column, copies in answer.chosen
        ]
