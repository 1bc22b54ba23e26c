"""A plan judged by the shelf as it is now: is there enough, what does it cost today, would another plan be cheaper.

A plan answers a need; what the shelf has changes beside it. So nothing here makes a plan old.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from zester.core.fitting.jobs.job import ON_SHELF, PaperJob
from zester.core.fitting.jobs.plan import Layout, PaperPlan


@dataclass(frozen=True)
class OnShelf:
    """One kind of sheet as the shelf has it now."""

    on_hand: int | None
    """How many there are; None: bought as needed."""
    price: Decimal | None
    """Of one; None if nobody knows."""


@dataclass(frozen=True)
class Judgement:
    """What the shelf means for a plan."""

    lacking: dict[str, int]
    """How many sheets of a kind, by its id, are not there; only those that lack."""
    cost: Decimal | None
    """What its sheets cost at today's prices; None where a price is missing."""

    @property
    def short(self) -> int:
        """How many sheets are not there in all."""
        return sum(self.lacking.values())


def used_sheets(plan: PaperPlan) -> dict[str, int]:
    """How many sheets of each kind, by its id, a plan opens; those on the shelf of a size with those to be bought."""
    used: Counter[str] = Counter()
    for layout in plan.on_sheets:
        used[layout.sheet] += layout.copies
    return on_shelf_too(used)


def on_shelf_too(counts: Mapping[str, int]) -> dict[str, int]:
    """Counts by a sheet's id, those on the shelf of a size together with those to be bought."""
    found: Counter[str] = Counter()
    for name, count in counts.items():
        found[name.removesuffix(ON_SHELF)] += count
    return dict(found)


def full_cost(job: PaperJob, plan: PaperPlan) -> Decimal:
    """What the sheets of a plan cost if all were bought: what lies on the shelf of several sizes counts less in it."""
    prices = {sheet.id: sheet.price for sheet in job.sheets}
    return sum((prices[layout.sheet] * layout.copies for layout in plan.on_sheets), Decimal(0))


def judge(used: Mapping[str, int], shelf: Mapping[str, OnShelf]) -> Judgement:
    """Judge a plan that opens so many sheets of each kind; a kind the shelf does not know is not there at all."""
    gone = OnShelf(0, None)
    lacking: dict[str, int] = {}
    cost: Decimal | None = Decimal(0)
    for sheet, count in used.items():
        there = shelf.get(sheet, gone)
        if there.on_hand is not None and there.on_hand < count:
            lacking[sheet] = count - there.on_hand
        cost = None if cost is None or there.price is None else cost + there.price * count
    return Judgement(lacking, cost)


def cheapest(plans: Sequence[Mapping[str, int]], shelf: Mapping[str, OnShelf]) -> int | None:
    """Which of several plans for one need, each as the sheets it opens, costs least today; None without all prices."""
    costs = [judge(used, shelf).cost for used in plans]
    known = [(cost, number) for number, cost in enumerate(costs) if cost is not None]
    return min(known)[1] if known and len(known) == len(costs) else None


def missing_pieces(job: PaperJob, plan: PaperPlan, lacking: Mapping[str, int]) -> dict[str, int]:
    """Which pieces, by id, are not made if so many of the plan's sheets, by kind, are not there; empty if all are.

    The sheets that give fewest pieces are the ones left out. A shape out of a hidden middle needs its host, what is cut
    up at home the portion it is part of.
    """
    left_out = dict(lacking)
    made: Counter[str] = Counter()
    portions = 0
    for layout in sorted(plan.on_sheets, key=lambda each: len(each.parts)):
        name = layout.sheet.removesuffix(ON_SHELF)
        dropped = min(left_out.get(name, 0), layout.copies)
        left_out[name] = left_out.get(name, 0) - dropped
        _count(made, layout, layout.copies - dropped)
        portions += (layout.copies - dropped) * sum(named.portion for named in layout.parts)
    for layout in plan.layouts:
        if layout.source == "window":
            _count(made, layout, min(layout.copies, made[layout.sheet]))
        elif layout.source == "portion":
            there = min(layout.copies, portions)
            _count(made, layout, there)
            portions -= there
    wanted = {piece.id: piece.count for piece in job.pieces if not piece.filler}
    return {piece: count - made[piece] for piece, count in wanted.items() if made[piece] < count}


def _count(made: Counter[str], layout: Layout, copies: int) -> None:
    for named in layout.parts:
        if named.piece:
            made[named.piece] += copies
