"""Replays a plan cut by cut and counts what it makes. Knows the job and the plan, and nothing of the solver.

part 0 = the sheet --cuts--> parts --names--> pieces --copies--> counts, sheets used, cost
"""

from __future__ import annotations

from collections import Counter
from decimal import Decimal

from zester.core.errors import PlanError
from zester.core.fitting.job import Job, PaperJob, Piece
from zester.core.fitting.plan import Layout, PaperPlan, Plan


def check_plan(job: Job, plan: Plan) -> None:
    """Raise PlanError unless the plan does what the job asks, cut by cut, and says truly what is short.

    Checked: every paper there once; every cut inside a part that is still whole; every named part exactly its piece,
    turned only if it may; sheets used not above those there are; pieces made plus missing at least those wanted; cost
    the sum of the sheets; bound not above cost; proven only if nothing is short and cost equals bound.
    """
    if [paper.id for paper in plan.papers] != [paper.id for paper in job.papers]:
        raise PlanError("the plan's papers are not the job's", "papers")
    for paper_job, paper_plan in zip(job.papers, plan.papers, strict=True):
        check_paper(paper_job, paper_plan)


def check_paper(job: PaperJob, plan: PaperPlan) -> None:
    """Check one paper; see ``check_plan``."""
    sheets = {sheet.id: sheet for sheet in job.sheets}
    pieces = {piece.id: piece for piece in job.pieces}
    used: Counter = Counter()
    made: Counter = Counter()
    for number, layout in enumerate(plan.layouts):
        where = f"{job.id}, layout {number + 1}"
        if layout.sheet not in sheets or layout.copies < 1:
            raise PlanError(f"{layout.copies} copies of sheet “{layout.sheet}”", where)
        sheet = sheets[layout.sheet]
        used[layout.sheet] += layout.copies
        sizes = replay(layout, sheet.width, sheet.height, where)
        for piece, count in _named(layout, sizes, pieces, where).items():
            made[piece] += count * layout.copies
    _check_counts(job, plan, made)
    _check_money(job, plan, used)


def replay(layout: Layout, width: int, height: int, where: str = "layout") -> dict[int, tuple[int, int]]:
    """Do the cuts on a sheet of this size; the sizes of the parts that are whole at the end, by their number."""
    whole = {0: (width, height)}
    number = 1
    for cut in layout.cuts:
        if cut.part not in whole:
            raise PlanError(f"part {cut.part} is not there to be cut", where)
        wide, high = whole.pop(cut.part)
        if cut.axis not in ("x", "y"):
            raise PlanError(f"“{cut.axis}” is no way to cut", where)
        if not 0 < cut.at < (wide if cut.axis == "x" else high):
            raise PlanError(f"a cut outside part {cut.part}", where)
        if cut.axis == "x":
            whole[number], whole[number + 1] = (cut.at, high), (wide - cut.at, high)
        else:
            whole[number], whole[number + 1] = (wide, cut.at), (wide, high - cut.at)
        number += 2
    return whole


def _named(layout: Layout, sizes: dict[int, tuple[int, int]], pieces: dict[str, Piece], where: str) -> Counter:
    made: Counter = Counter()
    seen = set()
    for named in layout.parts:
        if named.part not in sizes or named.part in seen:
            raise PlanError(f"part {named.part} is not there to be named", where)
        if named.piece not in pieces:
            raise PlanError(f"nobody asked for “{named.piece}”", where)
        piece = pieces[named.piece]
        if named.turned and not piece.turn:
            raise PlanError(f"“{piece.id}” may not be turned", where)
        size = (piece.height, piece.width) if named.turned else (piece.width, piece.height)
        if sizes[named.part] != size:
            raise PlanError(f"part {named.part} is not the size of “{piece.id}”", where)
        seen.add(named.part)
        made[named.piece] += 1
    return made


def _check_counts(job: PaperJob, plan: PaperPlan, made: Counter) -> None:
    missing = dict(plan.short)
    for piece in job.pieces:
        if made[piece.id] + missing.get(piece.id, 0) < piece.count:
            raise PlanError(f"“{piece.id}” is made {made[piece.id]} times, {piece.count} are wanted", job.id)
        if missing.get(piece.id, 0) > 0 and made[piece.id] + missing[piece.id] > piece.count:
            raise PlanError(f"“{piece.id}” is said to be missing but is made", job.id)


def _check_money(job: PaperJob, plan: PaperPlan, used: Counter) -> None:
    cost = Decimal(0)
    for sheet in job.sheets:
        if sheet.count is not None and used[sheet.id] > sheet.count:
            raise PlanError(f"{used[sheet.id]} sheets of “{sheet.id}” are used, there are {sheet.count}", job.id)
        cost += sheet.cost * used[sheet.id]
    if cost != plan.cost:
        raise PlanError(f"the sheets cost {cost}, the plan says {plan.cost}", job.id)
    if plan.bound > plan.cost and not plan.short:
        raise PlanError("the bound is above the cost", job.id)
    if plan.proven and (plan.short or plan.bound != plan.cost):
        raise PlanError("called proven without a proof", job.id)
