"""Offcuts first: the plan that opens the fewest new sheets, and none of the offcuts that save nothing.

without offcuts --plan--+
                        +--> the cheaper one; offcuts that can be left away are left away
with offcuts    --plan--+

The plan without them is what they are measured by: with them it never costs more.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Collection
from dataclasses import dataclass, replace
from decimal import Decimal

from zester.core.fitting.engine import Judge
from zester.core.fitting.jobs.job import ON_SHELF, Bench, PaperJob, Sheet
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.size_mix import fit_sizes

# What of the time goes into the plan without offcuts.
_WITHOUT = 0.45
# How long a plan may take that leaves some offcuts away: while somebody waits for the proof, and when nobody does.
_A_TRY, _A_LONG_TRY = 0.4, 2.0
# What looking for fewer minutes has of the time at the least.
_EASING = 0.7
# With less time than this, for a first plan, no offcut is left away once a plan is found.
_ENOUGH = 1.0


@dataclass(frozen=True)
class OffcutsFirst:
    """A plan and what the offcuts in it save."""

    plan: PaperPlan
    """The plan."""
    sheets: int
    """How many new sheets fewer it opens than the one without offcuts."""
    cost: Decimal
    """How much less it costs."""
    offcuts: int
    """How many offcuts it takes."""


def without_offcuts(paper: PaperJob) -> PaperJob:
    """The same from whole sheets alone; layouts pinned on offcuts are let go."""
    return _from(paper, tuple(sheet for sheet in paper.sheets if not sheet.is_offcut))


def bought_new(paper: PaperJob) -> PaperJob:
    """The same from sheets that are bought: nothing of it lies on the shelf."""
    return _from(paper, tuple(sheet for sheet in paper.sheets if not (sheet.is_offcut or sheet.is_on_shelf)))


def _from(paper: PaperJob, sheets: tuple[Sheet, ...]) -> PaperJob:
    names = {sheet.id for sheet in sheets}
    pins = tuple(pin for pin in paper.pins if pin.source != "sheet" or pin.sheet in names)
    return replace(paper, sheets=sheets, pins=pins)


def fit_offcuts_first(
    paper: PaperJob,
    bench: Bench,
    tell: Callable[[str], None],
    seconds: float,
    judge: Judge | None = None,
    before: Collection[str] = (),
) -> OffcutsFirst:
    """Fit a paper, its offcuts first. Parameters and errors are those of ``fit_sizes``.

    ``before``: the sizes, by id, that the plan before took. Where there is little time these are tried alone.
    """
    alone = frozenset(before) if seconds < _ENOUGH else frozenset[str]()
    if not any(sheet.is_offcut for sheet in paper.sheets):
        return OffcutsFirst(fit_sizes(paper, bench, tell, seconds, judge, alone), 0, Decimal(0), 0)
    end = time.monotonic() + seconds
    new = without_offcuts(paper)
    # Only measures: the one that is taken is fitted once more, with what time there is, for fewer minutes.
    plain = fit_sizes(new, bench, tell, seconds * _WITHOUT, alone=alone)
    # For a first plan the sizes that are best without offcuts will do.
    usual = frozenset[str]() if seconds >= _ENOUGH else frozenset(_sizes(plain))
    best = fit_sizes(paper, bench, tell, max(0.1, (end - time.monotonic()) / 2), alone=usual)
    if new.pins == paper.pins and not _better(best, plain):
        return OffcutsFirst(
            _as_for(paper, _eased(new, plain, bench, tell, end, seconds, judge), best), 0, Decimal(0), 0
        )
    chosen = paper
    if seconds >= _ENOUGH and new.pins == paper.pins:
        # The last try's time is for fewer minutes, where that is asked for.
        a_try = _A_LONG_TRY if judge else _A_TRY
        best, chosen = _fewer(paper, best, bench, tell, a_try, end - a_try)
    return _told(paper, _eased(chosen, best, bench, tell, end, seconds, judge), plain)


def _eased(
    paper: PaperJob,
    plan: PaperPlan,
    bench: Bench,
    tell: Callable[[str], None],
    end: float,
    seconds: float,
    judge: Judge | None,
) -> PaperPlan:
    """A plan for the same that is no dearer and takes fewer minutes, where that is asked for and there is time."""
    if judge is None:
        return plan
    # Fewer minutes have time of their own, however long the fewest sheets took.
    left = max(seconds * _EASING, end - time.monotonic())
    eased = fit_sizes(paper, bench, tell, left, judge)
    if (_missing(eased), eased.cost) != (_missing(plan), plan.cost):
        return plan if _better(plan, eased) else eased
    bound = min(plan.cost, max(plan.bound, eased.bound))
    return replace(eased, bound=bound, proven=plan.proven or eased.proven)


def _better(one: PaperPlan, other: PaperPlan) -> bool:
    return (_missing(one), one.cost) < (_missing(other), other.cost)


def _missing(plan: PaperPlan) -> int:
    return sum(count for _, count in plan.short)


def _as_for(paper: PaperJob, plain: PaperPlan, other: PaperPlan) -> PaperPlan:
    """The plan without offcuts as an answer where there are some: its proof holds only if that of the other does."""
    bound = min(plain.cost, other.bound) if other.proven or not other.short else Decimal(0)
    proven = not plain.short and bound >= plain.cost
    return replace(plain, bound=bound, proven=proven)


def _fewer(
    paper: PaperJob, best: PaperPlan, bench: Bench, tell: Callable[[str], None], a_try: float, until: float
) -> tuple[PaperPlan, PaperJob]:
    """A plan of the same cost that leaves away kinds of offcuts that save nothing, the largest first; its job."""
    used = _used(best)
    mine = [sheet for sheet in paper.sheets if sheet.is_offcut and sheet.id in used]
    kept = {sheet.id: used[sheet.id] for sheet in mine}
    for sheet in sorted(mine, key=lambda each: -each.width * each.height):
        if time.monotonic() + a_try > until:
            break
        tell("leaving offcuts for another time")
        fewer = replace(paper, sheets=_only(paper, kept | {sheet.id: 0}))
        plan = fit_sizes(fewer, bench, tell, a_try)
        if (_missing(plan), plan.cost) == (_missing(best), best.cost):
            best = replace(plan, bound=best.bound, proven=best.proven)
            kept = {name: count for name, count in _used(best).items() if name in kept}
    return best, replace(paper, sheets=_only(paper, kept))


def _sizes(plan: PaperPlan) -> set[str]:
    return {layout.sheet.removesuffix(ON_SHELF) for layout in plan.on_sheets}


def _only(paper: PaperJob, kept: dict[str, int]) -> tuple[Sheet, ...]:
    """New sheets, and so many of the offcuts."""
    return tuple(replace(s, count=kept.get(s.id, 0)) if s.is_offcut else s for s in paper.sheets)


def _used(plan: PaperPlan) -> dict[str, int]:
    used: dict[str, int] = {}
    for layout in plan.on_sheets:
        used[layout.sheet] = used.get(layout.sheet, 0) + layout.copies
    return used


def _told(paper: PaperJob, plan: PaperPlan, plain: PaperPlan) -> OffcutsFirst:
    names = {sheet.id for sheet in paper.sheets if sheet.is_offcut}
    taken = sum(count for name, count in _used(plan).items() if name in names)
    new = plan.sheets - taken
    return OffcutsFirst(plan, plain.sheets - new, plain.cost - plan.cost, taken)
