"""The same layout, easier to cut.

Neighbouring cuts along one axis are read as one row of strips, and the row is put in order: alike strips side by side
(one rail setting serves them all), the largest first, all that is left over in one strip at the end.

    | 2 |waste| 5 | 2 |   ->   | 5 | 2 | 2 | waste |

A run of alike strips is either cut strip by strip (one setting) or halved and stacked (fewer strokes for few sheets):
whichever takes fewer seconds beside the other layouts (``handling.py``).
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import groupby
from operator import itemgetter

from zester.core.fitting.parts import ANY_CUT, CutLimits, Part, along, beside, left_beside, remembered
from zester.core.fitting.patterns.handling import add_up, groups_of, seconds_of_groups
from zester.core.fitting.patterns.strokes import part_key


def tidy(part: Part, halve: bool, limits: CutLimits = ANY_CUT) -> Part:
    """The part with its strips in order, rows inside rows too; ``halve`` says how runs of alike strips are cut.

    Where narrow strips must be held by something the narrowest are cut off first.
    """
    if not part.axis:
        return part
    return remembered(part, (tidy, halve, limits), lambda: _tidied(part, halve, limits))


def _tidied(part: Part, halve: bool, limits: CutLimits) -> Part:
    strips = [tidy(strip, halve, limits) for strip in row_of(part, part.axis)]
    useful = [strip for strip in strips if not strip.left_over]
    if not useful:
        return Part(width=part.width, height=part.height)
    order = 1 if limits.hold else -1
    keyed = [((order * along(strip, part.axis), part_key(strip)), strip) for strip in useful]
    keyed.sort(key=itemgetter(0))
    useful = [strip for _, strip in keyed]
    runs = [[strip for _, strip in run] for _, run in groupby(keyed, key=itemgetter(0))]
    blocks = _halved(runs, part.axis, limits) if halve else useful
    spare = along(part, part.axis) - sum(along(strip, part.axis) for strip in useful)
    return _comb(blocks, spare, part)


def _halved(runs: list[list[Part]], axis: str, limits: CutLimits) -> list[Part]:
    blocks = []
    for run in runs:
        blocks += [_join_run(run, axis)] if along(run[0], axis) >= limits.hold else run
    return blocks


def tidy_layouts(layouts: Iterable[tuple[Part, int]], stack: int, limits: CutLimits = ANY_CUT) -> list[Part]:
    """All layouts (cut tree, copies) of a paper tidied, each in the way that takes less time beside the others."""
    layouts = list(layouts)
    ways = [[tidy(tree, halve, limits) for halve in (False, True)] for tree, _ in layouts]
    groups = [[groups_of(tree) for tree in trees] for trees in ways]

    def seconds(chosen: list[int]) -> float:
        pairs = zip(groups, chosen, layouts, strict=True)
        return seconds_of_groups(add_up((found[way], copies) for found, way, (_, copies) in pairs), stack)

    chosen = min(([way] * len(ways) for way in (0, 1)), key=seconds)
    least = seconds(chosen)
    for index, (plain, halved) in enumerate(ways):
        tried = [*chosen[:index], 1 - chosen[index], *chosen[index + 1 :]]
        if plain != halved and (time := seconds(tried)) < least:
            chosen, least = tried, time
    return [trees[way] for trees, way in zip(ways, chosen, strict=True)]


def row_of(part: Part, axis: str) -> list[Part]:
    """The strips that cuts along ``axis`` alone make of a part."""
    if part.axis != axis:
        return [part]
    return [strip for half in part.halves for strip in row_of(half, axis)]


def _join_run(run: list[Part], axis: str) -> Part:
    """Alike strips as one part, halved again and again as long as the halves are alike."""
    if len(run) == 1:
        return run[0]
    middle = (len(run) + 1) // 2
    return beside(_join_run(run[:middle], axis), _join_run(run[middle:], axis), axis)


def _comb(blocks: list[Part], spare: int, like: Part) -> Part:
    """Blocks cut off one after the other, what is left over last."""
    *blocks, rest = [*blocks, left_beside(like, spare, like.axis)] if spare else blocks
    for block in reversed(blocks):
        rest = beside(block, rest, like.axis)
    return rest
