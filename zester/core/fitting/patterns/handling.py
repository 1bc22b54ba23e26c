"""What cutting layouts takes, estimated without putting the steps in order.

What is cut at one setting of the rail, from one size of part, is a *group*; groups alike are cut together, over all
layouts and copies, in stacks:

    +------+------+---+
    | 4    | 4    |   |   8 1/2 x 11, along x, at 4, twice      a stack fetched, two strokes, for every stack of sheets
    +------+------+---+

A group costs its stacks and strokes. The first stack of each counts half, since about every other time it is in the
hand still; a place of the rail counts a quarter more than one setting, since some are come back to. With the best order
of steps (``cutting/order.py``) plans of the class family took 1.0 to 1.05 times what this says.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from zester.core.fitting.parts import Part, along, remembered
from zester.core.pace import DEFAULT_PACE, Pace

IN_HAND = 0.5
AGAIN = 1.25


class Group(NamedTuple):
    """What is cut at one setting of the rail from parts of one size. Lengths are ticks."""

    side: int
    """The side that is measured."""
    other: int
    """The other side."""
    axis: str
    """``x`` or ``y``."""
    at: int
    """The place of the rail."""
    times: int
    """How often each part is cut there."""


def groups_of(tree: Part) -> Counter[Group]:
    """What is cut of one copy of a tree, by groups.

    The largest strips are cut off first; what is left over remains, or else a strip that may be a little off, best one
    whose length is needed once.
    """
    return remembered(tree, groups_of, lambda: _groups_of(tree))


def _groups_of(tree: Part) -> Counter[Group]:
    found: Counter[Group] = Counter()
    waiting = [tree]
    while waiting:
        part = waiting.pop()
        if not part.axis:
            continue
        strips = strips_of(part)
        waiting += strips
        side, other = (part.width, part.height) if part.axis == "x" else (part.height, part.width)
        for at, times in _cut_off(strips, part.axis):
            found[Group(side, other, part.axis, at, times)] += 1
            side -= at * times
    return found


def strips_of(part: Part) -> list[Part]:
    """What a cut part becomes along its axis: the first part of every cut, and what is left at last."""
    strips, rest = [], part
    while rest.axis == part.axis:
        first, rest = rest.halves
        strips.append(first)
    return [*strips, rest]


def slack(part: Part, axis: str) -> bool:
    """Whether a part may be a little off along an axis: nothing that counts is made of that side without measuring."""
    if not part.axis:
        return part.left_over
    some = any if part.axis == axis else all
    return remembered(part, (slack, axis), lambda: some(slack(strip, axis) for strip in strips_of(part)))


def _cut_off(strips: list[Part], axis: str) -> list[tuple[int, int]]:
    """The lengths that are measured, the largest first, and how often."""
    lengths = Counter(along(strip, axis) for strip in strips if not strip.left_over)
    in_order = sorted(lengths.items(), reverse=True)
    if any(strip.left_over for strip in strips):
        return in_order
    may_remain = {along(strip, axis) for strip in strips if slack(strip, axis)} or set(lengths)
    entries = [entry for entry in in_order if entry[0] in may_remain]
    stays = next((entry for entry in reversed(entries) if entry[1] == 1), entries[-1])
    place = in_order.index(stays)
    in_order[place : place + 1] = [(stays[0], stays[1] - 1)] if stays[1] > 1 else []
    return in_order


def group_seconds(group: Group, pace: Pace = DEFAULT_PACE) -> int:
    """What one stack of a group takes."""
    return pace.stack + pace.stroke * group.times


def seconds_of_groups(groups: Counter[Group], stack: int, pace: Pace = DEFAULT_PACE) -> float:
    """What so many parts of every group take, estimated."""
    stacks = sum(-(-count // stack) * group_seconds(group, pace) for group, count in groups.items())
    places = len({group.at for group in groups})
    return stacks - IN_HAND * pace.stack * len(groups) + AGAIN * pace.setting * places


def seconds_of_layouts(layouts: Iterable[tuple[Part, int]], stack: int, pace: Pace = DEFAULT_PACE) -> float:
    """What layouts (cut tree, copies) of one paper take, estimated."""
    return seconds_of_groups(add_up((groups_of(tree), copies) for tree, copies in layouts), stack, pace)


def add_up(groups: Iterable[tuple[Counter[Group], int]]) -> Counter[Group]:
    """The groups of several layouts with so many copies each."""
    found: Counter[Group] = Counter()
    for mine, copies in groups:
        for group, count in mine.items():
            found[group] += copies * count
    return found
