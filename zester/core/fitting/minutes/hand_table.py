"""The most a sheet can be worth when handling has a price and a stack may stay in the hand: for a bound of minutes.

Like ``rows.py``, but a part that is cut at the place of the rail at which it came to be need not be fetched:

    +------+------+----+
    |  a   |  a   |    |   cut off at a; what remains (r x h) may be cut at a along its other side at once,
    |      |      | r  |   and so may the strips: into squares.
    +------+------+----+

    F(w, h, a) = max over k of  k S(a, h) + R(w - k a, h, a) - fetch - k stroke      cut along the width at a first
    S(a, h)    = max( G(a, h), fetch + F'(a, h, a) )                                 a strip; F': along the height
    R(r, h, a) = max( G(r, h), fetch + F'(r, h, a) )                                 what remains
    G(w, h)    = max( the size that is exactly w x h, F(w, h, a), F'(w, h, a), 0 )

with one stroke less where nothing remains. A rest that is no sum of piece lengths is rounded down: it takes a stroke
more at least, and a fetch if it becomes one piece.

Why no plan is worth more: let a step take k parts and n stacks, k <= n stack. Steps that cut on at the same place what
is in the hand follow one that was fetched, k0 parts of it; they fetch nothing, and what the table counts for all of
them is k0 fetches / stack. (Only strips that become squares can be more than the parts they came from, and those end
it.) A stack that is in the hand when the rail is moved is counted as if it were fetched: see ``least_minutes.py``.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zester.core.fitting.minutes.carrying import row, wider
from zester.core.fitting.parts import Part, left_beside
from zester.core.fitting.patterns.rows import RowTable

# How many places of all cells there may be.
MOST = 30_000_000


class HandTable:
    """The table over the positions of a table over rows; refilled for each new set of values."""

    def __init__(self, rows: RowTable):
        self.rows = rows
        self.same = np.full(len(rows.xs), -1), np.full(len(rows.ys), -1)
        _, x, y = np.intersect1d(rows.xs, rows.ys, return_indices=True)
        self.same[0][x], self.same[1][y] = y, x

    @property
    def usable(self) -> bool:
        """Whether it is small enough, and knows every position that counts."""
        columns, rows = self.rows.shape
        return self.rows.whole and columns * rows * (columns + rows) <= MOST

    def fill(self, worth: Sequence[int], fetch: int, stroke: int) -> None:
        """Work the table out for the whole value of each size and the prices of a stack fetched and of a stroke."""
        from zester.core.fitting.patterns.kernels import fill_in_hand

        rows = self.rows
        self.base, self.sizes = np.zeros(rows.shape), np.full(rows.shape, -1)
        for item, cell in rows.items:
            if worth[item.size] > self.base[cell]:
                self.base[cell], self.sizes[cell] = worth[item.size], item.size
        self.prices = float(fetch), float(stroke)
        self.filled = fill_in_hand(self.base, rows.across, rows.down, rows.may, self.same, self.prices)

    def best(self, width: int, height: int) -> int:
        """The most value a sheet of this size can give, its handling paid for."""
        return int(self.filled[0][self.rows.at(width, height)])

    def tree(self, width: int, height: int) -> Part:
        """A cut tree of a sheet with that value."""
        return self._part(*self.rows.at(width, height))

    def _part(self, i: int, j: int, first: tuple[str, int] | None = None) -> Part:
        """The best tree of a cell; of those that begin with a cut along that axis at that place, if one is given."""
        values, first_x, first_y = self.filled[:3]
        if first is None:
            wide, high = int(self.rows.xs[i]), int(self.rows.ys[j])
            if values[i, j] <= 0:
                return Part(width=wide, height=high)
            if self.base[i, j] == values[i, j]:
                return Part(width=wide, height=high, size=int(self.sizes[i, j]))
            x, y = int(first_x[i, j].argmax()), int(first_y[i, j].argmax())
            first = ("x", x) if first_x[i, j, x] >= first_y[i, j, y] else ("y", y)
        return _Row(self, i, j, *first).part()


class _Row:
    """One cell of a filled table, cut along an axis at a place first."""

    def __init__(self, table: HandTable, i: int, j: int, axis: str, place: int):
        self.table, self.cell, self.axis, self.place = table, (i, j), axis, place
        values, first_x, first_y, up_x, up_y, most_x, most_y = table.filled
        rows, same = table.rows, table.same
        if axis == "x":
            self.cuts, self.positions, self.end, self.goal = rows.across, rows.xs, i, first_x[i, j, place]
            self.lines = values[:, j], first_y[:, j], up_y[:, j], most_x[:, j], same[0]
        else:
            self.cuts, self.positions, self.end, self.goal = rows.down, rows.ys, j, first_y[i, j, place]
            self.lines = values[i], first_x[i], up_x[i], most_y[i], same[1]
        self.again, self.fetch, self.stroke = int(self.lines[4][place]), *table.prices

    def part(self) -> Part:
        """The cut part of the value that the table says."""
        from zester.core.fitting.patterns.kernels import row_in_hand

        begin, near, times, far, exact = self.cuts
        prices = self.fetch, self.stroke
        k = next(
            k
            for k in range(begin[self.end], begin[self.end + 1])
            if near[k] == self.place and row_in_hand(k, self.cuts, self.lines, prices) == self.goal
        )
        strips = [self._exact(self.place)] * int(times[k])
        left = int(self.positions[self.end] - times[k] * self.positions[self.place])
        if left:
            strips += [self._exact(int(far[k]))] if exact[k] else self._between(strips[0], int(far[k]), left)
        return row(strips, self.axis)

    def _in_hand(self, at: int, line: np.ndarray) -> float:
        """What a part of that length gives if it is cut at the same place along its other side, unfetched."""
        return line[at, self.again] + self.fetch if self.again >= 0 else -np.inf

    def _exact(self, at: int) -> Part:
        return self._side(at, free=self._in_hand(at, self.lines[1]) > self.lines[0][at])

    def _side(self, at: int, free: bool) -> Part:
        i, j = (at, self.cell[1]) if self.axis == "x" else (self.cell[0], at)
        other = "y" if self.axis == "x" else "x"
        return self.table._part(i, j, (other, self.again) if free else None)

    def _between(self, strip: Part, most: int, left: int) -> list[Part]:
        """What a rest beside a strip becomes that is no position: the best up to the position ``most``."""
        best, turned = self.lines[3][most], self._in_hand(most, self.lines[2])
        if max(best, turned) <= self.stroke:
            return [left_beside(strip, left, self.axis)]
        line = self.lines[2][:, self.again] if turned > best else self.lines[3]
        at = int(np.argmax(line[: most + 1] == line[most]))
        spare = left - int(self.positions[at])
        if turned > best:
            return [wider(self._side(at, free=True), spare, self.axis)]
        return [self._side(at, free=False), left_beside(strip, spare, self.axis)]
