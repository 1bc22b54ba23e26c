"""The best single sheet: a guillotine knapsack by dynamic programming.

Given a value for each size, find for every part (w, h) the most value that edge-to-edge cuts can get out of it:

    F(w, h) = max( the best size that fits inside,
                   F(x, h) + F(w - x, h)  over cuts x,     +---+-----+     +---------+
                   F(w, y) + F(w, h - y)  over cuts y )    | x | w-x |     |    y    |
                                                           |   |     |     +---------+
                                                           +---+-----+     |   h-y   |
                                                                           +---------+
with w, h, x, y running over the normal positions only (Gilmore & Gomory 1966; Beasley 1985). Every cut may be given a
price, so that of equally good layouts one with few cuts comes out. Values are integers, so the optimum is exact and may
be used in a proof. Cells are worked off along the anti-diagonals of the table, since a
cell needs only cells with a smaller index sum; each diagonal is one numpy operation.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

MOST_CANDIDATES = 8_000_000


@dataclass(frozen=True)
class Part:
    """A part of a sheet: ticks; either cut in two, or a size (its index), or left over.

    ``axis`` is "x" or "y" for a cut part, ``at`` the distance of the cut from the part's left or upper edge.
    """

    width: int
    height: int
    axis: str = ""
    at: int = 0
    first: Part | None = None
    second: Part | None = None
    size: int | None = None

    @property
    def left_over(self) -> bool:
        """Whether nothing is made of it."""
        return not self.axis and self.size is None


@dataclass(frozen=True)
class Item:
    """One way a size can lie: its index among the sizes, and ticks as it lies."""

    size: int
    width: int
    height: int


def cut_part(width: int, height: int, axis: str, at: int, first: Part, second: Part) -> Part:
    """A cut part, or simply a left-over one if neither side is of any use."""
    if first.left_over and second.left_over:
        return Part(width, height)
    return Part(width, height, axis, at, first, second)


class TooManyPositions(Exception):
    """The table would not fit in memory; fewer positions must be used."""


class GuillotineTable:
    """The table F for fixed positions and items; refilled for each new set of values.

    Parameters
    ----------
    xs, ys : numpy arrays of int64
        Positions along the width and the height, ascending, starting with 0; every item's width and height is
        among them.
    items : sequence of Item
    sizes : sequence of (width, height), optional
        The true sizes where the items are rounded up; trees are then tightened to them.

    Raises
    ------
    TooManyPositions
        If more than about eight million cuts would have to be tried.
    """

    def __init__(
        self, xs: np.ndarray, ys: np.ndarray, items: Sequence[Item], sizes: Sequence[tuple[int, int]] | None = None
    ):
        self.xs, self.ys, self.sizes = xs, ys, sizes
        self.items = [item for item in items if item.width <= xs[-1] and item.height <= ys[-1]]
        self._item_cells = np.array([self.cell(item.width, item.height) for item in self.items], dtype=np.int64)
        self._item_sizes = np.array([item.size for item in self.items], dtype=np.int64)
        self._build()
        self.values = np.zeros(len(xs) * len(ys), dtype=np.int64)
        self.base = self.values

    def cell(self, width: int, height: int) -> int:
        """Index of the largest cell that fits inside width × height."""
        i = int(np.searchsorted(self.xs, width, side="right")) - 1
        j = int(np.searchsorted(self.ys, height, side="right")) - 1
        return i * len(self.ys) + j

    def _build(self) -> None:
        columns, rows = len(self.xs), len(self.ys)
        across, down = _cut_pairs(self.xs), _cut_pairs(self.ys)
        if len(across) * rows + len(down) * columns > MOST_CANDIDATES:
            raise TooManyPositions
        every_x, every_y = np.arange(1, columns, dtype=np.int64), np.arange(1, rows, dtype=np.int64)
        sideways, downwards = _spread(across, every_y, rows, 1), _spread(down, every_x, 1, rows)
        owner, left, right, price = (np.concatenate(pair) for pair in zip(sideways, downwards, strict=True))
        diagonal = owner // rows + owner % rows
        order = np.lexsort((owner, diagonal))
        owner, diagonal = owner[order], diagonal[order]
        self._left, self._right, self._price = left[order], right[order], price[order]
        starts = np.flatnonzero(np.diff(owner, prepend=-1))
        self._owner = owner[starts]
        self._starts = np.append(starts, len(owner))
        self._waves = [*np.flatnonzero(np.diff(diagonal[starts], prepend=-1)).tolist(), len(starts)]
        self._place = np.full(columns * rows, -1, dtype=np.int64)
        self._place[self._owner] = np.arange(len(starts))

    @property
    def work(self) -> int:
        """How many cuts one filling compares."""
        return len(self._left)

    def fill(self, worth: Sequence[int], cut_price: int = 0) -> None:
        """Work the table out for the given integer value of each size, every cut costing ``cut_price``."""
        worth_array = np.asarray(worth, dtype=np.int64)
        rows = len(self.ys)
        flat = np.zeros(len(self.xs) * rows, dtype=np.int64)
        np.maximum.at(flat, self._item_cells, worth_array[self._item_sizes])
        self.base = flat.copy()
        # The most that any narrower (or lower) part gives: trimming down to it is one cut, however far.
        narrower, lower = np.zeros_like(flat), np.zeros_like(flat)
        for low, high in itertools.pairwise(self._waves):
            begin, end = self._starts[low], self._starts[high]
            sums = flat[self._left[begin:end]] + flat[self._right[begin:end]]
            if cut_price:
                sums -= self._price[begin:end] * cut_price
            cells = self._owner[low:high]
            narrower[cells] = np.maximum(narrower[cells - rows], flat[cells - rows])
            lower[cells] = np.maximum(lower[cells - 1], flat[cells - 1])
            best = np.maximum.reduceat(sums, self._starts[low:high] - begin)
            trimmed = np.maximum(narrower[cells], lower[cells]) - cut_price
            flat[cells] = np.maximum(np.maximum(flat[cells], best), trimmed)
        self.values = flat
        self._worth, self._cut_price = worth_array, cut_price

    def best(self, width: int, height: int) -> int:
        """The most value a part of this size can give."""
        return int(self.values[self.cell(width, height)])

    def tree(self, width: int, height: int) -> Part:
        """A cut tree of that value, with what is left over in as few and as large parts as the tree allows."""
        return self.tightened(self._tree(width, height, self.cell(width, height)))

    def tightened(self, tree: Part) -> Part:
        """The tree with its pieces at their true sizes."""
        return tree if self.sizes is None else tighten(tree, self.sizes)

    def _tree(self, width: int, height: int, cell: int) -> Part:
        rows = len(self.ys)
        i, j = divmod(cell, rows)
        value = self.values[cell]
        if value == 0:
            return Part(width, height)
        narrower = np.flatnonzero(self.values[j:cell:rows] == value + self._cut_price)
        if len(narrower):
            i, value = int(narrower[0]), value + self._cut_price
        lower = np.flatnonzero(self.values[i * rows : i * rows + j] == value + self._cut_price)
        if len(lower):
            j, value = int(lower[0]), value + self._cut_price
        if self._cut_price:
            # Trimmed lower, it may be worth trimming narrower after all.
            narrower = np.flatnonzero(self.values[j : i * rows + j : rows] == value + self._cut_price)
            i = int(narrower[0]) if len(narrower) else i
        inner_width, inner_height = int(self.xs[i]), int(self.ys[j])
        return peel(width, height, inner_width, inner_height, self._split(inner_width, inner_height, i * rows + j))

    def _split(self, width: int, height: int, cell: int) -> Part:
        value = self.values[cell]
        if self.base[cell] == value:
            return Part(width, height, size=self._exact_size(cell))
        place = self._place[cell]
        begin, end = self._starts[place], self._starts[place + 1]
        sums = self.values[self._left[begin:end]] + self.values[self._right[begin:end]]
        hits = np.flatnonzero(sums - self._price[begin:end] * self._cut_price == value) + begin
        # Two alike halves can be stacked, so such a cut is taken before any other.
        halves = hits[self._left[hits] == self._right[hits]]
        choice = int(halves[0] if len(halves) else hits[0])
        return self.cut_along(width, height, cell, int(self._left[choice]), int(self._right[choice]), self._tree)

    def cut_along(self, width: int, height: int, cell: int, near: int, far: int, tree: Callable) -> Part:
        """The part of a cell cut so that its sides are the cells ``near`` and ``far``, each made by ``tree``."""
        rows = len(self.ys)
        if near % rows == cell % rows and far % rows == cell % rows:
            at = int(self.xs[near // rows])
            return cut_part(width, height, "x", at, tree(at, height, near), tree(width - at, height, far))
        at = int(self.ys[near % rows])
        return cut_part(width, height, "y", at, tree(width, at, near), tree(width, height - at, far))

    def _exact_size(self, cell: int) -> int:
        here = np.flatnonzero(self._item_cells == cell)
        return int(max(self._item_sizes[here], key=lambda size: self._worth[size]))

    def bounded_tree(self, width: int, height: int, worth: Sequence[int], most: Sequence[int]) -> Part:
        """A good cut tree that never makes more of a size than ``most`` (a heuristic: one choice is kept a cell)."""
        chooser = _Bounded(self, np.asarray(worth, dtype=np.int64), np.asarray(most, dtype=np.int64))
        return self.tightened(chooser.tree(width, height, self.cell(width, height)))


class _Bounded:
    """The same table with the counts of every size kept a cell, and no part that makes more than ``most`` of one.

    The counts of a cell are packed into 64-bit words, a field for each size with a guard bit on top, so that one
    subtraction tells whether any count is above what is wanted.
    """

    def __init__(self, table: GuillotineTable, worth: np.ndarray, most: np.ndarray):
        self.table = table
        cells = len(table.xs) * len(table.ys)
        self.choice = np.full(cells, -1, dtype=np.int64)
        self.item = np.full(cells, -1, dtype=np.int64)
        self.value = np.zeros(cells, dtype=np.int64)
        self._pack(np.minimum(most, self._most_on_a_sheet(len(worth))))
        self.counts = np.zeros((len(self.limits), cells), dtype=np.int64)
        self._base(worth, most)
        for low, high in itertools.pairwise(table._waves):
            self._wave(low, high)

    def _most_on_a_sheet(self, sizes: int) -> np.ndarray:
        sheet = int(self.table.xs[-1]) * int(self.table.ys[-1])
        smallest = np.full(sizes, sheet, dtype=np.int64)
        for item in self.table.items:
            smallest[item.size] = min(smallest[item.size], item.width * item.height)
        return sheet // smallest

    def _pack(self, most: np.ndarray) -> None:
        self.bits = int(most.max()).bit_length() + 1
        each = 62 // self.bits
        self.place = [(size // each, (size % each) * self.bits) for size in range(len(most))]
        words = self.place[-1][0] + 1
        self.limits, self.guards = [0] * words, [0] * words
        for (word, shift), limit in zip(self.place, most, strict=True):
            guard = 1 << (shift + self.bits - 1)
            self.limits[word] |= (int(limit) << shift) | guard
            self.guards[word] |= guard

    def _base(self, worth: np.ndarray, most: np.ndarray) -> None:
        for size, cell in zip(self.table._item_sizes, self.table._item_cells, strict=True):
            if most[size] > 0 and worth[size] > self.value[cell]:
                word, shift = self.place[size]
                self.value[cell], self.item[cell] = worth[size], size
                self.counts[:, cell] = 0
                self.counts[word, cell] = 1 << shift

    def _wave(self, low: int, high: int) -> None:
        table = self.table
        begin, end = table._starts[low], table._starts[high]
        left, right = table._left[begin:end], table._right[begin:end]
        sums = self.value[left] + self.value[right]
        for word, (limit, guard) in enumerate(zip(self.limits, self.guards, strict=True)):
            total = self.counts[word][left] + self.counts[word][right]
            sums[((limit - total) & guard) != guard] = 0
        segments = table._starts[low:high] - begin
        best = np.maximum.reduceat(sums, segments)
        cells = table._owner[low:high]
        for smaller in (cells - len(table.ys), cells - 1):
            # A smaller part's value is this one's too; ``tree`` finds the way down to it by itself.
            better = self.value[smaller] > self.value[cells]
            self.value[cells[better]] = self.value[smaller[better]]
            self.counts[:, cells[better]] = self.counts[:, smaller[better]]
        better = best > self.value[cells]
        if not better.any():
            return
        lengths = np.diff(np.append(segments, end - begin))
        hits = np.flatnonzero(sums == np.repeat(best, lengths))
        owners = np.repeat(np.arange(high - low), lengths)[hits]
        _, first = np.unique(owners, return_index=True)
        chosen, cells = hits[first][better], cells[better]
        self.value[cells] = best[better]
        self.choice[cells] = begin + chosen
        self.item[cells] = -1
        self.counts[:, cells] = self.counts[:, left[chosen]] + self.counts[:, right[chosen]]

    def tree(self, width: int, height: int, cell: int) -> Part:
        """The part's cut tree."""
        if self.value[cell] == 0:
            return Part(width, height)
        rows = len(self.table.ys)
        i, j = divmod(cell, rows)
        while i > 1 and self.value[(i - 1) * rows + j] >= self.value[cell]:
            cell, i = cell - rows, i - 1
        while j > 1 and self.value[i * rows + j - 1] >= self.value[cell]:
            cell, j = cell - 1, j - 1
        inner_width, inner_height = int(self.table.xs[i]), int(self.table.ys[j])
        return peel(width, height, inner_width, inner_height, self._split(inner_width, inner_height, cell))

    def _split(self, width: int, height: int, cell: int) -> Part:
        if self.item[cell] >= 0:
            return Part(width, height, size=int(self.item[cell]))
        choice = self.choice[cell]
        return self.table.cut_along(
            width, height, cell, int(self.table._left[choice]), int(self.table._right[choice]), self.tree
        )


