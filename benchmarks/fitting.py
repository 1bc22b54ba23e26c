"""The fitting measured on families of jobs, in one run: ``make bench``.

For every family: how many plans are proven the cheapest, the total cost over the total of the valid bounds, seconds a
paper, and whether any guillotine variant of rectpack ever does better (a proven plan cannot be beaten, so rectpack only
runs on the others). Then the time of 5,000 people against that of 10, and the peak of memory. Minutes at the trimmer
are measured by ``minutes.py``.
"""

from __future__ import annotations

import platform
import resource
import statistics
import sys
import time
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.families import FAMILIES, class_job, club_job
from zester.core.fitting.engine import fit, warm_up
from zester.core.fitting.jobs.job import Job, PaperJob
from zester.core.fitting.jobs.plan import PaperPlan, write_plan
from zester.core.fitting.tests.test_engine import rectpack_sheets

MOST_RECTANGLES = 2000


def timed_fit(job: Job) -> tuple[list[PaperPlan], float]:
    """A job's plans and the seconds they took."""
    started = time.perf_counter()
    plans = fit(job).papers
    return list(plans), time.perf_counter() - started


def beaten(paper: PaperJob, plan: PaperPlan) -> bool:
    """Whether a variant of rectpack needs fewer sheets; not asked of plans that are proven or too large for it."""
    too_large = sum(piece.count for piece in paper.pieces) > MOST_RECTANGLES
    if plan.proven or too_large or len(paper.sheets) > 1:
        return False
    return rectpack_sheets(paper) < plan.sheets


def family(name: str) -> None:
    """One row of the table."""
    make, number = FAMILIES[name]
    times, plans, losses = [], [], 0
    for seed in range(number):
        job = make(seed)
        found, seconds = timed_fit(job)
        times.append(seconds / len(found))
        plans += found
        losses += sum(beaten(paper, plan) for paper, plan in zip(job.papers, found, strict=True))
    over = sum(p.cost for p in plans) / sum(p.bound for p in plans) - 1
    proven = sum(p.proven for p in plans)
    print(
        f"| {name} | {number} | {proven / len(plans):.1%} | {float(over):.3%} | {losses} "
        f"| {statistics.median(times):.2f} | {max(times):.1f} |",
        flush=True,
    )


def with_people(job: Job, people: int) -> Job:
    """The same sizes for another number of people."""
    paper = job.papers[0]
    share = min(piece.count for piece in paper.pieces)
    pieces = tuple(replace(piece, count=max(1, piece.count // share) * people) for piece in paper.pieces)
    return replace(job, papers=(replace(paper, pieces=pieces),))


def growth() -> None:
    """Time of 5,000 people against 10 for the same sizes."""
    small = large = 0.0
    for seed in range(10):
        job = club_job(seed)
        small += timed_fit(with_people(job, 10))[1]
        large += timed_fit(with_people(job, 5000))[1]
    print(f"\n5,000 people against 10, the sizes of ten clubs: {large:.1f} s against {small:.1f} s,", end=" ")
    print(f"{large / small:.2f} times.")


def repeated() -> None:
    """Whether the same job gives the same plan."""
    jobs = [class_job(seed) for seed in range(0, 60, 6)]
    same = sum(write_plan(fit(job)) == write_plan(fit(job)) for job in jobs)
    print(f"The same plan twice: {same} of {len(jobs)} class jobs.")


def main() -> None:
    """Measure the families named on the command line, or everything."""
    warm_up()
    print(f"{platform.machine()}, Python {platform.python_version()}\n")
    print("| family | jobs | proven | cost over bounds | beaten by rectpack | median s | worst s |")
    print("|---|---|---|---|---|---|---|")
    for name in sys.argv[1:] or FAMILIES:
        family(name)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    if not sys.argv[1:]:
        growth()
        repeated()
    print(f"Peak memory over the families: {peak} MB.")


if __name__ == "__main__":
    main()
