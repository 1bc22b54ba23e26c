"""Cut trees: how one sheet is cut, part by part."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Protocol, TypeVar


@dataclass(frozen=True)
class CutLimits:
    """What the trimmer can do.

    Of the two parts a cut makes the wider one lies under the guard, so that one has to be wide enough to be held.
    """

    longest: int | None = None
    """The longest cut, ticks; None: any."""
    hold: int = 0
    """The narrowest strip that can be held, ticks."""

    def reaches(self, across: int) -> bool:
        """Whether the trimmer cuts right across a part of this side."""
        return self.longest is None or across <= self.longest


ANY_CUT = CutLimits()
Result = TypeVar("Result")


class Sides(Protocol):
    """Something with a length at each side, ticks."""

    @property
    def left(self) -> int: ...
    @property
    def top(self) -> int: ...
    @property
    def right(self) -> int: ...
    @property
    def bottom(self) -> int: ...


@dataclass(frozen=True, kw_only=True)
class Part:
    """A part of a sheet: cut in two, a piece of a size, or left over."""

    width: int
    """Ticks."""
    height: int
    """Ticks."""
    axis: str = ""
    """``x`` or ``y`` if it is cut."""
    at: int = 0
    """Where, ticks from its left or upper edge."""
    first: Part | None = None
    """The left or upper part of a cut one."""
    second: Part | None = None
    """The other part."""
    size: int | None = None
    """The index of its size, if it is a piece."""

    @property
    def halves(self) -> tuple[Part, Part]:
        """Both parts of a cut one; ValueError for one that is not cut."""
        if self.first is None or self.second is None:
            raise ValueError("a part that is not cut has no halves")
        return self.first, self.second

    @property
    def left_over(self) -> bool:
        """Whether nothing is made of it."""
        return not self.axis and self.size is None

    @cached_property
    def alike(self) -> tuple[Any, ...]:
        """What parts that are cut alike have in common."""
        if not self.axis:
            return self.width, self.height
        first, second = self.halves
        return self.width, self.height, self.axis, self.at, first.alike, second.alike

    @cached_property
    def known(self) -> dict[Any, Any]:
        """What was worked out of it alone (``remembered``)."""
        return {}


def remembered(part: Part, key: object, work: Callable[[], Result]) -> Result:
    """What comes of a part alone, worked out once: a search has the same parts again and again. Not to be changed."""
    if key not in part.known:
        part.known[key] = work()
    result: Result = part.known[key]
    return result


def cut_part(width: int, height: int, axis: str, at: int, first: Part, second: Part) -> Part:
    """A cut part, or simply a left-over one if neither side is of any use."""
    if first.left_over and second.left_over:
        return Part(width=width, height=height)
    return Part(width=width, height=height, axis=axis, at=at, first=first, second=second)


def _cut(size: tuple[int, int], axis: str, at: int, first: Part, second: Part) -> Part:
    return Part(width=size[0], height=size[1], axis=axis, at=at, first=first, second=second)


def walk(tree: Part) -> Iterator[Part]:
    """Every part of a cut tree, the whole first."""
    waiting = [tree]
    while waiting:
        part = waiting.pop()
        yield part
        if part.axis:
            waiting += reversed(part.halves)


def slots(tree: Part) -> list[Part]:
    """The pieces of a cut tree, upper left ones first."""
    return [part for part in walk(tree) if part.size is not None]


def sizes_of(tree: Part) -> list[int]:
    """The sizes of its pieces, upper left ones first."""
    return [part.size for part in walk(tree) if part.size is not None]


def count_sizes(tree: Part, sizes: int) -> tuple[int, ...]:
    """How many of each size a cut tree makes."""
    counts = [0] * sizes
    for size in sizes_of(tree):
        counts[size] += 1
    return tuple(counts)


def count_cuts(tree: Part) -> int:
    """How many cuts a cut tree has."""
    return sum(bool(part.axis) for part in walk(tree))


def without(tree: Part, surplus: dict[int, int]) -> Part:
    """The tree with so many slots of each size left over; ``surplus`` is counted down.

    The later slots go first: they lie lower and further right, where the other leftovers are.
    """
    if tree.axis:
        second = without(tree.halves[1], surplus)
        first = without(tree.halves[0], surplus)
        return cut_part(tree.width, tree.height, tree.axis, tree.at, first, second)
    if tree.size is not None and surplus.get(tree.size, 0) > 0:
        surplus[tree.size] -= 1
        return replace(tree, size=None)
    return tree


def along(part: Part, axis: str) -> int:
    """The side of a part along an axis, in ticks."""
    return part.width if axis == "x" else part.height


def left_beside(part: Part, length: int, axis: str) -> Part:
    """So much that is left over beside a part along an axis."""
    return Part(width=length, height=part.height) if axis == "x" else Part(width=part.width, height=length)


def beside(one: Part, other: Part, axis: str) -> Part:
    """A part that is cut into these two along an axis."""
    if axis == "x":
        return cut_part(one.width + other.width, one.height, axis, one.width, one, other)
    return cut_part(one.width, one.height + other.height, axis, one.height, one, other)


def renumber(tree: Part, numbers: dict[int, int]) -> Part:
    """The same cut tree with size k as ``numbers[k]``; sizes without a number are left over."""
    if tree.axis:
        first, second = (renumber(half, numbers) for half in tree.halves)
        return cut_part(tree.width, tree.height, tree.axis, tree.at, first, second)
    return Part(width=tree.width, height=tree.height, size=None if tree.size is None else numbers.get(tree.size))


def rotate(tree: Part, turns: int) -> Part:
    """The tree turned clockwise by so many quarter turns: what was on the left comes to lie on top."""
    for _ in range(turns % 4):
        tree = _quarter(tree)
    return tree


def _quarter(tree: Part) -> Part:
    if not tree.axis:
        return Part(width=tree.height, height=tree.width, size=tree.size)
    first, second = (_quarter(half) for half in tree.halves)
    size = tree.height, tree.width
    if tree.axis == "x":
        return _cut(size, "y", tree.at, first, second)
    return _cut(size, "x", tree.height - tree.at, second, first)


def can_be_cut(tree: Part, limits: CutLimits) -> bool:
    """Whether the trimmer can make every cut of a tree."""
    for part in walk(tree):
        if part.axis:
            side, across = (part.width, part.height) if part.axis == "x" else (part.height, part.width)
            if not limits.reaches(across) or max(part.at, side - part.at) < limits.hold:
                return False
    return True


def with_margins(tree: Part, margins: Sides, limits: CutLimits) -> Part:
    """The whole sheet around a tree of what lies within its ``margins`` (left, top, right and bottom ticks)."""
    width = tree.width + margins.left + margins.right
    if limits.reaches(width):
        return _around(
            _around(tree, "x", margins.left, margins.right, limits), "y", margins.top, margins.bottom, limits
        )
    return _around(_around(tree, "y", margins.top, margins.bottom, limits), "x", margins.left, margins.right, limits)


def _around(tree: Part, axis: str, before: int, after: int, limits: CutLimits) -> Part:
    """The tree with a strip more before and after it along an axis."""
    if not before and not after:
        return tree
    across = tree.height if axis == "x" else tree.width
    if not limits.reaches(across) and tree.axis and tree.axis != axis:
        # Too long to be trimmed as one: its parts are trimmed one by one.
        first, second = (_around(side, axis, before, after, limits) for side in tree.halves)
        width = tree.width + (before + after if axis == "x" else 0)
        height = tree.height + (before + after if axis == "y" else 0)
        return Part(width=width, height=height, axis=tree.axis, at=tree.at, first=first, second=second)
    body = _longer(tree, axis, after) if after else tree
    if not before:
        return body
    side = body.width if axis == "x" else body.height
    strip = Part(width=before, height=body.height) if axis == "x" else Part(width=body.width, height=before)
    whole = (before + side, body.height) if axis == "x" else (body.width, before + side)
    return _cut(whole, axis, before, strip, body)


def _longer(tree: Part, axis: str, more: int) -> Part:
    """The tree with a strip more at its far end, together with the leftover that lies there, if one does."""
    size = (tree.width + more, tree.height) if axis == "x" else (tree.width, tree.height + more)
    if tree.left_over:
        return Part(width=size[0], height=size[1])
    last = tree
    while last.axis == axis:
        last = last.halves[1]
    if tree.axis == axis and last.left_over:
        return _cut(size, axis, tree.at, tree.halves[0], _longer(tree.halves[1], axis, more))
    strip = Part(width=more, height=tree.height) if axis == "x" else Part(width=tree.width, height=more)
    return _cut(size, axis, tree.width if axis == "x" else tree.height, tree, strip)


def grid_tree(width: int, height: int, size: int, across: int, down: int, limits: CutLimits = ANY_CUT) -> Part:
    """A part filled with a plain grid of one size that lies ``across`` × ``down`` ticks."""
    columns, rows = width // across, height // down
    strip = Part(width=across, height=down, size=size)
    for count in range(2, columns + 1):
        strip = Part(
            width=count * across,
            height=down,
            axis="x",
            at=across,
            first=Part(width=across, height=down, size=size),
            second=strip,
        )
    block = strip
    for count in range(2, rows + 1):
        block = Part(width=strip.width, height=count * down, axis="y", at=down, first=strip, second=block)
    return peel(width, height, block, limits)


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
    first, second = (_needed(half, sizes) for half in tree.halves)
    if tree.axis == "x":
        return first[0] + second[0], max(first[1], second[1])
    return max(first[0], second[0]), first[1] + second[1]


def _rebuild(tree: Part, width: int, height: int, sizes: Sequence[tuple[int, int]]) -> Part:
    wide, high = _needed(tree, sizes)
    if not wide:
        return Part(width=width, height=height)
    if tree.size is not None:
        return peel(width, height, Part(width=wide, height=high, size=tree.size))
    first, second = (_needed(half, sizes) for half in tree.halves)
    one, other = tree.halves
    if not first[0] or not second[0]:
        return _rebuild(other if not first[0] else one, width, height, sizes)
    if tree.axis == "x":
        at = first[0]
        sides = _rebuild(one, at, high, sizes), _rebuild(other, wide - at, high, sizes)
    else:
        at = first[1]
        sides = _rebuild(one, wide, at, sizes), _rebuild(other, wide, high - at, sizes)
    return peel(width, height, cut_part(wide, high, tree.axis, at, *sides))


def peel(width: int, height: int, inner: Part, limits: CutLimits = ANY_CUT) -> Part:
    """The part width × height with ``inner`` in its upper left corner and the rest cut off, the larger strip whole.

    +-------+---+     +-------+---+
    | inner |   |     | inner |   |     The first cut is the one the trimmer can make, if it cannot make both.
    +-------+   |  or +-------+---+
    |       |   |     |           |
    +-------+---+     +-----------+
    """
    strip_right, strip_below = width - inner.width, height - inner.height
    across_first = strip_right * height >= strip_below * width
    if not limits.reaches(height):
        across_first = False
    elif not limits.reaches(width):
        across_first = True
    if across_first:
        return _cut_right(width, _cut_below(height, inner))
    return _cut_below(height, _cut_right(width, inner))


def _cut_right(width: int, body: Part) -> Part:
    if body.width == width:
        return body
    return cut_part(width, body.height, "x", body.width, body, Part(width=width - body.width, height=body.height))


def _cut_below(height: int, body: Part) -> Part:
    if body.height == height:
        return body
    return cut_part(body.width, height, "y", body.height, body, Part(width=body.width, height=height - body.height))