def grid_tree(width: int, height: int, size: int, across: int, down: int) -> Part:
    """A part filled with a plain grid of one size that lies ``across`` × ``down`` ticks."""
    columns, rows = width // across, height // down
    strip = Part(across, down, size=size)
    for count in range(2, columns + 1):
        strip = Part(count * across, down, "x", across, Part(across, down, size=size), strip)
    block = strip
    for count in range(2, rows + 1):
        block = Part(strip.width, count * down, "y", down, strip, block)
    return peel(width, height, block.width, block.height, block)


def tighten(tree: Part, sizes: Sequence[tuple[int, int]]) -> Part:
    """The same cuts, moved so that every piece has its true size and what that frees lies at the right and below."""
    return _rebuild(tree, tree.width, tree.height, sizes)


def _needed(tree: Part, sizes: Sequence[tuple[int, int]]) -> tuple[int, int]:
    """The width and height that the pieces of a tree need at their true sizes."""
    if tree.left_over:
        return 0, 0
    if tree.size is not None:
        width, height = sizes[tree.size]
        upright = width <= tree.width and height <= tree.height and (tree.width >= tree.height) == (width >= height)
        fits_turned = height <= tree.width and width <= tree.height
        return (width, height) if upright or not fits_turned else (height, width)
    first, second = _needed(tree.first, sizes), _needed(tree.second, sizes)
    if tree.axis == "x":
        return first[0] + second[0], max(first[1], second[1])
    return max(first[0], second[0]), first[1] + second[1]


