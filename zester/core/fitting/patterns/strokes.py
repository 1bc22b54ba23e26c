"""Counting the work at the trimmer.

Two parts are alike when they have the same size and everything below them is cut the same way; alike parts can be
stacked, over all layouts and copies. Cutting m alike parts takes ceil(m / stack) strokes.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any

from zester.core.fitting.jobs.job import PaperJob
from zester.core.fitting.jobs.plan import Layout, PaperPlan
from zester.core.fitting.parts import Part
from zester.core.geometry import Box, split

Key = tuple[Any, ...]


def part_key(part: Part, into: Counter[Key] | None = None, copies: int = 1) -> Key:
    """What makes parts alike; if ``into`` is given every cut part below is counted there, ``copies`` times."""
    if into is None or not part.axis:
        return part.alike
    first, second = (part_key(half, into, copies) for half in part.halves)
    key = (part.width, part.height, part.axis, part.at, first, second)
    into[key] += copies
    return key


def count_strokes(layouts: Iterable[tuple[Part, int]], stack: int) -> int:
    """Strokes of layouts (cut tree, copies) of one paper with ``stack`` sheets cut at once."""
    return strokes_of(count_alike(layouts), stack)


def count_alike(layouts: Iterable[tuple[Part, int]]) -> Counter[Key]:
    """How many parts of each kind the layouts (cut tree, copies) cut."""
    alike: Counter[Key] = Counter()
    for tree, copies in layouts:
        part_key(tree, alike, copies)
    return alike


def strokes_of(alike: Counter[Key], stack: int) -> int:
    """Strokes for so many parts of each kind."""
    return sum(-(-count // stack) for count in alike.values())


def plan_strokes(job: PaperJob, plan: PaperPlan, stack: int) -> int:
    """The strokes of a paper's plan with ``stack`` sheets cut at once, as docs/formats.md defines them."""
    sheets = {sheet.id: sheet for sheet in job.sheets}
    trees = [
        (_tree(layout, sheets[layout.sheet].width, sheets[layout.sheet].height), layout.copies)
        for layout in plan.on_sheets
    ]
    return count_strokes(trees, stack)


def _tree(layout: Layout, width: int, height: int) -> Part:
    """A layout's cuts as a tree; whose piece a part is does not matter here."""
    cuts = {cut.part: (cut, 2 * index + 1) for index, cut in enumerate(layout.cuts)}

    def build(part: int, box: Box) -> Part:
        if part not in cuts:
            return Part(width=box[2], height=box[3])
        cut, child = cuts[part]
        one, other = split(box, cut.axis, cut.at)
        first, second = build(child, one), build(child + 1, other)
        return Part(width=box[2], height=box[3], axis=cut.axis, at=cut.at, first=first, second=second)

    return build(0, (0, 0, width, height))
