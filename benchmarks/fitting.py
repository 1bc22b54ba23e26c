"""The fitting measured on families of jobs, in one run: ``make bench``.

For every family: how many plans are proven the cheapest, the total cost over the total of the valid bounds, seconds a
paper, and whether any guillotine variant of rectpack ever does better (a proven plan cannot be beaten, so rectpack only
runs on the others). For the class family also the strokes against a plain first integer solution of the column program.
"""

from __future__ import annotations

import platform
import statistics
import sys
import time
from dataclasses import dataclass
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.families import FAMILIES, class_job
from zester.core.cutting.steps import cutting_steps
from zester.core.fitting.columns import Column, Pool, Tables, column_rows, count_sizes, make_problem, relax
from zester.core.fitting.engine import fit
from zester.core.fitting.job import Job
from zester.core.fitting.plan import PaperPlan
from zester.core.fitting.solver import whole_cover
from zester.core.fitting.strokes import count_strokes
from zester.core.fitting.summary import KeepRule
from zester.core.fitting.tests.test_engine import rectpack_sheets

STACK = 3
MOST_RECTANGLES = 2000


@dataclass
class PlainPool(Pool):
    """Columns with their trees as the knapsack gives them, untidied."""

    def add(self, sheet, tree):
        """As in Pool, but the tree stays as it is."""
        column = Column(sheet, count_sizes(tree, len(self.problem.sizes)), tree)
        if not any(column.counts) or (sheet, column.counts) in self._places:
            return None
        self._places[sheet, column.counts] = len(self.columns)
        self.columns.append(column)
        return column


def plain_strokes(job: Job) -> tuple[int, int]:
    """Strokes and sheets of the first integer solution over the columns of the linear program."""
    problem = make_problem(job.papers[0])
    tables, pool = Tables(problem), PlainPool(problem)
    relaxed = relax(problem, tables, pool, lambda _: None, lambda: 10.0)
    found = whole_cover(
        [float(problem.costs[column.sheet]) for column in pool.columns],
        [column_rows(problem, column) for column in pool.columns],
        problem.demands,
        [],
        good_enough=relaxed.bound,
        nodes=4000,
        seconds=5,
    )
    chosen = [(column.tree, n) for column, n in zip(pool.columns, found.amounts, strict=True) if n]
    return count_strokes(chosen, STACK), sum(n for _, n in chosen)


def beaten(job: Job, plan: PaperPlan) -> bool:
    """Whether a variant of rectpack needs fewer sheets; not asked of plans that are proven or too large for it."""
    paper = job.papers[0]
    too_large = sum(piece.count for piece in paper.pieces) > MOST_RECTANGLES
    if plan.proven or too_large or len(paper.sheets) > 1:
        return False
    return rectpack_sheets(paper) < plan.sheets


def main() -> None:
    """Measure the families named on the command line, or all."""
    print(f"{platform.machine()}, Python {platform.python_version()}\n")
    print("| family | jobs | proven | cost over bounds | beaten by rectpack | median s | worst s |")
    print("|---|---|---|---|---|---|---|")
    for family in sys.argv[1:] or FAMILIES:
        make, number = FAMILIES[family]
        times, plans, losses = [], [], 0
        for seed in range(number):
            job = make(seed)
            started = time.perf_counter()
            plan = fit(job).papers[0]
            times.append(time.perf_counter() - started)
            plans.append(plan)
            losses += beaten(job, plan)
        over = sum(p.cost for p in plans) / sum(p.bound for p in plans) - 1
        proven = sum(p.proven for p in plans)
        print(
            f"| {family} | {number} | {proven / number:.1%} | {float(over):.3%} | {losses} "
            f"| {statistics.median(times):.2f} | {max(times):.1f} |",
            flush=True,
        )
    plain = ours = compared = 0
    for seed in range(FAMILIES["class"][1]):
        job = class_job(seed)
        first, sheets = plain_strokes(job)
        plan = fit(job).papers[0]
        if sheets == plan.sheets:
            compared += 1
            plain += first
            ours += cutting_steps(job.papers[0], plan, STACK, KeepRule(1, 1)).strokes
    fewer = f"{1 - ours / plain:.1%} fewer"
    print(f"\nStrokes, {compared} class jobs with equal sheets: {ours} against {plain} plain, {fewer}.")


if __name__ == "__main__":
    main()
