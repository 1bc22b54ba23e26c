"""Layouts out of cut trees: which slot gets which piece, and the cuts in the plan's numbering.

The solver knows only sizes, upright and within the margins; here pieces of the same size (mats of two cards, say) share
the slots of that size, matched rows are divided, the tree is turned to the way the sheet lies, and margins come back.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from zester.core.fitting.jobs.job import UPS, Piece, Row, Sheet
from zester.core.fitting.jobs.plan import Cut, Layout, Named
from zester.core.fitting.parts import Part, count_sizes, rotate, sizes_of, tighten, with_margins, without
from zester.core.fitting.patterns.handling import Group, add_up, groups_of, seconds_of_groups
from zester.core.fitting.patterns.problem import Problem, Stock
from zester.core.fitting.patterns.tidy import tidy
from zester.core.pace import DEFAULT_PACE


@dataclass(frozen=True)
class Slot:
    """A piece in its slot, and how many quarter turns clockwise its top lies from the top of the pattern."""

    piece: str
    """The piece's id; empty for a whole portion."""
    turns: int = 0
    """Quarter turns to the right of its top."""


def name_layouts(
    problem: Problem, chosen: Iterable[tuple[int, Part, int]], wanted: dict[str, int], stack: int
) -> list[Layout]:
    """Name the slots of every layout.

    Parameters
    ----------
    problem : Problem
    chosen : iterable of (stock index, cut tree, copies)
    wanted : dict
        Pieces still wanted, by id; counted down to what remains unmade.
    stack : int
        Sheets cut at once.

    Returns
    -------
    list of Layout
        A chosen layout is split only where its copies hold different pieces. Slots nobody needs are left uncut if
        that does not split a layout, nor takes a setting of the rail longer.
    """
    layouts, in_order = [], sorted(chosen, key=lambda entry: -entry[2])
    groups = add_up((groups_of(tree), n) for index, tree, n in in_order if not problem.stocks[index].is_window)
    for index, tree, copies in in_order:
        left = copies
        while left:
            tree_now = _drop_unneeded(tree, problem, wanted, left)
            if tree_now is not tree:
                tree_now = _easiest_without(tree, tree_now, problem, problem.stocks[index], groups, (left, stack))
            names, used = _assign(tree_now, problem, wanted)
            if tree_now.left_over:
                break
            times = min([left, *(_repeats(problem, piece, used, wanted) for piece in used)])
            for piece, count in used.items():
                wanted[piece] = max(0, wanted[piece] - times * count)
            layouts.append(_layout(problem, index, times, tree_now, names))
            left -= times
    return layouts


def _repeats(problem: Problem, piece: str, used: dict[str, int], wanted: dict[str, int]) -> int:
    """How many copies can hold this piece in the same slots.

    The last copy may make a few more than wanted, but only if no other piece of that size could have the slots.
    """
    index = next(k for k, names in enumerate(problem.names) if any(p.id == piece for p in names))
    row = problem.sizes[index].row
    others = row is None and any(wanted[p.id] for p in problem.names[index] if p.id not in used)
    whole, rest = divmod(wanted[piece], used[piece])
    return max(1, whole if others or not rest else whole + 1)


