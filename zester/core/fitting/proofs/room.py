"""How much room a plan that is not proven leaves: what a plan of a sheet fewer could lose in all.

The linear program over sheets is a mix that no whole plan can be cheaper than. A plan of a sheet fewer costs so much,
and what it costs beyond the mix is all that it may lose, over all its sheets together. Where that is next to nothing
such a plan is rare, though nothing proves that there is none.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from decimal import ROUND_UP, Decimal

from zester.core.fitting.jobs.job import Bench, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.problem import make_problem

SECONDS = 8.0
# With so much of a sheet it is worth looking for longer.
WORTH = Decimal("0.1")


def room_of(
    paper: PaperJob, bench: Bench, plan: PaperPlan, tell: Callable[[str], None] = lambda _: None
) -> Decimal | None:
    """What a plan of a sheet fewer could lose in all, in sheets, rounded up to hundredths.

    None where that cannot be said: a proven plan, one that is short, sheets of several prices, pinned layouts, paper
    that is handed out whole, or a linear program that takes too long. ``tell`` hears a few words now and then; it may
    raise to stop.
    """
    prices = {sheet.cost for sheet in paper.sheets if sheet.cost}
    if plan.proven or plan.short or len(prices) != 1 or paper.pool != "together" or paper.pins:
        return None
    problem, until = make_problem(paper, limits=bench.limits), time.monotonic() + SECONDS
    pool = ColumnPool(problem)
    relaxed = relax(
        problem,
        Tables(problem),
        pool,
        lambda _: tell("how much room there is"),
        lambda: until - time.monotonic(),
        early=False,
    )
    if not relaxed.settled:
        return None
    spent = (
        amount * problem.costs[column.sheet] for amount, column in zip(relaxed.amounts, pool.columns, strict=False)
    )
    price = max(prices)
    mix = Decimal(sum(spent, 0.0)) * problem.unit_cost / price
    return max(Decimal(0), plan.cost / price - 1 - mix).quantize(Decimal("0.01"), ROUND_UP)
