"""Layouts out of cut trees: which slot gets which piece, and the cuts in the plan's numbering.

The solver knows only sizes; pieces of the same size (mats of two cards, say) share the slots of that size here.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from zester.core.fitting.job import Piece
from zester.core.fitting.parts import Part, cut_part, tighten
from zester.core.fitting.plan import Cut, Layout, Named
from zester.core.fitting.problem import Problem
from zester.core.fitting.tidy import tidy_layouts


def name_layouts(
    problem: Problem, chosen: Iterable[tuple[int, Part, int]], wanted: dict[str, int], stack: int
) -> list[Layout]:
    """Name the slots of every layout.

    Parameters
    ----------
    problem : Problem
    chosen : iterable of (sheet index, cut tree, copies)
    wanted : dict
        Pieces still wanted, by id; counted down to what remains unmade.
    stack : int
        Sheets cut at once.

    Returns
    -------
    list of Layout
        A chosen layout is split only where its copies hold different pieces. Slots nobody needs are left uncut if
        that does not split a layout.
    """
    layouts, sizes = [], [(size.width, size.height) for size in problem.sizes]
    for sheet, tree, copies in sorted(chosen, key=lambda entry: -entry[2]):
        left = copies
        while left:
            tree_now = _drop_unneeded(tree, problem, wanted, left)
            if tree_now is not tree:
                # What the dropped slots free is moved to the edge, so that it stays in one large part.
                tree_now = tidy_layouts([(tighten(tree_now, sizes), left)], stack)[0]
            names, used = _assign(tree_now, problem, wanted)
            if tree_now.left_over:
                break
            times = min([left, *(_repeats(problem, piece, used, wanted) for piece in used)])
            for piece, count in used.items():
                wanted[piece] = max(0, wanted[piece] - times * count)
            layouts.append(_layout(problem.stocks[sheet].source.id, times, tree_now, names, problem))
            left -= times
    return layouts


def _repeats(problem: Problem, piece: str, used: dict[str, int], wanted: dict[str, int]) -> int:
    """How many copies can hold this piece in the same slots.

    The last copy may make a few more than wanted, but only if no other piece of that size could have the slots.
    """
    group = next(names for names in problem.names if any(p.id == piece for p in names))
    others = any(wanted[p.id] for p in group if p.id not in used)
    whole, rest = divmod(wanted[piece], used[piece])
    return max(1, whole if others or not rest else whole + 1)


def _slots(tree: Part) -> list[Part]:
    """The pieces of a cut tree, upper left ones first."""
    if tree.axis:
        return _slots(tree.first) + _slots(tree.second)
    return [] if tree.size is None else [tree]


def _size_wanted(problem: Problem, size: int, wanted: dict[str, int]) -> int:
    return sum(wanted[piece.id] for piece in problem.names[size])


def _drop_unneeded(tree: Part, problem: Problem, wanted: dict[str, int], copies: int) -> Part:
    """The tree without the slots that no copy of it needs."""
    counts: dict[int, int] = {}
    for slot in _slots(tree):
        counts[slot.size] = counts.get(slot.size, 0) + 1
    surplus = {}
    for size, count in counts.items():
        needed = -(-_size_wanted(problem, size, wanted) // copies)
        surplus[size] = max(0, count - needed)
    return _without(tree, surplus) if any(surplus.values()) else tree


def _without(tree: Part, surplus: dict[int, int]) -> Part:
    # The later slots go first: they lie lower and further right, where the other leftovers are.
    if tree.axis:
        second = _without(tree.second, surplus)
        first = _without(tree.first, surplus)
        return cut_part(tree.width, tree.height, tree.axis, tree.at, first, second)
    if tree.size is not None and surplus.get(tree.size, 0):
        surplus[tree.size] -= 1
        return replace(tree, size=None)
    return tree


def _assign(tree: Part, problem: Problem, wanted: dict[str, int]) -> tuple[list[str], dict[str, int]]:
    """A piece for every slot of one copy, the piece with most still wanted first, and how many of each that uses."""
    left = {piece.id: wanted[piece.id] for names in problem.names for piece in names}
    names, used = [], {}
    for slot in _slots(tree):
        options = [piece.id for piece in problem.names[slot.size]]
        current = next((p for p in options if p in used and left[p] > 0), None)
        piece = current or max(options, key=lambda p: left[p])
        left[piece] -= 1
        used[piece] = used.get(piece, 0) + 1
        names.append(piece)
    return names, used


def _layout(sheet: str, copies: int, tree: Part, names: Sequence[str], problem: Problem) -> Layout:
    pieces = {piece.id: piece for group in problem.names for piece in group}
    cuts: list[Cut] = []
    named: list[Named] = []
    waiting, next_number = [(0, tree, list(names))], 1
    while waiting:
        number, part, its_names = waiting.pop(0)
        if part.axis:
            cuts.append(Cut(number, part.axis, part.at))
            split = len(_slots(part.first))
            waiting.append((next_number, part.first, its_names[:split]))
            waiting.append((next_number + 1, part.second, its_names[split:]))
            next_number += 2
        elif part.size is not None:
            piece = pieces[its_names[0]]
            named.append(_name(number, part, piece))
        elif spare := _spare(part, problem):
            named.append(_name(number, part, spare))
    return Layout(sheet, copies, tuple(cuts), tuple(sorted(named, key=lambda n: n.part)))


def _name(number: int, part: Part, piece: Piece) -> Named:
    return Named(number, piece.id, (part.width, part.height) != (piece.width, piece.height))


def _spare(part: Part, problem: Problem) -> Piece | None:
    """The piece that an offcut happens to be: it falls off anyway, so it goes on the pile as a spare."""
    for group in problem.names:
        for piece in group:
            upright = (part.width, part.height) == (piece.width, piece.height)
            if upright or (piece.turn and (part.height, part.width) == (piece.width, piece.height)):
                return piece
    return None


def merge_alike(layouts: Iterable[Layout]) -> tuple[Layout, ...]:
    """The same layouts with identical ones put together."""
    merged: dict[Layout, int] = {}
    for layout in layouts:
        key = replace(layout, copies=1)
        merged[key] = merged.get(key, 0) + layout.copies
    return tuple(replace(layout, copies=copies) for layout, copies in merged.items())