def _size_wanted(problem: Problem, size: int, wanted: dict[str, int]) -> int:
    row = problem.sizes[size].row
    if row:
        return max(-(-wanted[name] // row.pieces.count(name)) for name in row.pieces)
    return sum(wanted[piece.id] for piece in problem.names[size])


def _drop_unneeded(tree: Part, problem: Problem, wanted: dict[str, int], copies: int) -> Part:
    """The tree without the slots that no copy of it needs."""
    surplus = {}
    for size, count in enumerate(count_sizes(tree, len(problem.sizes))):
        needed = -(-_size_wanted(problem, size, wanted) // copies)
        surplus[size] = max(0, count - needed)
    return without(tree, surplus) if any(surplus.values()) else tree


def _easiest_without(
    tree: Part, dropped: Part, problem: Problem, stock: Stock, groups: Counter[Group], copies: tuple[int, int]
) -> Part:
    """A tree without its unneeded slots in the way that takes least time beside what else is cut.

    What they free is moved to the edge, so that it is one large part; or it stays where it is, as places of the rail
    are dear; or they are cut like the others, and are spares. ``copies``: of the tree, and of sheets cut at once. What
    comes out of hidden middles takes no time at the trimmer.
    """
    many, stack = copies
    others = groups - Counter({group: n * many for group, n in groups_of(tree).items()})

    def seconds(way: Part) -> float:
        return 0.0 if stock.is_window else seconds_of_groups(add_up([(others, 1), (groups_of(way), many)]), stack)

    sizes = [(size.width, size.height) for size in problem.sizes]
    bare = [tidy(way, halve, stock.limits) for way in (tighten(dropped, sizes), dropped) for halve in (False, True)]
    best = min((way for way in bare if stock.can_cut(way)), key=seconds, default=tree)
    return tree if seconds(best) - seconds(tree) >= DEFAULT_PACE.setting else best


def _assign(tree: Part, problem: Problem, wanted: dict[str, int]) -> tuple[list[str], dict[str, int]]:
    """A piece for every slot of one copy, the piece with most still wanted first, and how many of each that uses.

    A matched row stands as its first piece and uses all of its pieces.
    """
    left = {piece.id: wanted[piece.id] for names in problem.names for piece in names}
    names: list[str] = []
    used: dict[str, int] = {}
    for size in sizes_of(tree):
        row = problem.sizes[size].row
        if row:
            names.append(row.pieces[0])
            for piece in row.pieces:
                used[piece] = used.get(piece, 0) + 1
            continue
        options = [piece.id for piece in problem.names[size]]
        current = next((p for p in options if p in used and left[p] > 0), None)
        piece = current or max(options, key=lambda p: left[p])
        left[piece] -= 1
        used[piece] = used.get(piece, 0) + 1
        names.append(piece)
    return names, used


def _layout(problem: Problem, stock: int, copies: int, tree: Part, names: Sequence[str]) -> Layout:
    source = problem.stocks[stock].source
    labels: list[Slot] = []
    labelled = _labelled(tree, problem, iter(names), labels, of_sheet=isinstance(source, Sheet))
    if not isinstance(source, Sheet):
        return emit(labelled, labels, source.id, copies, source="window")
    turns = UPS.index(source.up)
    turned = with_margins(rotate(labelled, turns), source.margins, problem.limits)
    return emit(turned, [replace(slot, turns=(slot.turns + turns) % 4) for slot in labels], source.id, copies)


def _labelled(tree: Part, problem: Problem, names: Iterator[str], labels: list[Slot], of_sheet: bool) -> Part:
    """The tree with every leaf numbered by its label, rows divided, and offcuts that happen to be a piece named."""
    if tree.axis:
        first, second = (_labelled(half, problem, names, labels, of_sheet) for half in tree.halves)
        return Part(width=tree.width, height=tree.height, axis=tree.axis, at=tree.at, first=first, second=second)
    if tree.size is None:
        spare = _spare(tree, problem) if of_sheet else None
        if spare:
            labels.append(Slot(spare.id, int((tree.width, tree.height) != (spare.width, spare.height))))
        return replace(tree, size=len(labels) - 1 if spare else None)
    name, row = next(names), problem.sizes[tree.size].row
    if row:
        return _divided(tree, problem, tree.size, row, labels)
    piece = next(piece for piece in problem.names[tree.size] if piece.id == name)
    labels.append(Slot(name, int((tree.width, tree.height) != (piece.width, piece.height))))
    return replace(tree, size=len(labels) - 1)


def _divided(strip: Part, problem: Problem, number: int, row: Row, labels: list[Slot]) -> Part:
    """A matched row cut into its pieces; turned clockwise, its right side lies below and its lower side left."""
    size = problem.sizes[number]
    pieces = {piece.id: piece for piece in problem.names[number]}
    turned = (strip.width, strip.height) != (size.width, size.height)
    members = [pieces[name] for name in row.pieces]
    axis = {"x": "y", "y": "x"}[row.axis] if turned else row.axis
    if turned and row.axis == "y":
        members.reverse()
    lengths = [piece.width if row.axis == "x" else piece.height for piece in members]
    return _chain(strip.width, strip.height, axis, list(zip(members, lengths, strict=True)), int(turned), labels)


def _chain(
    width: int, height: int, axis: str, members: list[tuple[Piece, int]], turns: int, labels: list[Slot]
) -> Part:
    """The strip cut from its ends towards its longest piece, so that something wide is held to the last."""
    lengths = [length for _, length in members]
    if len(members) == 1:
        labels.append(Slot(members[0][0].id, turns))
        return Part(width=width, height=height, size=len(labels) - 1)
    from_end = lengths[0] == max(lengths)
    at = sum(lengths[:-1]) if from_end else lengths[0]
    split = len(members) - 1 if from_end else 1
    boxes = ((at, height), (width - at, height)) if axis == "x" else ((width, at), (width, height - at))
    sides = [
        _chain(*box, axis, group, turns, labels)
        for box, group in zip(boxes, (members[:split], members[split:]), strict=True)
    ]
    return Part(width=width, height=height, axis=axis, at=at, first=sides[0], second=sides[1])


def _spare(part: Part, problem: Problem) -> Piece | None:
    """The piece that an offcut happens to be: it falls off anyway, so it goes on the pile as a spare."""
    for size, group in zip(problem.sizes, problem.names, strict=True):
        for piece in group if size.row is None else ():
            upright = (part.width, part.height) == (piece.width, piece.height)
            if upright or (piece.turn and (part.height, part.width) == (piece.width, piece.height)):
                return piece
    return None


def emit(tree: Part, labels: Sequence[Slot], sheet: str, copies: int, source: str = "sheet") -> Layout:
    """The layout of a tree whose leaves are numbered by their labels; a label without a piece is a portion."""
    cuts: list[Cut] = []
    named: list[Named] = []
    waiting, next_number = [(0, tree)], 1
    while waiting:
        number, part = waiting.pop(0)
        if part.axis:
            cuts.append(Cut(number, part.axis, part.at))
            waiting += enumerate(part.halves, next_number)
            next_number += 2
        elif part.size is not None:
            named.append(_named(number, labels[part.size]))
    return Layout(
        sheet=sheet, copies=copies, cuts=tuple(cuts), parts=tuple(sorted(named, key=lambda n: n.part)), source=source
    )


def _named(number: int, slot: Slot) -> Named:
    if not slot.piece:
        return Named(part=number, piece="", turned=False, portion=True)
    edge, turned = UPS[slot.turns], slot.turns % 2 == 1
    return Named(
        part=number, piece=slot.piece, turned=turned, up="" if edge == ("right" if turned else "top") else edge
    )


def merge_alike(layouts: Iterable[Layout]) -> tuple[Layout, ...]:
    """The same layouts with identical ones put together."""
    merged: dict[Layout, int] = {}
    for layout in layouts:
        key = replace(layout, copies=1)
        merged[key] = merged.get(key, 0) + layout.copies
    return tuple(replace(layout, copies=copies) for layout, copies in merged.items())