def _rebuild(tree: Part, width: int, height: int, sizes: Sequence[tuple[int, int]]) -> Part:
    wide, high = _needed(tree, sizes)
    if not wide:
        return Part(width, height)
    if tree.size is not None:
        return peel(width, height, wide, high, Part(wide, high, size=tree.size))
    first, second = _needed(tree.first, sizes), _needed(tree.second, sizes)
    if not first[0] or not second[0]:
        return _rebuild(tree.second if not first[0] else tree.first, width, height, sizes)
    if tree.axis == "x":
        at = first[0]
        sides = _rebuild(tree.first, at, high, sizes), _rebuild(tree.second, wide - at, high, sizes)
    else:
        at = first[1]
        sides = _rebuild(tree.first, wide, at, sizes), _rebuild(tree.second, wide, high - at, sizes)
    return peel(width, height, wide, high, cut_part(wide, high, tree.axis, at, *sides))


def peel(width: int, height: int, inner_width: int, inner_height: int, inner: Part) -> Part:
    """The part width × height with ``inner`` in its upper left corner and the rest cut off, the larger strip whole.

    +-------+---+     +-------+---+
    | inner |   |     | inner |   |
    +-------+   |  or +-------+---+
    |       |   |     |           |
    +-------+---+     +-----------+
    """
    strip_right, strip_below = width - inner_width, height - inner_height
    across_first = strip_right * height >= strip_below * width
    if across_first:
        body = _cut_below(inner_width, height, inner_height, inner)
        return _cut_right(width, height, inner_width, body)
    body = _cut_right(width, inner_height, inner_width, inner)
    return _cut_below(width, height, inner_height, body)


