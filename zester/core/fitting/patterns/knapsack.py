"""The best single sheet: a guillotine knapsack by dynamic programming.

Given a value for each size, find for every part (w, h) the most value that edge-to-edge cuts can get out of it:

    F(w, h) = max( the best size that fits inside,
                   F(x, h) + F(w - x, h)  over cuts x,     +---+-----+     +---------+
                   F(w, y) + F(w, h - y)  over cuts y )    | x | w-x |     |    y    |
                                                           |   |     |     +---------+
                                                           +---+-----+     |   h-y   |
                                                                           +---------+
with w, h, x, y running over the normal positions only (Gilmore & Gomory 1966; Beasley 1985). Every cut may be given a
price, so that of equally good layouts one with few cuts comes out. Values are whole numbers below 2**53, so the optimum
is exact and may be used in a proof.

Where that makes a large table, fewer positions will do. Of the sides (a, b) of a cut only those count that are as large
as they can be beside each other, a = <w - b> and b = <w - a>, <x> being the largest normal position up to x; so a table
that is asked about some sheets needs only what can be reached from their sides by such cuts (raster points: Terno,
Lindemann and Scheithauer 1987; here taken anew at every part). For A4 and sizes in tenths of a millimetre that is a
tenth of the cells and less. It holds without a trimmer's limits only, under which a wider strip is not as good.

A trimmer's limits come in as cuts that are not there: none across a part longer than its longest cut, none that leaves
only strips too narrow to hold. A sheet with one side within the longest cut loses nothing by that, since trimming along
the other side is always possible first.
"""

from __future__ import annotations

import random
import sys
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from types import ModuleType
from typing import Any

import numpy as np

from zester.core.errors import sure
from zester.core.fitting.parts import ANY_CUT, CutLimits, Part, cut_part, peel, tighten
from zester.core.fitting.patterns import loops
from zester.core.fitting.patterns.loops import AN_ITEM, NO_CHOICE

MOST_CANDIDATES = 20_000_000
# From so many cuts on, only positions that can be reached are used; from so many positions on, at once; and of still
# more even these take long to find.
REDUCED_WORK, MANY_POSITIONS, MOST_POSITIONS = 3_000_000, 3000, 8000
LARGEST_VALUE = 2**52
# Tables with so few cuts are filled by loops that are not compiled.
PLAIN_WORK = 3000
# Those with so many are filled several columns at a time.
BLOCK_WORK, BLOCK = 1_000_000, 32
_KERNELS = "zester.core.fitting.patterns.kernels"


