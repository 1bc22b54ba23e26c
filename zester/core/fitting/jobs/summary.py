"""What a paper's plan comes to: yield, offcuts kept and binned, the bound in words."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from zester.core.errors import sure
from zester.core.fitting.jobs.drawing import LaidPart, lay_parts
from zester.core.fitting.jobs.job import KeepRule, PaperJob
from zester.core.fitting.jobs.plan import Layout, PaperPlan


@dataclass(frozen=True)
class Offcut:
    """Offcuts of one size."""

    width: int
    """The shorter side, ticks."""
    height: int
    """The longer side, ticks."""
    count: int
    """How many."""
    kept: bool
    """Whether they are kept."""


@dataclass(frozen=True, kw_only=True)
class Summary:
    """What a plan comes to; the three shares add up to 1."""

    used: Fraction
    """The share of the opened sheets' area that becomes pieces."""
    kept: Fraction
    """The share kept as offcuts."""
    waste: Fraction
    """The share binned."""
    offcuts: tuple[Offcut, ...]
    """By size, those kept first."""
    made: dict[str, int]
    """How many of each piece, by id."""
    over: dict[str, int]
    """How many of them beyond need."""


def summarise(job: PaperJob, plan: PaperPlan, keep: KeepRule) -> Summary:
    """Add a paper's plan up."""
    made: Counter[str] = Counter()
    offcuts: Counter[tuple[int, int]] = Counter()
    used = opened = 0
    for layout in plan.layouts:
        width, height = source_size(job, plan, layout)
        opened += layout.copies * width * height * (layout.source == "sheet")
        for placed in lay_parts(layout, width, height):
            if placed.piece:
                made[placed.piece] += layout.copies
                # What comes out of a hidden middle is part of a piece already counted.
                used += layout.copies * placed.area * (layout.source != "window")
            elif placed.offcut and layout.source == "sheet":
                offcuts[_sides(placed)] += layout.copies
    kinds = [Offcut(*size, count, keep.keeps(*size)) for size, count in offcuts.items()]
    kinds.sort(key=lambda offcut: (not offcut.kept, -offcut.width * offcut.height))
    kept = sum(o.width * o.height * o.count for o in kinds if o.kept)
    wanted = {piece.id: piece.count for piece in job.pieces if not piece.filler}
    over = {piece: made[piece] - wanted[piece] for piece in wanted if made[piece] > wanted[piece]}
    whole = max(opened, 1)
    return Summary(
        used=Fraction(used, whole),
        kept=Fraction(kept, whole),
        waste=Fraction(opened - used - kept, whole),
        offcuts=tuple(kinds),
        made=dict(made),
        over=over,
    )


def source_size(job: PaperJob, plan: PaperPlan, layout: Layout) -> tuple[int, int]:
    """Width and height of what a layout is cut from: a sheet, a hidden middle or a portion."""
    if layout.source == "portion":
        return sure(plan.portion)
    if layout.source == "window":
        window = sure(next(piece.window for piece in job.pieces if piece.id == layout.sheet))
        return window.width, window.height
    sheet = next(sheet for sheet in job.sheets if sheet.id == layout.sheet)
    return sheet.width, sheet.height


def _sides(placed: LaidPart) -> tuple[int, int]:
    return min(placed.width, placed.height), max(placed.width, placed.height)


def bound_in_words(job: PaperJob, plan: PaperPlan) -> str:
    """Why no plan can use less, or how far this one may be from the best, in plain words."""
    if plan.short:
        return "The shelf is short, so this is not the whole class."
    # Offcuts cost nothing; what is counted is what is opened new.
    prices = {sheet.cost for sheet in job.sheets if sheet.cost}
    one_price = len(prices) == 1
    cost = max(prices, default=0)
    new = plan.cost / cost if cost else 0
    if not one_price:
        if plan.proven:
            return f"Cheapest possible: it is proven that no plan costs less than {plan.bound:.2f}."
        return f"No plan can cost less than {plan.bound:.2f}; this one costs {plan.cost:.2f}."
    if plan.proven:
        return f"Fewest possible: {_why_fewest(int(new), plan.sheets)}."
    least = int(plan.bound / cost)
    needed = f"{_sheets(least)} {'is' if least == 1 else 'are'} needed"
    return f"At least {needed} for certain; this plan uses {int(new)}."


def room_in_words(room: Decimal) -> str:
    """What a plan of a sheet fewer could lose in all (in sheets), and whether there is likely one."""
    likely = "seldom there" if room < Decimal("0.1") else "possible" if room < Decimal("0.5") else "likely"
    return f"One sheet fewer could lose {room} of a sheet in all: {likely}."


def _why_fewest(new: int, all_sheets: int) -> str:
    if not new:
        return "no new sheet is opened"
    if new == 1:
        return "one sheet" if all_sheets == 1 else "these offcuts alone do not hold it all"
    more = "" if new == all_sheets else ", with these offcuts,"
    return f"it is proven that {_sheets(new - 1)}{more} cannot hold these pieces"


def _sheets(number: int) -> str:
    return f"{number} sheet{'' if number == 1 else 's'}"
