"""``fit(job)``: the whole way from a job to a checked plan."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from zester.core.fitting.check import check_plan
from zester.core.fitting.columns import Pool, Tables, relax
from zester.core.fitting.job import Job, PaperJob
from zester.core.fitting.naming import merge_alike, name_layouts
from zester.core.fitting.plan import Layout, PaperPlan, Plan
from zester.core.fitting.problem import Problem, make_problem
from zester.core.fitting.rounding import Answer, Rounding

PAPER_SECONDS = 8.0
DEEPEST = 20_000


@dataclass(frozen=True)
class Progress:
    """How far a fit is: papers done of all, the paper at work, a few words, and the papers' plans so far."""

    done: int
    papers: int
    paper: str
    words: str
    so_far: tuple[PaperPlan, ...]


Teller = Callable[[Progress], None]


def fit(job: Job, tell: Teller | None = None, seconds: float = PAPER_SECONDS) -> Plan:
    """Fit every paper of the job.

    Parameters
    ----------
    job : Job
    tell : callable, optional
        Called with a Progress now and then; may raise ``Cancelled`` to stop.
    seconds : float
        Time budget for one paper; the best plan so far is taken when it runs out.

    Returns
    -------
    Plan
        Replayed and checked against the job. Pieces that the sheets there are cannot make are listed as short.

    Raises
    ------
    PlanError
        If the plan fails its check (a defect of the solver; never a plan that is wrong).
    """
    # A row of very small pieces makes a cut tree as deep as the row is long.
    sys.setrecursionlimit(max(sys.getrecursionlimit(), DEEPEST))
    plans: list[PaperPlan] = []
    for paper in job.papers:

        def tell_words(words: str, paper: PaperJob = paper) -> None:
            if tell:
                tell(Progress(len(plans), len(job.papers), paper.id, words, tuple(plans)))

        tell_words("looking for layouts")
        plans.append(fit_paper(paper, job.stack, tell_words, seconds))
    plan = Plan(job.unit, tuple(plans))
    check_plan(job, plan)
    return plan


def fit_paper(paper: PaperJob, stack: int, tell: Callable[[str], None], seconds: float) -> PaperPlan:
    """Fit one paper within the time budget."""
    started = time.monotonic()
    wanted = {piece.id: piece.count for piece in paper.pieces}
    if all(sheet.count == 0 for sheet in paper.sheets):
        return PaperPlan(paper.id, Decimal(0), Decimal(0), False, tuple(wanted.items()), ())
    problem, answer, proven = _solve(paper, wanted, stack, tell, lambda: seconds - (time.monotonic() - started))
    chosen = [(column.sheet, column.tree, copies) for column, copies in answer.chosen]
    layouts = merge_alike(name_layouts(problem, chosen, wanted, stack))
    short = tuple((piece, missing) for piece, missing in wanted.items() if missing)
    cost = _cost(paper, layouts)
    if short:
        bound = _bound_of_made(paper, dict(short), tell)
        return PaperPlan(paper.id, cost, min(bound, cost), False, short, layouts)
    bound = proven * problem.unit_cost
    return PaperPlan(paper.id, cost, min(bound, cost), bound >= cost, (), layouts)


def _solve(
    paper: PaperJob,
    wanted: dict[str, int],
    stack: int,
    tell: Callable[[str], None],
    seconds_left: Callable[[], float],
) -> tuple[Problem, Answer, int]:
    problem = make_problem(paper, wanted)
    tables, pool = Tables(problem), Pool(problem)
    relaxed = relax(problem, tables, pool, lambda columns: tell(f"{columns} layouts compared"), seconds_left)
    rounding = Rounding(problem, tables, pool, relaxed, stack=stack, tell=tell, seconds_left=seconds_left)
    return problem, rounding.run(), rounding.bound


def _bound_of_made(paper: PaperJob, missing: dict[str, int], tell: Callable[[str], None]) -> Decimal:
    """A proven lower bound on the cost of making as many pieces as a short plan makes."""
    made = {piece.id: piece.count - missing.get(piece.id, 0) for piece in paper.pieces}
    if not any(made.values()):
        return Decimal(0)
    problem = make_problem(paper, made)
    relaxed = relax(problem, Tables(problem), Pool(problem), lambda _: tell("bound"), lambda: 1.0)
    return relaxed.bound * problem.unit_cost


def _cost(paper: PaperJob, layouts: tuple[Layout, ...]) -> Decimal:
    costs = {sheet.id: sheet.cost for sheet in paper.sheets}
    return sum((costs[layout.sheet] * layout.copies for layout in layouts), Decimal(0))
