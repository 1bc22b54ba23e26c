"""What a plan leaves that is worth keeping, as it lies on the sheets it comes from."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.fitting.jobs.job import KeepRule, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.jobs.summary import source_size


@dataclass(frozen=True, kw_only=True)
class LeftOver:
    """Offcuts of one size, as they lie on the sheet they come from."""

    width: int
    """Ticks."""
    height: int
    """Ticks."""
    up: str
    """The edge at which the top of the pattern lies."""
    count: int
    """How many."""


def left_over(job: PaperJob, plan: PaperPlan, keep: KeepRule) -> list[LeftOver]:
    """The offcuts of a plan that are worth keeping, the largest first.

    Of a paper whose pieces may lie any way round those of one size count together, however they lie.
    """
    ups = {sheet.id: sheet.up for sheet in job.sheets}
    free = all(piece.turn for piece in job.pieces)
    found: Counter[tuple[int, int, str]] = Counter()
    for layout in plan.on_sheets:
        for part in lay_parts(layout, *source_size(job, plan, layout)):
            if part.offcut and keep.keeps(part.width, part.height):
                shorter, longer = sorted((part.width, part.height))
                lies = (shorter, longer, "top") if free else (part.width, part.height, ups[layout.sheet])
                found[lies] += layout.copies
    rows = [LeftOver(width=w, height=h, up=up, count=count) for (w, h, up), count in found.items()]
    return sorted(rows, key=lambda each: (-each.width * each.height, each.width))
