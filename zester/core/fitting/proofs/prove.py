"""Finding the prices that prove a plan the cheapest, for ``proof.py`` to check.

The prices are those of the linear program over layouts, those of the areas and, where sheets have several prices, those
that rule out single mixes of sheets (``mixes.py``). The trimmer's limits are left out, as the check leaves them out.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import replace

from zester.core.fitting.jobs.job import PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.problem import Problem, beyond_pins, make_problem
from zester.core.fitting.proofs.proof import SEARCH, Proof, ProofError, check_proof
from zester.core.fitting.search.mixes import Mixes

ROUNDS = 200


def prove(paper: PaperJob, plan: PaperPlan, seconds: float) -> Proof:
    """A proof for a plan that is said to be proven: one by prices that was checked, or what it rests on instead."""
    proof = Proof(id=paper.id, cost=plan.cost, prices=())
    if paper.pool != "together" or plan.short:
        return replace(proof, rests_on=SEARCH)
    if not any(beyond_pins(paper)[1].values()):
        # Everything is pinned: there is nothing to choose.
        return proof
    end = time.monotonic() + seconds
    problem, worths = _prices(paper, plan, lambda: end - time.monotonic())
    lines = tuple(_by_name(problem, worth) for worth in worths)
    # Mostly the first line is enough.
    for some in (lines[:1], lines):
        found = replace(proof, prices=some)
        try:
            check_proof(paper, plan, found)
        except ProofError:
            continue
        return found
    return replace(proof, prices=lines, rests_on=SEARCH)


def _prices(paper: PaperJob, plan: PaperPlan, seconds_left: Callable[[], float]) -> tuple[Problem, list[Sequence[int]]]:
    """Whole-number prices of the sizes, those of the best bound first."""
    rest, wanted = beyond_pins(paper)
    problem = make_problem(rest, wanted)
    tables, pool = Tables(problem), ColumnPool(problem)
    relaxed = relax(problem, tables, pool, lambda _: None, seconds_left, rounds=ROUNDS, early=False)
    worths: list[Sequence[int]] = [relaxed.worth, [size.area for size in problem.sizes]]
    mixes = Mixes(problem, tables, pool, lambda *_: None, lambda: seconds_left() > 0)
    costs = {sheet.id: sheet.cost for sheet in paper.sheets}
    pinned = sum(costs[pin.sheet] * pin.copies for pin in paper.pins if pin.source == "sheet")
    cost = int((plan.cost - pinned) / problem.unit_cost)
    if mixes.apply and relaxed.bound < cost:
        mixes.exclude(relaxed.bound, cost)
        worths += [excluded.worth for excluded in mixes.excluded]
    return problem, worths


def _by_name(problem: Problem, worth: Sequence[int]) -> dict[str, int]:
    """The price of every piece, or matched row, by its id."""
    found: dict[str, int] = {}
    for size, pieces, price in zip(problem.sizes, problem.names, worth, strict=True):
        names = [size.row.id] if size.row else [piece.id for piece in pieces]
        found |= dict.fromkeys(names, price)
    return found
