"""Several jobs for one paper: the least sheets if all are planned as one, and which to cut first so that offcuts serve.

apart      each from its own sheets
together   one job of all pieces: never more sheets than apart
in turn    the first as if alone; the next with what the first leaves over that is worth keeping, and so on
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import permutations

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Row, Sheet
from zester.core.fitting.jobs.leftovers import left_over
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.offcuts import bought_new, fit_offcuts_first

A_FIT = 0.6
# Of more jobs than this only which is first is looked at, not every order.
_MOST_ORDERED = 3
Named = tuple[str, PaperJob, Bench]


@dataclass(frozen=True, kw_only=True)
class Order:
    """What planning several jobs for one paper together, or one after the other, saves."""

    apart: int
    """Sheets if each is planned alone."""
    together: int
    """Sheets if all are planned as one."""
    cost_apart: Decimal
    """What the first costs."""
    cost_together: Decimal
    """What the second costs."""
    order: tuple[str, ...]
    """The names in the order in which they are best cut."""
    in_turn: int
    """New sheets then."""

    @property
    def first(self) -> str:
        """Which is best cut first."""
        return self.order[0] if self.order else ""

    @property
    def saved(self) -> int:
        """Sheets saved by offcuts in that order."""
        return self.apart - self.in_turn


def best_order(jobs: Sequence[Named], tell: Callable[[str], None] = lambda _: None, seconds: float = A_FIT) -> Order:
    """Plan jobs for one paper, each with its name and bench, apart, together and in turn.

    Offcuts that lie on the shelf are left out: what is asked is what these jobs do for each other. All must come from
    the same sheets; pins are let go.
    """
    plain = [(name, replace(bought_new(job), pins=()), bench) for name, job, bench in jobs]
    alone = {name: _fit(job, bench, tell, seconds) for name, job, bench in plain}
    apart = sum(plan.sheets for plan in alone.values())
    cost = sum((plan.cost for plan in alone.values()), Decimal(0))
    joint = _fit(joined(plain), plain[0][2], tell, seconds * len(plain))
    together, joint_cost = joint.sheets, joint.cost
    if joint.short or joint_cost > cost:
        # The plans there are, side by side, are a plan for all.
        together, joint_cost = apart, cost
    best: tuple[int, tuple[str, ...]] = (apart, tuple(name for name, _, _ in plain))
    for order in _orders(plain):
        used = _in_turn(order, alone, tell, seconds)
        if used < best[0]:
            best = used, tuple(name for name, _, _ in order)
    return Order(
        apart=apart, together=together, cost_apart=cost, cost_together=joint_cost, order=best[1], in_turn=best[0]
    )


def joined(jobs: Sequence[Named]) -> PaperJob:
    """One job of the pieces of all, their names told apart by the number of their job."""
    first = jobs[0][1]
    pieces, rows = [], []
    for number, (_, job, _) in enumerate(jobs, start=1):
        pieces += [replace(piece, id=f"{number}:{piece.id}", each=None) for piece in job.pieces]
        rows += [
            Row(f"{number}:{row.id}", row.axis, tuple(f"{number}:{name}" for name in row.pieces)) for row in job.matched
        ]
    return replace(first, pieces=tuple(pieces), matched=tuple(rows), pool="together", people=1, pins=())


def _orders(jobs: Sequence[Named]) -> list[tuple[Named, ...]]:
    if len(jobs) <= _MOST_ORDERED:
        return list(permutations(jobs))
    return [(first, *(job for job in jobs if job is not first)) for first in jobs]


def _fit(job: PaperJob, bench: Bench, tell: Callable[[str], None], seconds: float) -> PaperPlan:
    return fit_paper(job, bench, tell, seconds)


def _in_turn(order: Sequence[Named], alone: dict[str, PaperPlan], tell: Callable[[str], None], seconds: float) -> int:
    """New sheets if they are cut in this order, each with what those before it leave over."""
    used, box = 0, list[Sheet]()
    for number, (name, job, bench) in enumerate(order):
        tell(f"{name} cut {'first' if not number else 'next'}")
        if box:
            offcuts = replace(job, sheets=(*job.sheets, *box))
            plan = fit_offcuts_first(offcuts, bench, tell, 2 * seconds).plan
        else:
            offcuts, plan = job, alone[name]
        taken: dict[str, int] = {}
        for layout in plan.on_sheets:
            taken[layout.sheet] = taken.get(layout.sheet, 0) + layout.copies
        used += plan.sheets - sum(taken.get(sheet.id, 0) for sheet in box)
        left = [(s, (s.count or 0) - taken.get(s.id, 0)) for s in box]
        box = [replace(sheet, count=count) for sheet, count in left if count > 0]
        box += _left(offcuts, plan, bench, number)
    return used


def _left(job: PaperJob, plan: PaperPlan, bench: Bench, number: int) -> list[Sheet]:
    """What a plan leaves over that is worth keeping, as sheets."""
    return [
        Sheet(
            id=f"left{number}-{k}", width=each.width, height=each.height, count=each.count, cost=Decimal(0), up=each.up
        )
        for k, each in enumerate(left_over(job, plan, bench.keep_rule))
    ]