@dataclass(frozen=True)
class Item:
    """One way a size can lie: its index among the sizes, and ticks as it lies."""

    size: int
    """Its index."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""


class TooManyPositions(Exception):
    """The table would take too long; fewer positions must be used."""


def _compiled() -> ModuleType:
    from zester.core.fitting.patterns import kernels

    return kernels


@dataclass(frozen=True)
class CutPairs:
    """The cuts worth trying along one axis: for position p those from ``begin[p]`` to ``begin[p + 1]``.

    ``near`` and ``far`` are the sides as indices of positions. The far side is rounded down to a position; where that
    loses something it has to be trimmed, which makes two ``cuts``.
    """

    begin: np.ndarray
    near: np.ndarray
    far: np.ndarray
    cuts: np.ndarray

    def of(self, position: int) -> slice:
        """The cuts of one position."""
        return slice(self.begin[position], self.begin[position + 1])


def reachable_positions(positions: np.ndarray, tops: Iterable[int]) -> np.ndarray:
    """Those of the ascending positions that parts of the lengths ``tops`` are cut down to, taking the largest sides."""
    reached = np.zeros(len(positions), dtype=bool)
    reached[0] = True
    for top in tops:
        reached[np.searchsorted(positions, top, side="right") - 1] = True
    # Both sides lie below, so one walk down finds all.
    for index in range(len(positions) - 1, 0, -1):
        if reached[index]:
            near, far = _largest_sides(positions, int(positions[index]))
            reached[near] = reached[far] = True
    return positions[reached]


def _largest_sides(positions: np.ndarray, length: int) -> tuple[np.ndarray, np.ndarray]:
    """Pairs of positions, as indices, that lie beside each other on a length, neither of which could be larger."""
    near = np.arange(1, int(np.searchsorted(positions, length // 2, side="right")))
    far = np.unique(np.searchsorted(positions, length - positions[near], side="right") - 1)
    return np.searchsorted(positions, length - positions[far], side="right") - 1, far


def largest_pairs(positions: np.ndarray, reached: np.ndarray) -> CutPairs:
    """The cuts of the positions ``reached``, numbered among these."""
    begin, sides = [0, 0], []
    for length in reached[1:]:
        near, far = (positions[side] for side in _largest_sides(positions, int(length)))
        sides.append(np.stack([*np.searchsorted(reached, (near, far)), 1 + (near + far != length)]))
        begin.append(begin[-1] + len(near))
    near, far, cuts = np.concatenate(sides, axis=1) if sides else np.zeros((3, 0), dtype=np.int64)
    return CutPairs(np.array(begin[: len(reached) + 1]), near, far, cuts)


def cut_pairs(positions: np.ndarray, hold: int = 0) -> CutPairs:
    """The cuts worth trying for ascending positions that start with 0.

    Of several cuts with the same far side only the one with the largest near side is kept: it gives at least as much.
    Where strips must be ``hold`` wide to be held that need not be so, and all are kept that leave such a side; a far
    side that cannot be trimmed to the next position for want of a hold is trimmed further.
    """
    halves = np.maximum(np.searchsorted(positions, positions // 2, side="right") - 1, 0)
    # All positions at once: most tables are so small that a step for each took longer than their filling.
    at = np.repeat(np.arange(len(positions)), halves)
    near = np.arange(len(at)) - np.repeat(np.cumsum(halves) - halves, halves) + 1
    rest = positions[at] - positions[near]
    far = np.searchsorted(positions, rest, side="right") - 1
    if hold:
        free = (positions[far] == rest) | (np.maximum(positions[far], rest - positions[far]) >= hold)
        further = np.searchsorted(positions, rest - hold, side="right") - 1
        far = np.where(free, far, np.maximum(further, 0))
        kept = np.maximum(positions[near], rest) >= hold
    else:
        kept = np.append((far[1:] != far[:-1]) | (at[1:] != at[:-1]), True)[: len(far)]
    at, near, far, rest = at[kept], near[kept], far[kept], rest[kept]
    begin = np.searchsorted(at, np.arange(len(positions) + 1))
    return CutPairs(begin, near, far, 1 + (positions[far] != rest))


class GuillotineTable:
    """The table F for fixed positions and items; refilled for each new set of values.

    Parameters
    ----------
    xs, ys : numpy arrays of int64
        Positions along the width and the height, ascending, starting with 0; every item's width and height is
        among them.
    items : sequence of Item
    sizes : sequence of (width, height), optional
        The true sizes; where items are rounded up or lie in larger cells, trees are tightened to them.
    limits : CutLimits
        What the trimmer can do.
    tops : sequence of (width, height), optional
        The only parts that will be asked about; a large table can be smaller then.
    most_work : int
        How many cuts one filling may compare.

    Raises
    ------
    TooManyPositions
        If more than ``most_work`` cuts would have to be compared.
    """

    def __init__(
        self,
        xs: np.ndarray,
        ys: np.ndarray,
        items: Sequence[Item],
        sizes: Sequence[tuple[int, int]] | None = None,
        limits: CutLimits = ANY_CUT,
        tops: Sequence[tuple[int, int]] = (),
        most_work: int = MOST_CANDIDATES,
    ):
        self.sizes, self.limits = sizes, limits
        self.items = [item for item in items if item.width <= xs[-1] and item.height <= ys[-1]]
        self.reduced = False
        self.rounded = sizes is not None and any({item.width, item.height} != {*sizes[item.size]} for item in items)
        may_reduce = tops and sizes and limits == ANY_CUT
        many = max(len(xs), len(ys)) > MANY_POSITIONS
        if max(len(xs), len(ys)) > (MOST_POSITIONS if may_reduce else MANY_POSITIONS):
            raise TooManyPositions
        if not (may_reduce and many):
            self._use(xs, ys, cut_pairs(xs, limits.hold), cut_pairs(ys, limits.hold))
        if may_reduce and (many or self.work > REDUCED_WORK):
            self._reduce(xs, ys, tops)
        if self.work > most_work:
            raise TooManyPositions
        # Once they are loaded the compiled loops are quicker for any table.
        self.loops = loops if self.work <= PLAIN_WORK and _KERNELS not in sys.modules else _compiled()
        self.may_x = np.array([limits.reaches(height) for height in ys])
        self.may_y = np.array([limits.reaches(width) for width in xs])
        self.item_cells = [self._cell_of(item) for item in self.items]
        self._items_at: dict[tuple[int, int], list[Item]] = {}
        for item, cell in zip(self.items, self.item_cells, strict=True):
            self._items_at.setdefault(cell, []).append(item)
        self.values = np.zeros(self.shape)
        self.base = self.values
        self.pairs = (
            *(self.across.begin, self.across.near, self.across.far, self.across.cuts),
            *(self.down.begin, self.down.near, self.down.far, self.down.cuts),
        )

    def _use(self, xs: np.ndarray, ys: np.ndarray, across: CutPairs, down: CutPairs) -> None:
        self.xs, self.ys, self.across, self.down = xs, ys, across, down
        self.shape = len(xs), len(ys)

    def _reduce(self, xs: np.ndarray, ys: np.ndarray, tops: Sequence[tuple[int, int]]) -> None:
        widths, heights = zip(*tops, strict=True)
        fewer = reachable_positions(xs, widths), reachable_positions(ys, heights)
        self._use(*fewer, largest_pairs(xs, fewer[0]), largest_pairs(ys, fewer[1]))
        self.reduced = True

    def _cell_of(self, item: Item) -> tuple[int, int]:
        """Indices of the smallest cell that holds it."""
        return int(np.searchsorted(self.xs, item.width)), int(np.searchsorted(self.ys, item.height))

    def trims(self, item: Item, cell: tuple[int, int]) -> int:
        """How many cuts it takes to make a size of its cell."""
        return int(self.xs[cell[0]] != item.width) + int(self.ys[cell[1]] != item.height)

    @property
    def work(self) -> int:
        """How many cuts one filling compares."""
        return len(self.across.near) * self.shape[1] + len(self.down.near) * self.shape[0]

    @cached_property
    def blocks(self) -> np.ndarray | None:
        """Where blocks of columns begin of which none is cut from another, if the table is filled by blocks."""
        if self.work < BLOCK_WORK or self.limits.hold:
            return None
        first, cuts = [1], self.across
        for column in range(2, self.shape[0]):
            sides = np.concatenate([cuts.near[cuts.of(column)], cuts.far[cuts.of(column)]])
            if column - first[-1] == BLOCK or (len(sides) and sides.max() >= first[-1]):
                first.append(column)
        return np.array([*first, self.shape[0]])

    def cell(self, width: int, height: int) -> tuple[int, int]:
        """Indices of the largest cell that fits inside width × height."""
        i = int(np.searchsorted(self.xs, width, side="right")) - 1
        j = int(np.searchsorted(self.ys, height, side="right")) - 1
        return i, j

    def fill(self, worth: Sequence[int], cut_price: int = 0) -> None:
        """Work the table out for the given whole value of each size, every cut costing ``cut_price``."""
        self.worth, self.cut_price = worth, cut_price
        self.base = np.zeros(self.shape)
        for item, cell in zip(self.items, self.item_cells, strict=True):
            self.base[cell] = max(self.base[cell], worth[item.size] - cut_price * self.trims(item, cell))
        self.values = self.base.copy()
        may, price = (self.may_x, self.may_y), float(cut_price)
        if self.blocks is not None:
            _compiled().fill_in_blocks(self.values, *self.pairs, *may, price, self.blocks, BLOCK)
        else:
            hold = float(self.limits.hold)
            self.loops.fill_table(self.values, *self.pairs, *may, self.xs, self.ys, hold, price)
        if self.values[-1, -1] > LARGEST_VALUE:
            raise OverflowError("the values of the sizes are too large to be added up exactly")

    def best(self, width: int, height: int) -> int:
        """The most value a part of this size can give."""
        return int(self.values[self.cell(width, height)])

    def tree(self, width: int, height: int, dice: random.Random | None = None) -> Part:
        """A cut tree of that value, with what is left over in as few and as large parts as the tree allows.

        Of several cuts that give the value ``dice`` chooses one; without them it is the first.
        """
        tree = self._tree(width, height, self.cell(width, height), dice)
        return self.tightened(tree)

    def tightened(self, tree: Part) -> Part:
        """The tree with its pieces at their true sizes."""
        return tighten(tree, sure(self.sizes)) if self.rounded or self.reduced else tree

    def _tree(self, width: int, height: int, cell: tuple[int, int], dice: random.Random | None) -> Part:
        i, j = cell
        value = self.values[i, j]
        if value == 0:
            return Part(width=width, height=height)
        # Trimmed lower, it may be worth trimming narrower after all.
        for axis in "xyx" if self.cut_price else "xy":
            positions, line, place = (self.xs, self.values[:, j], i) if axis == "x" else (self.ys, self.values[i], j)
            smaller = np.flatnonzero(line[:place] == value + self.cut_price)
            if self.limits.hold:
                widest = np.maximum(positions[smaller], positions[place] - positions[smaller])
                smaller = smaller[widest >= self.limits.hold]
            if len(smaller):
                i, j = (int(smaller[0]), j) if axis == "x" else (i, int(smaller[0]))
                value += self.cut_price
        if self.base[i, j] == value:
            best = max(self._items_at[i, j], key=lambda item: self._earned(item, (i, j)))
            return peel(width, height, Part(width=best.width, height=best.height, size=best.size), self.limits)
        return self.in_part(width, height, (i, j), lambda wide, high: self._split(wide, high, (i, j), dice))

    def _earned(self, item: Item, cell: tuple[int, int]) -> int:
        return self.worth[item.size] - self.cut_price * self.trims(item, cell)

    def in_part(self, width: int, height: int, cell: tuple[int, int], split: Callable[[int, int], Part]) -> Part:
        """The part width × height trimmed to a cell, what is cut of the cell given by ``split``.

        A side that can be trimmed only after the next cuts, because the part is still too long, is left as it is.
        """
        wide, high = int(self.xs[cell[0]]), int(self.ys[cell[1]])
        if not self.limits.reaches(high):
            wide = width
        if not self.limits.reaches(wide):
            high = height
        return peel(width, height, split(wide, high), self.limits)

    def _split(self, width: int, height: int, cell: tuple[int, int], dice: random.Random | None) -> Part:
        i, j = cell
        value = self.values[cell]
        x, y = self.across.of(i), self.down.of(j)
        sideways = self.values[self.across.near[x], j] + self.values[self.across.far[x], j]
        downwards = self.values[i, self.down.near[y]] + self.values[i, self.down.far[y]]
        hits_x = np.flatnonzero(sideways - self.across.cuts[x] * self.cut_price == value) if self.may_x[j] else ()
        hits_y = np.flatnonzero(downwards - self.down.cuts[y] * self.cut_price == value) if self.may_y[i] else ()
        choices = [("x", int(k) + x.start) for k in hits_x] + [("y", int(k) + y.start) for k in hits_y]
        if dice:
            axis, number = dice.choice(choices)
        else:
            # Two alike halves can be stacked, so such a cut is taken before any other.
            axis, number = next((c for c in choices if self._halves(*c)), choices[0])
        return self.cut_along(width, height, cell, axis, number, lambda w, h, side: self._tree(w, h, side, dice))

    def _halves(self, axis: str, number: int) -> bool:
        pairs = self.across if axis == "x" else self.down
        return bool(pairs.near[number] == pairs.far[number])

    def cut_along(
        self, width: int, height: int, cell: tuple[int, int], axis: str, number: int, tree: Callable[..., Any]
    ) -> Part:
        """The part of a cell cut along ``axis`` by the cut of that number, each side made by ``tree``."""
        i, j = cell
        if axis == "x":
            near, far = int(self.across.near[number]), int(self.across.far[number])
            at = int(self.xs[near])
            return cut_part(width, height, "x", at, tree(at, height, (near, j)), tree(width - at, height, (far, j)))
        near, far = int(self.down.near[number]), int(self.down.far[number])
        at = int(self.ys[near])
        return cut_part(width, height, "y", at, tree(width, at, (i, near)), tree(width, height - at, (i, far)))

    def bounded_tree(
        self, width: int, height: int, worth: Sequence[int], most: Sequence[int], cut_price: int = 0
    ) -> Part:
        """A good cut tree that never makes more of a size than ``most`` (a heuristic: one choice is kept a cell)."""
        return self.tightened(_Bounded(self, worth, most, cut_price).tree(width, height, self.cell(width, height)))


class _Bounded:
    """The table with the counts of every size kept a cell, and no part that makes more than ``most`` of one.

    The counts of a cell are packed into 64-bit words, a field for each size with a guard bit on top, so that one
    subtraction tells whether any count is above what is wanted.
    """

    def __init__(self, table: GuillotineTable, worth: Sequence[int], most: Sequence[int], cut_price: int):
        self.table, self.cut_price = table, float(cut_price)
        self.values = np.zeros(table.shape)
        self.choice = np.full(table.shape, NO_CHOICE, dtype=np.int64)
        self.item: dict[tuple[int, int], Item] = {}
        place, limits, guards = self._pack([min(m, n) for m, n in zip(most, self._most_on_a_sheet(worth), strict=True)])
        counts = np.zeros((*table.shape, len(limits)), dtype=np.int64)
        for item, cell in zip(table.items, table.item_cells, strict=True):
            earned = worth[item.size] - cut_price * table.trims(item, cell)
            if most[item.size] > 0 and earned > self.values[cell]:
                word, shift = place[item.size]
                self.values[cell], self.choice[cell], self.item[cell] = earned, AN_ITEM, item
                counts[cell] = 0
                counts[(*cell, word)] = 1 << shift
        may = table.may_x, table.may_y
        table.loops.fill_bounded(self.values, counts, self.choice, limits, guards, *table.pairs, *may, float(cut_price))

    def _most_on_a_sheet(self, worth: Sequence[int]) -> list[int]:
        sheet = int(self.table.xs[-1]) * int(self.table.ys[-1])
        smallest = [sheet] * len(worth)
        for item in self.table.items:
            smallest[item.size] = min(smallest[item.size], item.width * item.height)
        return [sheet // max(1, area) for area in smallest]

    @staticmethod
    def _pack(most: Sequence[int]) -> tuple[list[tuple[int, int]], np.ndarray, np.ndarray]:
        bits = max(most).bit_length() + 1
        each = 62 // bits
        place = [(size // each, (size % each) * bits) for size in range(len(most))]
        limits, guards = [0] * (place[-1][0] + 1), [0] * (place[-1][0] + 1)
        for (word, shift), limit in zip(place, most, strict=True):
            guard = 1 << (shift + bits - 1)
            limits[word] |= (limit << shift) | guard
            guards[word] |= guard
        return place, np.array(limits, dtype=np.int64), np.array(guards, dtype=np.int64)

    def tree(self, width: int, height: int, cell: tuple[int, int]) -> Part:
        """The part's cut tree."""
        i, j = cell
        if self.values[cell] == 0:
            return Part(width=width, height=height)
        # A cell without a choice of its own took over what a smaller one next to it makes.
        while self.choice[i, j] == NO_CHOICE:
            i, j = self._source(i, j)
        return self.table.in_part(width, height, (i, j), lambda wide, high: self._split(wide, high, (i, j)))

    def _source(self, i: int, j: int) -> tuple[int, int]:
        for smaller in ((i - 1, j), (i, j - 1)):
            price = 0.0 if self.choice[smaller] == NO_CHOICE else self.cut_price
            if self.values[smaller] > 0 and self.values[smaller] - price == self.values[i, j]:
                return smaller
        raise AssertionError("a cell’s content comes from nowhere")

    def _split(self, width: int, height: int, cell: tuple[int, int]) -> Part:
        if cell in self.item and self.choice[cell] == AN_ITEM:
            item = self.item[cell]
            return peel(width, height, Part(width=item.width, height=item.height, size=item.size), self.table.limits)
        choice, across = int(self.choice[cell]), len(self.table.across.near)
        axis, number = ("x", choice) if choice < across else ("y", choice - across)
        return self.table.cut_along(width, height, cell, axis, number, self.tree)
