"""What to buy when the shelf is short."""

from __future__ import annotations

from dataclasses import replace

from zester.core.fitting.engine import PAPER_SECONDS, fit_paper
from zester.core.fitting.job import ANY_BENCH, Bench, PaperJob


def sheets_to_buy(paper: PaperJob, bench: Bench = ANY_BENCH, seconds: float = PAPER_SECONDS) -> int:
    """How many more of the paper's first kind of sheet it takes to make every piece.

    The paper is fitted once more as if that sheet could be had without end; what it then uses beyond those there are
    must be bought. The number always suffices; it is the least if that fit is proven.
    """
    first, *others = paper.sheets
    if first.count is None:
        return 0
    # Sheets that are there anyway come first, so that no more than needed are bought.
    endless = replace(first, id=f"{first.id} to buy", count=None, cost=first.cost or 1)
    at_hand = [replace(sheet, cost=sheet.cost * 0) for sheet in (first, *others) if sheet.count]
    plan = fit_paper(replace(paper, sheets=(endless, *at_hand)), bench, lambda _: None, seconds)
    return sum(layout.copies for layout in plan.on_sheets if layout.sheet == endless.id)
