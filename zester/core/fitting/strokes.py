"""Counting the work at the trimmer.

Two parts are alike when they have the same size and everything below them is cut the same way; alike parts can be
stacked, over all layouts and copies. Cutting m alike parts takes ceil(m / stack) strokes.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from zester.core.fitting.parts import Part

Key = tuple


def part_key(part: Part, into: Counter | None = None, copies: int = 1) -> Key:
    """What makes parts alike; if ``into`` is given every cut part below is counted there, ``copies`` times."""
    if not part.axis:
        return (part.width, part.height)
    first, second = part_key(part.first, into, copies), part_key(part.second, into, copies)
    key = (part.width, part.height, part.axis, part.at, first, second)
    if into is not None:
        into[key] += copies
    return key


def count_strokes(layouts: Iterable[tuple[Part, int]], stack: int) -> int:
    """Strokes of layouts (cut tree, copies) of one paper with ``stack`` sheets cut at once."""
    return strokes_of(count_alike(layouts), stack)


def count_alike(layouts: Iterable[tuple[Part, int]]) -> Counter:
    """How many parts of each kind the layouts (cut tree, copies) cut."""
    alike: Counter = Counter()
    for tree, copies in layouts:
        part_key(tree, alike, copies)
    return alike


def strokes_of(alike: Counter, stack: int) -> int:
    """Strokes for so many parts of each kind."""
    return sum(-(-count // stack) for count in alike.values())
