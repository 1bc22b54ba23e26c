"""The same layout with what is left over trimmed off later, where that takes less time.

    +----+----+-----+--+        +----+----+-----+--+
    |    |    |  b  |  |        |    |    |  b  |  |     The third part is not trimmed to its width: it is cut across
    |  a |  a +-----+  |   ->   |  a |  a +--+--+--+     as it remains, at b, and what is left over of its rows comes
    |    |    | c|c |  |        |    |    | c|c |  |     off at their ends, where nothing is measured.
    +----+----+-----+--+        +----+----+--+--+--+

That saves a setting and a stack fetched, and takes a stroke more for every row that ended in a piece.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from zester.core.fitting.jobs.job import KeepRule
from zester.core.fitting.parts import Part, along, beside, left_beside
from zester.core.fitting.patterns.handling import AGAIN, Group, group_seconds, groups_of, strips_of
from zester.core.lengths import TICKS_PER_INCH
from zester.core.pace import DEFAULT_PACE

# For how many stacks a place of the rail is counted.
STACKS = 3
# What is wider is an offcut that somebody may want to keep, and stays whole (common practice).
NARROW = TICKS_PER_INCH


def carried(tree: Part, keep: KeepRule | None = None) -> Part:
    """The tree with every strip that is better trimmed later as it remains; what is worth keeping stays whole."""
    best, least = tree, _seconds(groups_of(tree))
    while True:
        found = [(_seconds(groups_of(other)), other) for other in _variants(best, keep)]
        quickest = min(found, key=lambda each: each[0], default=(least, best))
        if quickest[0] >= least:
            return best
        least, best = quickest


def _seconds(groups: Counter[Group]) -> float:
    places = len({group.at for group in groups})
    return sum(n * group_seconds(group) for group, n in groups.items()) + places * AGAIN * DEFAULT_PACE.setting / STACKS


def _variants(tree: Part, keep: KeepRule | None) -> Iterator[Part]:
    """The tree with one strip, anywhere in it, that is not trimmed."""
    if not tree.axis:
        return
    strips = strips_of(tree)
    spare = strips[-1]
    kept = not spare.left_over or along(spare, tree.axis) > NARROW or (keep and keep.keeps(spare.width, spare.height))
    for index, strip in enumerate(strips):
        if strip.axis and strip not in strips[:index]:
            for other in _variants(strip, keep):
                yield row([other if each == strip else each for each in strips], tree.axis)
            if not kept:
                others = [*strips[:index], *strips[index + 1 : -1]]
                yield row([*others, wider(strip, along(spare, tree.axis), tree.axis)], tree.axis)


def wider(part: Part, more: int, axis: str) -> Part:
    """The part with so much more that is left over at its end."""
    if part.left_over:
        return left_beside(part, along(part, axis) + more, axis)
    if part.axis and part.axis != axis:
        return row([wider(strip, more, axis) for strip in strips_of(part)], part.axis)
    strips = strips_of(part) if part.axis else [part]
    if strips[-1].left_over:
        return row([*strips[:-1], wider(strips[-1], more, axis)], axis)
    return row([*strips, left_beside(part, more, axis)], axis)


def row(strips: list[Part], axis: str) -> Part:
    """Strips as one part, cut off one after the other."""
    rest = strips[-1]
    for strip in reversed(strips[:-1]):
        rest = beside(strip, rest, axis)
    return rest
