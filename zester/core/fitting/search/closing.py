"""Closing the gap: every column that a cheaper plan could use.

Let a bound z come from prices y, and let a plan of cost C be known. A plan of cost T < C or less uses a column only if

    cost - y * counts  <=  T - z        (reduced cost at most the slack)

because z plus the reduced costs of all its sheets is at most its cost (reduced cost fixing; for column enumeration see
Baldacci, Christofides & Mingozzi 2008). So all such columns are listed, and the integer program over them alone either
gives a plan of cost T or less, or proves that there is none.

Listing walks the knapsack table twice: from the sheets down to find which cells matter and how little value each may
have, then back up merging the count vectors of both sides of every cut. Of two vectors of a cell, one that makes at
most as much of everything is dropped. It is given up when there are too many.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import reduce
from math import ceil, gcd

import numpy as np

from zester.core.fitting.parts import Part, peel
from zester.core.fitting.patterns.columns import Column, DualBound, Tables, column_rows, dual_bound, make_column
from zester.core.fitting.patterns.knapsack import GuillotineTable
from zester.core.fitting.patterns.loops import A_SIZE, EMPTY, FROM_ABOVE, FROM_LEFT, TOO_MANY
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.solver import whole_cover

MOST_A_CELL = 4000
MOST_VECTORS = 600_000
MOST_MERGES = 60_000_000
MOST_COLUMNS = 6000
NODES = 20_000
USUAL_SIZES = 25
NEAR = tuple(Fraction(1, part) for part in (125, 250, 600, 2000, 10_000))
NEAR_EFFORT = 0.1


class TooMany(Exception):
    """More columns than are worth listing."""


class Lister:
    """Lists the columns worth at least a given value.

    Parameters
    ----------
    table : GuillotineTable
        Filled with ``worth``, cuts at no price.
    worth : sequence of int
        The integer price of every size.
    demands : sequence of int
        No more of a size than this counts.
    effort : float
        The share of the usual limits to keep to.
    """

    def __init__(self, table: GuillotineTable, worth: Sequence[int], demands: Sequence[int], effort: float = 1.0):
        self.table = table
        self.worth = np.array(worth, dtype=np.float64)
        self.demands = np.minimum(np.array(demands, dtype=np.int64), 30_000)
        # Vectors of many sizes are long.
        effort *= min(1.0, USUAL_SIZES / len(worth))
        self.most = np.array([MOST_A_CELL, int(MOST_VECTORS * effort), int(MOST_MERGES * effort)], dtype=np.int64)

    def list_columns(self, needs: dict[tuple[int, int], int]) -> dict[tuple[int, int], range]:
        """The rows of all columns of the cells in ``needs`` worth at least what is needed there; raises TooMany."""
        table = self.table
        least = np.full(table.shape, np.inf)
        for cell, need in needs.items():
            least[cell] = min(least[cell], max(0, need))
        x, y = table.across, table.down
        cuts = x.begin, x.near, x.far, y.begin, y.near, y.far, table.may_x, table.may_y
        from zester.core.fitting.patterns.kernels import list_vectors, needs_below

        needs_below(table.values, least, *cuts)
        items = [(*cell, item.size) for item, cell in zip(table.items, table.item_cells, strict=True)]
        status, first, self.vectors, self.totals, self.origins = list_vectors(
            table.values, least, *cuts, np.array(items, dtype=np.int64), self.worth, self.demands, self.most
        )
        if status == TOO_MANY:
            raise TooMany
        rows = table.shape[1]
        return {(i, j): range(first[i * rows + j], first[i * rows + j + 1]) for i, j in needs}

    def tree(self, cell: tuple[int, int], row: int, width: int, height: int) -> Part:
        """The cut tree of a listed column in a part of this size."""
        if row < 0:
            return Part(width=width, height=height)
        how, one, other = (int(number) for number in self.origins[row])
        if how == EMPTY:
            return Part(width=width, height=height)
        i, j = cell
        if how in (FROM_LEFT, FROM_ABOVE):
            return self.tree((i - 1, j) if how == FROM_LEFT else (i, j - 1), one, width, height)
        if how == A_SIZE:
            item = next(
                item
                for item, its in zip(self.table.items, self.table.item_cells, strict=True)
                if its == cell and item.size == one
            )
            return peel(width, height, Part(width=item.width, height=item.height, size=one), self.table.limits)
        axis, number = ("x", how) if how < len(self.table.across.near) else ("y", how - len(self.table.across.near))
        chosen = iter((one, other))  # cut_along makes the near side first

        def branch(wide: int, high: int, side: tuple[int, int]) -> Part:
            return self.tree(side, next(chosen), wide, high)

        def split(wide: int, high: int) -> Part:
            return self.table.cut_along(wide, high, cell, axis, number, branch)

        return self.table.in_part(width, height, cell, split)


@dataclass(frozen=True)
class Closed:
    """What closing found: a cheaper plan's columns with copies (or None), and whether nothing cheaper exists."""

    chosen: tuple[tuple[Column, int], ...] | None
    """Columns and copies of a cheaper plan; empty if there is none."""
    settled: bool
    """Whether it is certain that there is no other."""


