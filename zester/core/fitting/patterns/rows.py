"""The best single sheet when handling has a price: a guillotine knapsack over rows of alike strips.

A part is cut into strips of one length by one setting of the rail, with one stack fetched; so a row is paid for by
setting and by stroke, not by cut:

    G(w, h) = max( the size that is exactly w x h,
                   k G(x, h) + G(w - k x, h) - fetch(x) - k stroke     k strips of x, then what is left
                   the same along h )

with one stroke less where nothing is left. A rest that is no sum of piece lengths is trimmed once more, or left over.
``fetch(x)`` may be dearer at places of the rail that a plan does not use yet. Numbers are whole, held by floats below
2**53. (The recursion is Gilmore & Gomory's of 1966 with strips taken several at a time.)
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from functools import cached_property
from typing import Any

import numpy as np

from zester.core.fitting.parts import Part, beside
from zester.core.fitting.patterns.columns import Tables
from zester.core.fitting.patterns.knapsack import GuillotineTable
from zester.core.fitting.patterns.problem import Problem

UNITS = 1000
MOST_WORK = 60_000_000


class RowTable:
    """The table G over the positions and items of a knapsack table; refilled for each new set of values.

    ``sheets`` are the widths and heights of the sheets asked about. Values are in thousandths of a second (``UNITS``).
    """

    def __init__(self, table: GuillotineTable, sheets: Iterable[tuple[int, int]]):
        self.table, self.limits = table, table.limits
        widths, heights = zip(*sheets, strict=True)
        # What is left over of a whole sheet is left over at the end of its row, and not trimmed off first.
        self.xs, self.ys = np.union1d(table.xs, widths), np.union1d(table.ys, heights)
        if table.reduced:
            self.xs = np.union1d(self.xs, [item.width for item in table.items])
            self.ys = np.union1d(self.ys, [item.height for item in table.items])
        self.shape = len(self.xs), len(self.ys)
        self.items = [(item, self.at(item.width, item.height)) for item in table.items]
        self.may = (
            np.array([self.limits.reaches(int(height)) for height in self.ys]),
            np.array([self.limits.reaches(int(width)) for width in self.xs]),
        )

    def at(self, width: int, height: int) -> tuple[int, int]:
        """The cell of a part that is one."""
        return int(np.searchsorted(self.xs, width)), int(np.searchsorted(self.ys, height))

    @cached_property
    def across(self) -> tuple[np.ndarray, ...]:
        """The rows worth trying along the width."""
        return _row_cuts(self.xs)

    @cached_property
    def down(self) -> tuple[np.ndarray, ...]:
        """The rows worth trying along the height."""
        return _row_cuts(self.ys)

    @property
    def work(self) -> int:
        """How many rows one filling compares."""
        return len(self.across[1]) * self.shape[1] + len(self.down[1]) * self.shape[0]

    @property
    def whole(self) -> bool:
        """Whether it knows every position that counts, so that its values may be used in a bound."""
        return self.usable and not self.table.reduced

    @property
    def usable(self) -> bool:
        """Whether it is small enough, and nothing narrow has to be held by something else."""
        return not self.limits.hold and sum(self.shape) * self.shape[0] * self.shape[1] <= MOST_WORK

    def fill(
        self,
        worth: Sequence[int],
        fetch: int,
        stroke: int,
        *,
        places: Collection[int] = (),
        new_place: int = 0,
    ) -> None:
        """Work the table out for the whole value of each size and the prices of a stack fetched and of a stroke.

        With ``places`` every other place of the rail costs ``new_place`` more.
        """
        self.worth, self.stroke = worth, float(stroke)
        self.fetch = [np.full(len(axis), float(fetch)) for axis in (self.xs, self.ys)]
        if new_place:
            for number, axis in enumerate((self.xs, self.ys)):
                self.fetch[number] += np.where(np.isin(axis, list(places)), 0.0, float(new_place))
        self.base = np.zeros(self.shape)
        for item, cell in self.items:
            self.base[cell] = max(self.base[cell], worth[item.size])
        self.values = self.base.copy()
        from zester.core.fitting.patterns.kernels import fill_rows

        given: tuple[Any, ...] = (*self.across, *self.down, *self.may, *self.fetch, self.stroke)
        self.trimmed = fill_rows(self.values, *given)

    def best(self, width: int, height: int) -> int:
        """The most value a sheet of this size can give, its handling paid for."""
        return int(self.values[self.at(width, height)])

    def tree(self, width: int, height: int) -> Part:
        """A cut tree of a sheet with that value."""
        return self.table.tightened(self._cell(*self.at(width, height)))

    def _cell(self, i: int, j: int) -> Part:
        width, height, value = int(self.xs[i]), int(self.ys[j]), self.values[i, j]
        if value <= 0:
            return Part(width=width, height=height)
        if self.base[i, j] == value:
            best = max((item for item, at in self.items if at == (i, j)), key=lambda item: self.worth[item.size])
            return Part(width=width, height=height, size=best.size)
        found = _Line(self, "x", i, j).part() or _Line(self, "y", i, j).part()
        if found is None:
            raise AssertionError("a value that no row gives")
        return found


class _Line:
    """One cell of a filled table, looked at as a row along an axis."""

    def __init__(self, table: RowTable, axis: str, i: int, j: int):
        self.table, self.axis, self.i, self.j = table, axis, i, j
        along = axis == "x"
        self.place, self.positions = (i, table.xs) if along else (j, table.ys)
        self.other = int(table.ys[j]) if along else int(table.xs[i])
        self.cuts = table.across if along else table.down
        self.values = table.values[:, j] if along else table.values[i]
        self.trimmed = table.trimmed[0][:, j] if along else table.trimmed[1][i]
        self.fetch = table.fetch[0] if along else table.fetch[1]
        self.may = bool(table.may[0][j] if along else table.may[1][i])

    def part(self) -> Part | None:
        """The cut part, if the cell's value comes from cuts along this axis."""
        if not self.may:
            return None
        side, value = int(self.positions[self.place]), self.values[self.place]
        if self.place and self.trimmed[self.place - 1] - self.table.stroke == value:
            return self._trim(side, self.place - 1)
        begin, *rows = self.cuts
        near, times, far, exact = (row[begin[self.place] : begin[self.place + 1]] for row in rows)
        hits = np.flatnonzero((self._worth(near, times, far, exact) == value) & (self.values[near] > 0))
        if not len(hits):
            return None
        hit = int(hits[0])
        at, count = int(self.positions[near[hit]]), int(times[hit])
        strip, left = self._cell(int(near[hit])), side - count * at
        if not left:
            body, count = strip, count - 1
        elif exact[hit]:
            body = self._cell(int(far[hit]))
        elif self.trimmed[far[hit]] > self.table.stroke:
            body = self._trim(left, int(far[hit]))
        else:
            body = self._box(left)
        for _ in range(count):
            body = beside(strip, body, self.axis)
        return body

    def _worth(self, near: np.ndarray, times: np.ndarray, far: np.ndarray, exact: np.ndarray) -> np.ndarray:
        """What the rows are worth, in the same numbers as in ``kernels.fill_rows``."""
        stroke = self.table.stroke
        rest = np.where(exact, self.values[far] + stroke * (far == 0), np.maximum(0.0, self.trimmed[far] - stroke))
        worth: np.ndarray = rest + times * (self.values[near] - stroke) - self.fetch[near]
        return worth

    def _box(self, length: int) -> Part:
        sides = (length, self.other) if self.axis == "x" else (self.other, length)
        return Part(width=sides[0], height=sides[1])

    def _cell(self, place: int) -> Part:
        return self.table._cell(*((place, self.j) if self.axis == "x" else (self.i, place)))

    def _trim(self, length: int, most: int) -> Part:
        """A part of this length trimmed to the best cell up to ``most``."""
        best = int((self.values[: most + 1] - self.fetch[: most + 1]).argmax())
        return beside(self._cell(best), self._box(length - int(self.positions[best])), self.axis)


