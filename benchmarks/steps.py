"""What the order of the steps saves at the trimmer, against the plain order of the same plans: ``make bench``.

The demo and 200 jobs of the class family; seconds by the pace that docs/formats.md defines. Beside the settings of the
rail stand the different places that are needed at all, which cannot be gone below.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.families import class_job
from zester.core.cutting.steps import cutting_steps
from zester.core.cutting.tests.plain import plain_steps
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.job_file import read_job

JOBS = 200
DEMO = Path(__file__).parent / "stargazer.json"


def main() -> None:
    """Fit every job for a second, order its steps both ways, add up."""
    jobs = [("demo", read_job(DEMO.read_bytes())), *((f"class {seed}", class_job(seed)) for seed in range(JOBS))]
    before = {"seconds": 0, "settings": 0, "stacks": 0, "strokes": 0}
    after = dict(before)
    places, more, spent = 0, [], 0.0
    for name, job in jobs:
        for paper, plan in zip(job.papers, fit(job, seconds=1).papers, strict=True):
            plain = plain_steps(paper, plan, job.bench.stack)
            started = time.perf_counter()
            ours = cutting_steps(paper, plan, job.bench)
            spent += time.perf_counter() - started
            for total, steps in ((before, plain), (after, ours)):
                for figure in total:
                    value = getattr(steps, figure)
                    total[figure] += value() if figure == "seconds" else value
            places += ours.places
            if ours.seconds() > plain.seconds() or ours.strokes > plain.strokes:
                more.append(name)
        if name == "demo":
            print(f"demo: {before['seconds']} s before, {after['seconds']} s after")
    for figure, value in before.items():
        print(f"{figure}: {value} before, {after[figure]} after ({after[figure] / value - 1:+.1%})")
    print(f"places of the rail that are needed at all: {places}")
    print(f"jobs that take more than before: {', '.join(more) or 'none'}")
    print(f"ordering took {spent:.0f} s for {len(jobs)} jobs")


if __name__ == "__main__":
    main()
