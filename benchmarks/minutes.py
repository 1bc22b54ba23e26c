"""Minutes at the trimmer of the class family, and what each more sheet saves: ``make bench``.

Against the plain plan (``plain.py``) in the plain order of its steps (``cutting/tests/plain.py``), neither of which is
searched for nor depends on a clock; and with its best order, so that one sees what the plan does and what the order
does. By the pace that docs/formats.md defines: 12 s for every setting of the rail, 8 s for every stack fetched, 4 s for
every stroke. Beside it stands the lower bound of ``least_minutes.py``; for small jobs the fewest there are, by the
integer program of ``fewest_minutes.py``.
"""

from __future__ import annotations

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.families import class_job, mats_job
from benchmarks.fewest_minutes import fewest_seconds
from benchmarks.plain import plain_solution
from zester.core.cutting.steps import cutting_steps, minutes_judge
from zester.core.cutting.tests.plain import plain_steps
from zester.core.fitting.engine import fit_front, fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import PaperJob
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.minutes.least_minutes import least_seconds
from zester.core.fitting.parts import Part
from zester.core.fitting.patterns.columns import Tables
from zester.core.fitting.patterns.problem import Problem, make_problem
from zester.core.fitting.search.naming import name_layouts

JOBS, SECONDS, FRONT_SECONDS = 60, 9.5, 28.5
# Jobs small enough for an integer program over every way to cut them, and how long that may take.
SMALL, SMALL_SECONDS = 24, 30.0
SHARES = (0.0, 0.01, 0.02, 0.04, 0.08)
CORES = 2


@dataclass(frozen=True, kw_only=True)
class Measured:
    """One job: seconds at the trimmer, by sheets where that matters."""

    seed: int
    plain: tuple[int, int]
    """Sheets of the plain plan, and its seconds in the plain order."""
    ordered: int
    """The plain plan in its best order."""
    proven: int
    """The thrifty plan in its best order."""
    polished: tuple[int, int]
    """Sheets and seconds."""
    front: dict[int, int]
    """Seconds by sheets, the polished plan among them."""
    least: int
    """The bound at the sheets of the thrifty plan."""
    took: float
    """How long polishing took, with the fit before it."""


def plain_plan(job) -> PaperPlan:
    """The plain solution as a plan."""
    paper = job.papers[0]
    chosen = [(0, tree, copies) for tree, copies in plain_solution(paper)]
    return plan_of(paper, make_problem(paper), chosen, job.bench.stack)


def plan_of(paper: PaperJob, problem: Problem, chosen: list[tuple[int, Part, int]], stack: int) -> PaperPlan:
    """Cut trees and copies as a plan."""
    left = {piece.id: piece.count for piece in paper.pieces}
    layouts = tuple(name_layouts(problem, chosen, left, stack))
    cost = sum(layout.copies for layout in layouts) * paper.sheets[0].cost
    return PaperPlan(id=paper.id, cost=cost, bound=cost, proven=False, short=(), layouts=layouts)


def measure(seed: int) -> Measured:
    """Fit one job in every way."""
    job = class_job(seed)
    paper, bench, judge = job.papers[0], job.bench, minutes_judge()
    plain, thrifty = plain_plan(job), fit_paper(paper, bench, lambda _: None, SECONDS)
    started = time.monotonic()
    polished = fit_paper(paper, bench, lambda _: None, SECONDS, judge)
    took = time.monotonic() - started
    front = {plan.sheets: int(s) for plan, s in fit_front(paper, bench, lambda _: None, FRONT_SECONDS, judge)}
    best = judge(paper, polished, bench)
    front[polished.sheets] = min(best, front.get(polished.sheets, best))
    problem = make_problem(paper)
    return Measured(
        seed=seed,
        plain=(plain.sheets, plain_steps(paper, plain, bench.stack).seconds()),
        ordered=cutting_steps(paper, plain, bench).seconds(),
        proven=cutting_steps(paper, thrifty, bench).seconds(),
        polished=(polished.sheets, best),
        front=front,
        least=least_seconds(problem, Tables(problem), thrifty.sheets, bench.stack),
        took=took,
    )


def small(seed: int) -> tuple[int, int, int] | None:
    """A small job's polished seconds, the bound of the integer program, and the seconds of a better plan it found."""
    job = mats_job(seed)
    paper, judge = job.papers[0], minutes_judge()
    polished = fit_paper(paper, job.bench, lambda _: None, SECONDS, judge)
    taken = best = int(judge(paper, polished, job.bench))
    problem = make_problem(paper)
    found = fewest_seconds(problem, polished.sheets, job.bench.stack, taken, seconds=SMALL_SECONDS)
    if found is None:
        return None
    if found.layouts:
        better = plan_of(paper, problem, [(0, tree, copies) for tree, copies in found.layouts], job.bench.stack)
        check_paper(paper, better, job.bench)
        best = min(taken, int(judge(paper, better, job.bench)))
    return taken, found.bound, best


def at_share(found: list[Measured], share: float) -> tuple[int, int]:
    """Sheets and seconds of all jobs with so many more sheets in all, spent where they save most."""
    fewest = sum(min(each.front) for each in found)
    low, high, best = 0.0, 1e5, (fewest, sum(each.front[min(each.front)] for each in found))
    for _ in range(60):
        price = (low + high) / 2
        taken = [min(each.front, key=lambda n, f=each.front: (f[n] + price * n, n)) for each in found]
        if sum(taken) <= fewest * (1 + share):
            high, best = price, (sum(taken), sum(e.front[n] for e, n in zip(found, taken, strict=True)))
        else:
            low = price
    return best


def main(jobs: int = JOBS) -> None:
    """Measure every job, add up."""
    with ProcessPoolExecutor(CORES) as pool:
        found = list(pool.map(measure, range(jobs)))
        few = [each for each in pool.map(small, range(SMALL)) if each]
    report(found)
    taken, bound, best = (sum(each[k] for each in few) for k in range(3))
    print(f"{len(few)} small jobs: polished {taken} s, no plan takes less than {bound} s, the best known take {best} s")
    proven, known = (sum(each[k] == each[1] for each in few) for k in (0, 2))
    print(f"the polished plan is proven the quickest {proven} times, some plan {known} times")


def report(found: list[Measured]) -> None:
    """The tables of the class family."""
    jobs = len(found)
    equal = [each for each in found if each.plain[0] == each.polished[0]]
    yardstick = sum(each.plain[1] for each in equal)
    print(f"{len(equal)} of {jobs} class jobs with equal sheets, {sum(each.plain[0] for each in equal)} sheets")
    rows = {
        "plain plan, plain order": yardstick,
        "plain plan, best order": sum(each.ordered for each in equal),
        "proven plan": sum(each.proven for each in equal),
        "polished plan": sum(each.polished[1] for each in equal),
        "lower bound": sum(each.least for each in equal),
    }
    for name, seconds in rows.items():
        print(f"| {name} | {seconds / 60:.0f} | {seconds / yardstick:.3f} |")
    slower = [each.seed for each in found if each.polished[1] > each.plain[1]]
    print(f"slower than the plain plan: {', '.join(map(str, slower)) or 'none'}")
    times = sorted(each.took for each in found)
    print(f"polishing with the fit: median {times[len(times) // 2]:.1f} s, worst {times[-1]:.1f} s")
    every = sum(each.plain[1] for each in found)
    for share in SHARES:
        sheets, seconds = at_share(found, share)
        print(f"| {share:.0%} more sheets allowed | {sheets} | {seconds / 60:.0f} | {seconds / every:.3f} |")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:2]))