def _cut_right(width: int, height: int, at: int, body: Part) -> Part:
    if at == width:
        return body
    return cut_part(width, height, "x", at, body, Part(width - at, height))


def _cut_below(width: int, height: int, at: int, body: Part) -> Part:
    if at == height:
        return body
    return cut_part(width, height, "y", at, body, Part(width, height - at))


def _cut_pairs(positions: np.ndarray) -> np.ndarray:
    """For every position the cuts worth trying: rows (position, near side, far side, cuts), sides as indices.

    The far side is rounded down to a position; where that loses something it has to be trimmed, which makes two cuts.
    Of several cuts with the same far side only the one with the largest near side is kept: it gives at least as much.
    A row of nothing (no cut, both sides empty) stands for every position, so that each has one.
    """
    found = []
    for index in range(1, len(positions)):
        near = np.arange(1, int(np.searchsorted(positions, positions[index] // 2, side="right")))
        rest = positions[index] - positions[near]
        far = np.searchsorted(positions, rest, side="right") - 1
        last = np.append(far[1:] != far[:-1], True)[: len(near)]
        near, far, rest = near[last], far[last], rest[last]
        cuts = 1 + (positions[far] != rest)
        rows = [np.append(column, 0) for column in (near, far, cuts)]
        found.append(np.stack([np.full(len(near) + 1, index), *rows], axis=1))
    return np.concatenate(found) if found else np.zeros((0, 4), dtype=np.int64)


def _spread(pairs: np.ndarray, others: np.ndarray, scale: int, other_scale: int) -> tuple[np.ndarray, ...]:
    """Every pair along one axis at every position along the other: flat cells (owner, near, far), and cuts."""
    offset = others[None, :] * other_scale
    cells = (pairs[:, k : k + 1] * scale + offset for k in range(3))
    cuts = np.broadcast_to(pairs[:, 3:], (len(pairs), len(others)))
    return (*(cell.reshape(-1) for cell in cells), cuts.reshape(-1))
