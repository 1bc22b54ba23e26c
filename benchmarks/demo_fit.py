"""How long the demo class takes to fit, all papers together: ``make bench``.

Prints absolute seconds and, so that runs on other machines can be compared, their ratio to a fixed piece of work
(filling one knapsack table) timed in the same run.
"""

from __future__ import annotations

import statistics
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from zester.core.fitting.engine import fit, warm_up
from zester.core.fitting.jobs.job_file import read_job
from zester.core.fitting.patterns.columns import Tables
from zester.core.fitting.patterns.problem import make_problem

JOB = Path(__file__).parent / "stargazer.json"


def seconds(work) -> float:
    """Wall time of one call."""
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def main() -> None:
    """Three fits after one to warm up."""
    job = read_job(JOB.read_bytes())
    warm_up()
    plan = fit(job)
    fits = [seconds(lambda: fit(job)) for _ in range(3)]
    largest = make_problem(max(job.papers, key=lambda paper: len(paper.pieces)))
    table = Tables(largest).all[0]
    yardstick = statistics.median(seconds(lambda: table.fill([1] * len(largest.sizes))) for _ in range(30))
    median = statistics.median(fits)
    sheets = sum(paper.sheets for paper in plan.papers)
    proven = sum(paper.proven for paper in plan.papers)
    print(f"demo class: {len(job.papers)} papers, {sheets} sheets, {proven} papers proven")
    print(
        f"fit: median {median:.2f} s (min {min(fits):.2f}, max {max(fits):.2f}) = {median / yardstick:.0f} table fills"
    )


if __name__ == "__main__":
    main()
