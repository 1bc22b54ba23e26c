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

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import reduce
from math import ceil, gcd

import numpy as np

from zester.core.fitting.columns import Column, DualBound, Problem, Tables, column_rows, dual_bound, make_column
from zester.core.fitting.knapsack import GuillotineTable, Part, peel
from zester.core.fitting.solver import whole_cover

MOST_VECTORS = 1500
MOST_CELLS = 12_000
MOST_MERGES = 3_000_000
NODES = 20_000


class TooMany(Exception):
    """More columns than are worth listing."""


@dataclass
class _Cell:
    """The count vectors of a cell (rows), and where each comes from: cut and row on either side, or an item."""

    vectors: np.ndarray
    values: np.ndarray
    origins: list[tuple]


class Lister:
    """Lists the columns worth at least a given value.

    Parameters
    ----------
    table : GuillotineTable
        Filled with ``worth``.
    worth : sequence of int
        The integer price of every size.
    demands : sequence of int
        No more of a size than this counts.
    hurry : callable
        Called now and then; may raise to stop.
    """

    def __init__(self, table: GuillotineTable, worth: Sequence[int], demands: Sequence[int], hurry: Callable[[], None]):
        self.table, self.hurry = table, hurry
        self.worth = np.asarray(worth, dtype=np.int64)
        self.demands = np.asarray(demands, dtype=np.int64)
        self.merges = 0
        self.items: dict[int, list[int]] = {}
        for cell, size in zip(table._item_cells.tolist(), table._item_sizes.tolist(), strict=True):
            self.items.setdefault(cell, []).append(size)

    def list_columns(self, needs: dict[int, int]) -> dict[int, _Cell]:
        """All columns of the cells in ``needs`` worth at least what is needed there; raises TooMany."""
        least = self._needs_below(needs)
        rows = len(self.table.ys)
        self.cells: dict[int, _Cell] = {}
        self.least = least
        for count, cell in enumerate(sorted(least, key=lambda c: c // rows + c % rows)):
            if count % 50 == 0:
                self.hurry()
            self.cells[cell] = self._collect(cell, least[cell])
        return {cell: self.cells[cell] for cell in needs}

    def _candidates(self, cell: int) -> tuple[np.ndarray, np.ndarray]:
        """Both sides of every cut of a cell, trimming it to the next smaller cell among them."""
        place, rows = self.table._place[cell], len(self.table.ys)
        if place < 0:
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
        begin, end = self.table._starts[place], self.table._starts[place + 1]
        i, j = divmod(cell, rows)
        near = np.append(self.table._left[begin:end], [cell - rows, cell - 1])
        return near, np.append(self.table._right[begin:end], [j, i * rows])

    def _needs_below(self, needs: dict[int, int]) -> dict[int, int]:
        """Which cells matter, and the least value that is of any use in each."""
        values, rows = self.table.values, len(self.table.ys)
        least = dict(needs)
        by_wave: dict[int, set[int]] = {}
        for cell in needs:
            by_wave.setdefault(cell // rows + cell % rows, set()).add(cell)
        while by_wave:
            wave = max(by_wave)
            for cell in by_wave.pop(wave):
                need = least[cell]
                left, right = self._candidates(cell)
                good = values[left] + values[right] >= need
                for near, far in zip(left[good].tolist(), right[good].tolist(), strict=True):
                    for one, other in ((near, far), (far, near)):
                        want = max(0, need - int(values[other]))
                        if values[one] and want < least.get(one, want + 1):
                            least[one] = want
                            by_wave.setdefault(one // rows + one % rows, set()).add(one)
            if len(least) > MOST_CELLS:
                raise TooMany
            self.hurry()
        return least

    def _collect(self, cell: int, need: int) -> _Cell:
        vectors = [np.zeros((1, len(self.worth)), dtype=np.int64)] if need <= 0 else []
        origins: list[tuple] = [()] if need <= 0 else []
        for size in self.items.get(cell, []):
            if self.worth[size] >= need:
                vectors.append(np.eye(1, len(self.worth), size, dtype=np.int64))
                origins.append((size,))
        left, right = self._candidates(cell)
        good = self.table.values[left] + self.table.values[right] >= need
        for near, far in zip(left[good].tolist(), right[good].tolist(), strict=True):
            self._merge(near, far, need, vectors, origins)
        if not vectors:
            return _Cell(np.zeros((0, len(self.worth)), dtype=np.int64), np.zeros(0, dtype=np.int64), [])
        return self._undominated(np.concatenate(vectors), origins, need)

    def _merge(self, near: int, far: int, need: int, vectors: list, origins: list) -> None:
        first, second = self._known(near), self._known(far)
        if not len(first.values) or not len(second.values):
            return
        sums = first.values[:, None] + second.values[None, :]
        rows, columns = np.nonzero(sums >= need)
        self.merges += len(rows)
        if self.merges > MOST_MERGES:
            raise TooMany
        vectors.append(np.minimum(first.vectors[rows] + second.vectors[columns], self.demands))
        origins.extend((near, far, int(r), int(c)) for r, c in zip(rows, columns, strict=True))

    def _known(self, cell: int) -> _Cell:
        if cell in self.cells:
            return self.cells[cell]
        nothing = np.zeros((1, len(self.worth)), dtype=np.int64)
        return _Cell(nothing, np.zeros(1, dtype=np.int64), [()])

    def _undominated(self, vectors: np.ndarray, origins: list[tuple], need: int) -> _Cell:
        vectors, first = np.unique(vectors, axis=0, return_index=True)
        # Pieces beyond the demand can be left out of any plan, so a column counts only for what is wanted.
        order = np.argsort(-vectors.sum(axis=1), kind="stable")
        order = order[vectors[order] @ self.worth >= need]
        vectors, first = vectors[order], first[order]
        kept, rows = np.empty_like(vectors), []
        for row, vector in enumerate(vectors):
            if not (kept[: len(rows)] >= vector).all(axis=1).any():
                kept[len(rows)] = vector
                rows.append(row)
                if len(rows) > MOST_VECTORS:
                    raise TooMany
        kept = kept[: len(rows)]
        return _Cell(kept, kept @ self.worth, [origins[first[row]] for row in rows])

    def tree(self, cell: int, row: int, width: int, height: int) -> Part:
        """The cut tree of a listed column in a part of this size."""
        origin = self._known(cell).origins[row]
        if not origin:
            return Part(width, height)
        i, j = divmod(cell, len(self.table.ys))
        inner_width, inner_height = int(self.table.xs[i]), int(self.table.ys[j])
        if len(origin) == 1:
            inner = Part(inner_width, inner_height, size=origin[0])
        else:
            near, far, *rows = origin
            chosen = iter(rows)  # cut_along makes the near side first

            def branch(wide: int, high: int, side: int) -> Part:
                return self.tree(side, next(chosen), wide, high)

            inner = self.table.cut_along(inner_width, inner_height, cell, near, far, branch)
        return peel(width, height, inner_width, inner_height, inner)


@dataclass(frozen=True)
class Closed:
    """What closing found: a cheaper plan's columns with copies (or None), and whether nothing cheaper exists."""

    chosen: tuple[tuple[Column, int], ...] | None
    settled: bool


def close_gap(
    problem: Problem,
    tables: Tables,
    worths: Sequence[Sequence[int]],
    known_cost: int,
    bound: int,
    *,
    hurry: Callable[[], None],
    seconds: float,
) -> Closed:
    """Find a plan cheaper than ``known_cost`` units, or prove that there is none.

    ``worths`` are price vectors to choose from; the one with the highest bound is used. Nothing is settled if there
    are too many columns, if the table does not know every position, or if the integer program is not finished.
    """
    duals = max((dual_bound(problem, tables.table, _positive(worth)) for worth in worths), key=lambda d: d.value)
    if not duals.theta or 0 in duals.worth:
        # A size that can be had for nothing has no price, and the listing would miss columns that hold it.
        return Closed(None, settled=False)
    tables.table.fill(duals.worth)
    target = known_cost - max(1, reduce(gcd, problem.costs))
    try:
        columns = _columns(problem, tables.table, duals, target, hurry)
    except TooMany:
        return Closed(None, settled=False)
    found = whole_cover(
        [float(problem.costs[column.sheet]) for column in columns],
        [column_rows(problem, column) for column in columns],
        problem.demands,
        [problem.sheets[s].count for s in problem.limited],
        good_enough=bound,
        nodes=NODES,
        seconds=seconds,
        ceiling=target,
    )
    if found.amounts is None:
        return Closed(None, settled=found.finished and tables.exact)
    chosen = tuple((column, n) for column, n in zip(columns, found.amounts, strict=True) if n)
    return Closed(chosen, settled=found.finished and tables.exact)


def _positive(worth: Sequence[int]) -> list[int]:
    # A size without a price would make columns that differ only in it all equally good, hiding those that hold more.
    return [max(1, value) for value in worth]


def _columns(
    problem: Problem, table: GuillotineTable, duals: DualBound, target: int, hurry: Callable[[], None]
) -> list[Column]:
    """Every column that a plan of cost ``target`` or less can use."""
    slack = target - duals.value
    if slack < 0:
        return []
    needs: dict[int, int] = {}
    roots = []
    for index, sheet in enumerate(problem.sheets):
        need = max(0, ceil((problem.costs[index] + duals.rents[index] - slack) / duals.theta))
        cell = table.cell(sheet.width, sheet.height)
        if table.values[cell] >= need and cell:
            needs[cell] = min(need, needs.get(cell, need))
            roots.append((index, sheet, cell, need))
    lister = Lister(table, duals.worth, problem.demands, hurry)
    cells = lister.list_columns(needs)
    columns = []
    for index, sheet, cell, need in roots:
        for row, value in enumerate(cells[cell].values):
            if value >= need and value:
                tree = table.tightened(lister.tree(cell, row, sheet.width, sheet.height))
                columns.append(make_column(problem, index, tree))
    return columns
