"""Minutes at the trimmer of the class family, where both plans use the same number of sheets: ``make bench``.

Against the plain plan (``plain.py``) in the plain order of its steps (``cutting/tests/plain.py``), neither of which is
searched for; and with its best order, so that one sees what the plan does and what the order does. By the pace that
docs/formats.md defines: 12 s for every setting of the rail, 8 s for every stack fetched, 4 s for every stroke.
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.families import class_job
from benchmarks.plain import plain_solution
from zester.core.cutting.steps import cutting_steps
from zester.core.cutting.tests.plain import plain_steps
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.naming import name_layouts
from zester.core.fitting.plan import PaperPlan
from zester.core.fitting.problem import make_problem
from zester.core.fitting.rounding import Depth

JOBS, SECONDS = 60, 10


def plain_plan(job) -> PaperPlan:
    """The plain solution as a plan."""
    paper = job.papers[0]
    problem = make_problem(paper)
    left = {piece.id: piece.count for piece in paper.pieces}
    chosen = [(0, tree, copies) for tree, copies in plain_solution(paper)]
    layouts = tuple(name_layouts(problem, chosen, left, job.bench.stack))
    cost = sum(layout.copies for layout in layouts) * paper.sheets[0].cost
    return PaperPlan(id=paper.id, cost=cost, bound=cost, proven=False, short=(), layouts=layouts)


def main(jobs: int = JOBS) -> None:
    """Fit every job, put its steps in order, add up."""
    sums = {"plain plan, plain order": 0, "plain plan, best order": 0, "proven plan": 0, "polished plan": 0}
    compared, sheets, slower = 0, 0, []
    for seed in range(jobs):
        job = class_job(seed)
        paper, bench = job.papers[0], job.bench
        plain = plain_plan(job)
        ours = {depth: fit_paper(paper, bench, lambda _: None, SECONDS, depth) for depth in (Depth.THRIFTY, Depth.FULL)}
        if {plan.sheets for plan in ours.values()} != {plain.sheets}:
            continue
        taken = {
            "plain plan, plain order": plain_steps(paper, plain, bench.stack).seconds(),
            "plain plan, best order": cutting_steps(paper, plain, bench).seconds(),
            "proven plan": cutting_steps(paper, ours[Depth.THRIFTY], bench).seconds(),
            "polished plan": cutting_steps(paper, ours[Depth.FULL], bench).seconds(),
        }
        compared, sheets = compared + 1, sheets + plain.sheets
        for name, seconds in taken.items():
            sums[name] += seconds
        if min(taken["proven plan"], taken["polished plan"]) > taken["plain plan, plain order"]:
            slower.append(seed)
    yardstick = sums["plain plan, plain order"]
    print(f"{compared} of {jobs} class jobs with equal sheets, {sheets} sheets")
    for name, seconds in sums.items():
        print(f"{name}: {seconds / 60:.0f} min, {seconds / yardstick:.3f}")
    print(f"slower than the plain plan: {', '.join(map(str, slower)) or 'none'}")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:2]))
