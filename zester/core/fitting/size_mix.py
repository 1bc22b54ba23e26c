"""A paper that comes in several sizes, with what lies on the shelf of each: first every size alone, then a mix.

one size alone  --fewest--> n sheets --what is there first--> n there, or all that are there and the rest bought
all sizes       --cheapest mix, in the time that is left--+
                                                          +--> the cheaper

Sheets of one size make a small program that is solved and proven quickly; the mix of several, weighed by prices that
differ tenfold, is not. Most evenings one size is enough, and then that it is the cheapest follows from the areas.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal

from zester.core.fitting.engine import Judge, fit_front, fit_paper
from zester.core.fitting.jobs.job import ON_SHELF, Bench, PaperJob, Sheet
from zester.core.fitting.jobs.plan import Layout, PaperPlan

# What of the time goes into the sizes by themselves, and the least for each; less than this is no time for a mix.
_ALONE = 0.5
_LEAST = 0.05
_FOR_A_MIX = 0.4
# What looking for fewer minutes has of the time at the least.
_EASING = 0.7


def fit_sizes(
    paper: PaperJob,
    bench: Bench,
    tell: Callable[[str], None],
    seconds: float,
    judge: Judge | None = None,
    alone: frozenset[str] = frozenset(),
) -> PaperPlan:
    """Fit a paper whose sizes and stock there may be several of. Parameters and errors are those of ``fit_paper``.

    ``alone``: the sizes, by id, that are tried by themselves where there is little time; all of them where it is empty
    or a piece fits none of these.
    """
    sizes = [sheet for sheet in paper.sheets if not (sheet.is_offcut or sheet.is_on_shelf)]
    # Of a size of which there are only so many nobody can make all.
    counted = any(sheet.count is not None for sheet in sizes)
    if len(sizes) == 1 or paper.pool != "together" or paper.pins or counted:
        return fit_paper(paper, bench, tell, seconds, judge)
    end = time.monotonic() + seconds
    share = max(_LEAST, seconds * _ALONE / len(sizes))
    found: dict[Sheet, PaperPlan] = {}
    for tried in ([size for size in sizes if size.id in alone], sizes):
        found = found or {size: plan for size in tried if (plan := _alone(paper, size, bench, tell, share))}
    size = min(found, key=lambda each: _rank(found[each]), default=None)
    best = found[size] if size else None
    left = end - time.monotonic()
    if size and best and best.proven and judge:
        left = max(left, seconds * _EASING)
        # Which size it is is settled; what time there is goes into fewer minutes.
        eased = _alone(paper, size, bench, tell, left, judge)
        return _with_bound(eased, best.bound) if eased and _rank(eased) == _rank(best) else best
    if best is None or (not best.proven and left >= _FOR_A_MIX):
        mixed = fit_paper(paper, bench, tell, max(_FOR_A_MIX, left), judge)
        best = _with_bound(min((mixed, best), key=_rank) if best else mixed, mixed.bound)
    return best


def sizes_front(
    paper: PaperJob, bench: Bench, tell: Callable[[str], None], seconds: float, judge: Judge, best: PaperPlan
) -> list[tuple[PaperPlan, float]]:
    """Plans of which none is beaten in both cost and seconds, from the sizes and the offcuts that the best one takes.

    Parameters and errors are those of ``fit_front``; ``best`` is the thriftiest plan, whose bound holds for all.
    """
    used = Counter({layout.sheet: 0 for layout in best.on_sheets})
    for layout in best.on_sheets:
        used[layout.sheet] += layout.copies
    offcuts = tuple(replace(s, count=used[s.id]) for s in paper.sheets if s.is_offcut and used[s.id])
    bought = tuple(sheet for sheet in paper.sheets if not sheet.is_offcut)
    sizes = [s for s in bought if not s.is_on_shelf and (used[s.id] or used[s.id + ON_SHELF])]
    if len(bought) > 1 and len(sizes) == 1 and sizes[0].count is None:
        found = fit_front(_only(paper, sizes[0], offcuts), bench, tell, seconds, judge)
        found = [(_shared_out(paper, sizes[0], plan), taken) for plan, taken in found]
    else:
        found = fit_front(replace(paper, sheets=(*bought, *offcuts)), bench, tell, seconds, judge)
    return [(_with_bound(plan, best.bound), taken) for plan, taken in found]


def _rank(plan: PaperPlan) -> tuple[int, Decimal]:
    return sum(count for _, count in plan.short), plan.cost


def _with_bound(plan: PaperPlan, bound: Decimal) -> PaperPlan:
    """The plan with a bound that holds for all sizes, if that is the better one."""
    bound = min(plan.cost, max(plan.bound, bound)) if not plan.short else plan.bound
    return replace(plan, bound=bound, proven=not plan.short and bound >= plan.cost)


def _alone(
    paper: PaperJob,
    size: Sheet,
    bench: Bench,
    tell: Callable[[str], None],
    seconds: float,
    judge: Judge | None = None,
) -> PaperPlan | None:
    """The plan from one size and the offcuts, what lies on the shelf first; None if a piece does not fit the size."""
    offcuts = tuple(sheet for sheet in paper.sheets if sheet.is_offcut)
    if any(not piece.filler and not piece.fits(size) for piece in paper.pieces):
        return None
    tell(f"from {size.id} alone")
    return _shared_out(paper, size, fit_paper(_only(paper, size, offcuts), bench, tell, seconds, judge))


def _only(paper: PaperJob, size: Sheet, offcuts: tuple[Sheet, ...]) -> PaperJob:
    """The paper from one size, as many as are needed, and these offcuts."""
    return replace(paper, sheets=(replace(size, count=None, cost=Decimal(1)), *offcuts))


def _shared_out(paper: PaperJob, size: Sheet, plan: PaperPlan) -> PaperPlan:
    """A plan from one size with what lies on the shelf taken first."""
    there = next((s.count or 0 for s in paper.sheets if s.id == size.id + ON_SHELF), 0)
    layouts = _from_the_shelf(plan.layouts, size.id, there)
    prices = {sheet.id: sheet.cost for sheet in paper.sheets}
    cost = sum((prices[lay.sheet] * lay.copies for lay in layouts if lay.source == "sheet"), Decimal(0))
    proven = plan.proven and _nothing_cheaper(paper, size, cost)
    return replace(plan, layouts=layouts, cost=cost, bound=cost if proven else Decimal(0), proven=proven)


def _from_the_shelf(layouts: tuple[Layout, ...], size: str, there: int) -> tuple[Layout, ...]:
    """The layouts with so many sheets taken from the shelf, the rest bought."""
    out = []
    for layout in layouts:
        if layout.source != "sheet" or layout.sheet != size:
            out.append(layout)
            continue
        lying = min(there, layout.copies)
        there -= lying
        out += [replace(layout, sheet=size + ON_SHELF, copies=lying)] if lying else []
        out += [replace(layout, copies=layout.copies - lying)] if layout.copies > lying else []
    return tuple(out)


def _nothing_cheaper(paper: PaperJob, size: Sheet, cost: Decimal) -> bool:
    """Whether no plan with any other sheet costs less than the fewest of one size, by the areas alone.

    A plan with another sheet pays for one at least; all others together cover the rest of the area at no less than the
    cheapest price for an area there is.
    """
    others = [sheet for sheet in paper.sheets if not sheet.is_offcut and sheet.id.removesuffix(ON_SHELF) != size.id]
    mine = [sheet for sheet in paper.sheets if sheet.id.removesuffix(ON_SHELF) == size.id]
    # What may come out of hidden middles may cost nothing.
    pieces = [piece for piece in paper.pieces if not (piece.filler or piece.from_window)]
    wanted = sum(piece.width * piece.height * piece.count for piece in pieces)
    wanted -= sum(sheet.width * sheet.height * (sheet.count or 0) for sheet in paper.sheets if sheet.is_offcut)
    rates = [sheet.cost / (sheet.width * sheet.height) for sheet in (*others, *mine)]
    return all(other.cost + max(0, wanted - other.width * other.height) * min(rates) >= cost for other in others)
