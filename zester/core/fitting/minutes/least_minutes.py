"""What any plan of no more than a given cost takes at the trimmer: a lower bound of the seconds.

Let every cut of every sheet take ``stroke / stack`` and every setting for every part ``stack fetched / stack``: no plan
takes less, as no more than a stack is cut or fetched at once. What may be less is left out: a stack that is in the
hand still is not fetched. If the rail was moved for it, that setting took longer than the fetching would have; so all
but the difference of the two is left out of the settings, and counted as a fetch. If the rail was not moved, the part
is cut at the same place as the one it came from was, which the table of ``hand_table.py`` knows. With prices of the
sizes in seconds, no sheet being worth more of them than its rent,

    seconds of any plan  >=  sum(price * demand) - rent * (what the sheets may cost) + (setting - stack fetched)

by linear programming duality. Prices are whole numbers, so floats cannot spoil it. It holds for plans whose cuts lie at
sums of piece lengths (``positions.py``), as all plans here do.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal
from fractions import Fraction

from zester.core.fitting.jobs.job import Bench, PaperJob
from zester.core.fitting.minutes.hand_table import HandTable
from zester.core.fitting.patterns.columns import (
    Column,
    ColumnPool,
    Tables,
    make_column,
    one_size_columns,
    program_at_cost,
    rents_at_cost,
    rows_at_cost,
)
from zester.core.fitting.patterns.problem import Problem, make_problem
from zester.core.fitting.patterns.rows import UNITS, row_tables
from zester.core.pace import DEFAULT_PACE

ROUNDS = 80
# What making a piece without any column for it counts in the linear program, in seconds.
MISSING = 1e5


# How long the bound of one paper may take.
BOUND_SECONDS = 6.0


def least_for(paper: PaperJob, bench: Bench, cost: Decimal, tell: Callable[[str], None] = lambda _: None) -> int:
    """Seconds, rounded down, that any plan of a paper takes that costs no more than ``cost``, at the usual pace.

    0 where no bound is known: only common sheets are reckoned with, nothing out of middles, nothing pinned. A trimmer's
    limits are left out, which can only make the bound smaller. ``tell`` hears a few words now and then; it may
    raise to stop.
    """
    if paper.pool != "together" or paper.pins or any(piece.from_window for piece in paper.pieces):
        return 0
    problem, until = make_problem(paper), time.monotonic() + BOUND_SECONDS

    def go_on() -> bool:
        tell("the fewest minutes there can be")
        return time.monotonic() < until

    return least_seconds(problem, Tables(problem), int(cost / problem.unit_cost), bench.stack, go_on)


def least_seconds(
    problem: Problem, tables: Tables, cost: int, stack: int, go_on: Callable[[], bool] = lambda: True
) -> int:
    """Seconds, rounded down, that any plan of at most ``cost`` units takes; 0 where no bound is known."""
    rows = row_tables(problem, tables)
    known = {id(table): HandTable(table) for table in rows}
    hands = [known[id(table)] for table in rows]
    if not tables.exact or not all(table.usable for table in hands):
        return 0
    return _Least(problem, hands, cost, stack).run(go_on)


class _Least:
    """Column generation for the bound; a sheet's least seconds are those that the table itself counts."""

    def __init__(self, problem: Problem, tables: Sequence[HandTable], cost: int, stack: int):
        self.problem, self.cost, self.stack = problem, cost, stack
        self.tables = tables
        self.sizes = len(problem.sizes)
        self.program = program_at_cost(problem, cost)
        for index in range(self.sizes):
            self.program.add(MISSING, {index: 1})
        pool = ColumnPool(problem)
        one_size_columns(problem, pool)
        for column in pool.columns:
            # Cut in any way it takes no longer than with every cut a setting.
            cuts = sum(column.counts) * 2
            seconds = cuts * (DEFAULT_PACE.stack + DEFAULT_PACE.stroke) / stack
            self.program.add(seconds, rows_at_cost(problem, column))

    def run(self, go_on: Callable[[], bool]) -> int:
        """The best bound of all prices on the way."""
        best, pace = Fraction(0), DEFAULT_PACE
        for _ in range(ROUNDS):
            _, duals = self.program.solve()
            worth = [int(max(0.0, dual) * self.stack * UNITS) for dual in duals[: self.sizes]]
            found = list(self._sheets(worth))
            best = max(best, self._bound(worth, [value for value, _ in found]))
            new = 0
            for (value, column), rent in zip(found, rents_at_cost(self.problem, duals), strict=True):
                if value > (rent + 1e-3) * self.stack * UNITS:
                    earned = sum(n * each for n, each in zip(column.counts, worth, strict=True))
                    self.program.add((earned - value) / (self.stack * UNITS), rows_at_cost(self.problem, column))
                    new += 1
            if not new or not go_on():
                break
        # The rail is set at least once; a fetch's worth of that may have been counted.
        return int(best / (self.stack * UNITS)) + pace.setting - pace.stack if best else 0

    def _sheets(self, worth: Sequence[int]) -> Iterator[tuple[int, Column]]:
        """For every stock the most that a sheet is worth when its handling is paid, and the column of that."""
        pace = DEFAULT_PACE
        for index, (stock, table) in enumerate(zip(self.problem.stocks, self.tables, strict=True)):
            # What is cut out of hidden middles takes no time at the trimmer.
            handling = 0 if stock.is_window else UNITS
            table.fill(worth, handling * pace.stack, handling * pace.stroke)
            tree = table.tree(stock.width, stock.height)
            yield table.best(stock.width, stock.height), make_column(self.problem, index, tree)

    def _bound(self, worth: Sequence[int], values: Sequence[int]) -> Fraction:
        """What these prices prove, in units of the tables and for single sheets; nothing if a free sheet spoils it."""
        total = Fraction(sum(price * size.demand for price, size in zip(worth, self.problem.sizes, strict=True)))
        rent = Fraction(0)
        for stock, cost, value in zip(self.problem.stocks, self.problem.costs, values, strict=True):
            if cost:
                rent = max(rent, Fraction(value, cost))
            elif stock.count is not None:
                total -= value * stock.count
            elif value:
                return Fraction(0)
        return total - rent * self.cost