def _row_cuts(positions: np.ndarray) -> tuple[np.ndarray, ...]:
    """For every position p the rows from ``begin[p]`` on: the strip, how many, the rest rounded down, if exactly."""
    begin, rows = [0, 0], []
    for place in range(1, len(positions)):
        side = positions[place]
        strips = np.arange(1, place + 1)
        most = side // positions[1 : place + 1]
        near = np.repeat(strips, most)
        times = np.arange(len(near)) - np.repeat(np.cumsum(most) - most, most) + 1
        rest = side - times * positions[near]
        far = np.searchsorted(positions, rest, side="right") - 1
        kept = near != place
        rows.append(np.stack([near, times, far, positions[far] == rest])[:, kept])
        begin.append(begin[-1] + int(kept.sum()))
    near, times, far, exact = np.concatenate(rows, axis=1) if rows else np.zeros((4, 0), dtype=np.int64)
    return np.array(begin[: len(positions) + 1]), near, times, far, exact.astype(bool)


def row_tables(problem: Problem, tables: Tables) -> list[RowTable]:
    """For every stock its table over rows; those that share a knapsack table share one."""
    stocks = range(len(problem.stocks))
    sheets: dict[int, list[tuple[int, int]]] = {}
    for index in stocks:
        stock = problem.stocks[index]
        sheets.setdefault(id(tables.table_of(index)), []).append((stock.width, stock.height))
    found = {id(table): RowTable(table, sheets[id(table)]) for table in tables.all}
    return [found[id(tables.table_of(index))] for index in stocks]