def close_gap(
    problem: Problem,
    tables: Tables,
    worths: Sequence[Sequence[int]],
    known_cost: int,
    bound: int,
    *,
    seconds: float,
    effort: float = 1.0,
) -> Closed:
    """Find a plan cheaper than ``known_cost`` units, or prove that there is none.

    ``worths`` are price vectors to choose from; the one with the highest bound is used. Nothing is settled if there
    are too many columns, if a table does not know every position, or if the integer program is not finished.
    """
    duals = max((dual_bound(problem, tables, _positive(worth)) for worth in worths), key=lambda d: d.value)
    if not duals.theta or 0 in duals.worth:
        # A size that can be had for nothing has no price, and the listing would miss columns that hold it.
        return Closed(None, settled=False)
    tables.fill(duals.worth)
    target = known_cost - max(1, reduce(gcd, problem.costs))
    try:
        columns, complete = _columns(problem, tables, duals, target, effort)
    except TooMany:
        return Closed(None, settled=False)
    found = whole_cover(
        [float(problem.costs[column.sheet]) for column in columns],
        [column_rows(problem, column) for column in columns],
        problem.demands,
        problem.how_many,
        good_enough=bound,
        nodes=NODES,
        seconds=seconds,
        ceiling=target,
    )
    settled = found.finished and tables.exact and complete
    if found.amounts is None:
        return Closed(None, settled)
    chosen = tuple((column, n) for column, n in zip(columns, found.amounts, strict=True) if n)
    return Closed(chosen, settled)


def near_perfect(problem: Problem, tables: Tables, worth: Sequence[int]) -> list[Column]:
    """Columns that lose next to nothing by the given prices, the best first.

    The first list that is short enough is taken; none is where even the shortest is too long.
    """
    duals = dual_bound(problem, tables, _positive(worth))
    if not duals.theta or 0 in duals.worth:
        return []
    tables.fill(duals.worth)
    for share in NEAR:
        try:
            columns, _ = _columns(problem, tables, duals, duals.value + max(problem.costs) * share, NEAR_EFFORT)
        except TooMany:
            continue
        value = [sum(n * w for n, w in zip(column.counts, duals.worth, strict=True)) for column in columns]
        order = sorted(range(len(columns)), key=lambda k: (-value[k], columns[k].counts))
        return [columns[k] for k in order]
    return []


def _positive(worth: Sequence[int]) -> list[int]:
    # A size without a price would make columns that differ only in it all equally good, hiding those that hold more.
    return [max(1, value) for value in worth]


def _columns(
    problem: Problem, tables: Tables, duals: DualBound, target: Fraction | int, effort: float
) -> tuple[list[Column], bool]:
    """Every column that a plan of cost ``target`` or less can use, and whether these are really all."""
    slack = target - duals.value
    if slack < 0:
        return [], True
    columns, complete = [], True
    for table in tables.all:
        needs: dict[tuple[int, int], int] = {}
        roots = []
        for index, stock in enumerate(problem.stocks):
            if tables.table_of(index) is not table:
                continue
            need = max(0, ceil((problem.costs[index] + duals.rents[index] - slack) / duals.theta))
            cell = table.cell(stock.width, stock.height)
            if table.values[cell] >= need and min(cell):
                needs[cell] = min(need, needs.get(cell, need))
                roots.append((index, stock, cell, need))
        lister = Lister(table, duals.worth, problem.demands, effort)
        cells = lister.list_columns(needs) if needs else {}
        for index, stock, cell, need in roots:
            for row in cells[cell]:
                if lister.totals[row] >= need and lister.totals[row]:
                    tree = table.tightened(lister.tree(cell, row, stock.width, stock.height))
                    complete &= stock.can_cut(tree)
                    columns.append(make_column(problem, index, tree))
        if len(columns) > MOST_COLUMNS:
            raise TooMany
    return [column for column in columns if problem.stocks[column.sheet].can_cut(column.tree)], complete
