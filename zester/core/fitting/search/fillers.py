"""Fillers: pieces that are wanted if they cost nothing, cut from what a plan leaves over.

Only leftovers that nobody would keep are filled, largest first. A layout of which only some copies are needed for that
is split in two.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import replace

from zester.core.errors import sure
from zester.core.fitting.jobs.drawing import LaidPart, lay_parts
from zester.core.fitting.jobs.job import UPS, Bench, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Cut, Layout, Named
from zester.core.fitting.parts import Part, can_be_cut, rotate, slots
from zester.core.fitting.patterns.knapsack import GuillotineTable, Item, TooManyPositions
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.fitting.search.naming import Slot, emit


def add_fillers(paper: PaperJob, layouts: tuple[Layout, ...], bench: Bench) -> tuple[Layout, ...]:
    """The layouts with fillers where they come for free; pinned ones stay as they are."""
    wanted = {piece.id: piece.count for piece in paper.pieces if piece.filler}
    for layout in layouts:
        for named in layout.parts:
            if named.piece in wanted:
                wanted[named.piece] -= layout.copies
    sheets = {sheet.id: sheet for sheet in paper.sheets}
    done, waiting = [], deque(layouts)
    while waiting:
        layout = waiting.popleft()
        if layout.source != "sheet" or layout.pinned or not any(left > 0 for left in wanted.values()):
            done.append(layout)
            continue
        filled = _fill(layout, sheets[layout.sheet], paper, wanted, bench)
        if filled is None:
            done.append(layout)
            continue
        if layout.copies > filled.copies:
            waiting.appendleft(replace(layout, copies=layout.copies - filled.copies))
        # There may be room for more in some of its copies.
        waiting.appendleft(filled)
    return tuple(done)


def _fill(layout: Layout, sheet: Sheet, paper: PaperJob, wanted: dict[str, int], bench: Bench) -> Layout | None:
    """The layout with fillers in its leftovers, for as many copies as all of them are wanted; None if none fits."""
    fillers = [piece for piece in paper.pieces if piece.filler and wanted[piece.id] > 0]
    copies = min(layout.copies, max(wanted[piece.id] for piece in fillers))
    left = {piece.id: wanted[piece.id] // copies for piece in fillers}
    filled = layout
    for spot in sorted(lay_parts(layout, sheet.width, sheet.height), key=lambda p: -p.area):
        if (
            spot.piece
            or spot.portion
            or (bench.keep and bench.keep.keeps(spot.width, spot.height))
            or not _inside(spot, sheet)
        ):
            continue
        found = _best(spot, sheet, fillers, left, bench)
        if found:
            tree, labels = found
            for slot in labels:
                left[slot.piece] -= 1
            filled = _grafted(filled, spot.part, emit(tree, labels, sheet.id, 1))
    if filled is layout:
        return None
    for piece in fillers:
        wanted[piece.id] -= copies * (wanted[piece.id] // copies - left[piece.id])
    return replace(filled, copies=copies)


def _inside(spot: LaidPart, sheet: Sheet) -> bool:
    margins = sheet.margins
    across = margins.left <= spot.x and spot.x + spot.width <= sheet.width - margins.right
    return across and margins.top <= spot.y and spot.y + spot.height <= sheet.height - margins.bottom


def _best(
    spot: LaidPart, sheet: Sheet, fillers: list[Piece], left: dict[str, int], bench: Bench
) -> tuple[Part, list[Slot]] | None:
    """The most filler area a leftover can give, as a tree the way the sheet lies, and whose slot is whose."""
    sides = (spot.height, spot.width) if sheet.sideways else (spot.width, spot.height)
    items = []
    for index, piece in enumerate(fillers):
        if left[piece.id] > 0:
            ways = [(piece.width, piece.height), (piece.height, piece.width)][: 1 + piece.turn]
            items += [Item(index, *way) for way in ways if way[0] <= sides[0] and way[1] <= sides[1]]
    if not items:
        return None
    most = [left[piece.id] for piece in fillers]
    xs = normal_positions([(item.width, most[item.size]) for item in items], sides[0])
    ys = normal_positions([(item.height, most[item.size]) for item in items], sides[1])
    try:
        table = GuillotineTable(xs, ys, items, limits=bench.limits)
    except TooManyPositions:
        return None
    tree = table.bounded_tree(*sides, [piece.width * piece.height for piece in fillers], most)
    if tree.left_over or not can_be_cut(tree, bench.limits):
        return None
    turns, labels = UPS.index(sheet.up), []
    for slot in slots(tree):
        piece = fillers[sure(slot.size)]
        turned = (slot.width, slot.height) != (piece.width, piece.height)
        labels.append(Slot(piece.id, (int(turned) + turns) % 4))
    return rotate(_numbered(tree, iter(range(len(labels)))), turns), labels


def _numbered(tree: Part, numbers: Iterator[int]) -> Part:
    if tree.axis:
        first, second = (_numbered(half, numbers) for half in tree.halves)
        return replace(tree, first=first, second=second)
    return tree if tree.size is None else replace(tree, size=next(numbers))


def _grafted(layout: Layout, part: int, small: Layout) -> Layout:
    """The layout with one of its leftover parts cut further as ``small`` says."""
    offset = 2 * len(layout.cuts)

    def number(of_small: int) -> int:
        return of_small + offset if of_small else part

    cuts = tuple(Cut(number(cut.part), cut.axis, cut.at) for cut in small.cuts)
    parts = tuple(Named(part=number(n.part), piece=n.piece, turned=n.turned, up=n.up) for n in small.parts)
    return replace(layout, cuts=layout.cuts + cuts, parts=layout.parts + parts)
