"""One order over the papers of a class against paper after paper: ``make bench``.

Twelve papers of the class family, whose sizes are drawn anew for each; twelve papers whose sizes come again and again,
as in a class; the demo. Beside the settings stand the places of the rail that are needed at all over the class, which
cannot be gone below. Small evenings of two and three papers are compared with CP-SAT (OR-Tools): the fewest seconds of
all ways to put one order of each paper into one.
"""

from __future__ import annotations

import itertools
import random
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
from ortools.sat.python import cp_model

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.families import evening_job
from zester.core.cutting.habits import USUAL
from zester.core.cutting.kinds import Kinds
from zester.core.cutting.shared_rail import PaperToCut, _Lot, _Sharing, share_rail
from zester.core.cutting.steps import cutting_steps, minutes_judge
from zester.core.fitting.engine import fit, warm_up
from zester.core.fitting.jobs.job import Bench, Job, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.job_file import read_job
from zester.core.lengths import TICKS_PER_INCH as INCH

EVENINGS, SECONDS, SMALL = 3, 3.0, 12
DEMO = Path(__file__).parent / "stargazer.json"
# Card bases, mats, panels, strips as they come again and again, in quarters of an inch.
SIZES = ((22, 34), (16, 21), (15, 20), (8, 16), (4, 21), (17, 22), (12, 12), (10, 16), (6, 22), (14, 19))


def everyday_job(seed: int, papers: int = 12) -> Job:
    """Papers of a class whose sizes are those of other papers, too."""
    dice, found = random.Random(seed), []
    for number in range(papers):
        sizes, people = dice.sample(SIZES, dice.randint(2, 5)), dice.randint(6, 16)
        pieces = tuple(
            Piece(id=f"{number}-{k}", width=w * INCH // 4, height=h * INCH // 4, count=people * dice.choice((1, 1, 2)))
            for k, (w, h) in enumerate(sizes)
        )
        sheet = Sheet(id="letter", width=17 * INCH // 2, height=11 * INCH)
        found.append(PaperJob(id=f"paper {number + 1}", sheets=(sheet,), pieces=pieces))
    return Job("in", tuple(found), Bench(3))


def to_cut(job: Job, seconds: float) -> list[PaperToCut]:
    """The papers with plans of few minutes."""
    plan = fit(job, seconds=seconds, judge=minutes_judge())
    return [
        PaperToCut(job=p, plan=q, bench=job.bench, habits=USUAL, alone=cutting_steps(p, q, job.bench))
        for p, q in zip(job.papers, plan.papers, strict=True)
    ]


def compare(name: str, papers: list[PaperToCut]) -> None:
    """A row of the table."""
    apart = sum(paper.alone.seconds() for paper in papers)
    settings, piles = sum(p.alone.settings for p in papers), max(p.alone.most_piles for p in papers)
    for room in (None, 24):
        started = time.monotonic()
        shared = share_rail(papers, room)
        took = time.monotonic() - started
        saved = 1 - shared.seconds() / apart
        print(
            f"| {name} | {room or 'any'} | {apart / 60:.0f} | {shared.seconds() / 60:.0f} | {saved:.1%} | {settings} | "
            f"{shared.settings} | {shared.places} | {piles} | {shared.most_piles} | {took:.1f} |",
            flush=True,
        )


class Evening:
    """All ways to put the chosen orders into one, as a model."""

    def __init__(self, sharing: _Sharing):
        self.places, self.papers, self.hands, self.groups, _ = sharing.mix.items
        self.many = len(self.places)
        self.model = model = cp_model.CpModel()
        span = range(self.many)
        self.at = [[model.new_bool_var(f"{i},{k}") for k in span] for i in span]
        self.used = [model.new_bool_var(f"used {k}") for k in span]
        self._items()
        # Stops without anything come last.
        for k in range(self.many - 1):
            model.add_implication(self.used[k + 1], self.used[k])
        held = self._hands()
        pace = USUAL.pace
        model.minimize(pace.setting * sum(self.used) - pace.stack * sum(held.values()))

    def _items(self) -> None:
        """Every item at one stop, of one place of the rail, after the one before it of its paper."""
        for i in range(self.many):
            self.model.add_exactly_one(self.at[i])
            for k in range(self.many):
                self.model.add_implication(self.at[i][k], self.used[k])
                for j in range(i):
                    if self.places[i] != self.places[j]:
                        self.model.add_at_most_one(self.at[i][k], self.at[j][k])
            if i and self.papers[i] == self.papers[i - 1]:
                before, here = (sum(k * self.at[n][k] for k in range(self.many)) for n in (i - 1, i))
                self.model.add(before < here)

    def _hands(self) -> dict[tuple[int, int], cp_model.IntVar]:
        """By item and stop whether a stack of it stays in the hand: one a stop, and not one that is first and last."""
        held = {}
        for i, k in itertools.product(range(self.many - 1), repeat=2):
            if self.hands[i]:
                held[i, k] = self.model.new_bool_var(f"held {i},{k}")
                self.model.add_implication(held[i, k], self.at[i][k])
                self.model.add_implication(held[i, k], self.at[i + 1][k + 1])
        for k in range(self.many - 1):
            self.model.add_at_most_one(var for (_, stop), var in held.items() if stop == k)
        for (i, k), var in held.items():
            if self.groups[i] == 1 and (i - 1, k - 1) in held:
                for j in set(range(self.many)) - {i}:
                    alone = var.negated(), held[i - 1, k - 1].negated(), self.at[j][k].negated()
                    self.model.add_bool_or(*alone)
        return held

    def fewest(self) -> int:
        """The fewest seconds of settings less hands, or as many as none can be below."""
        solver = cp_model.CpSolver()
        solver.parameters.max_time_in_seconds = 60
        proven = solver.solve(self.model) == cp_model.OPTIMAL
        return round(solver.objective_value if proven else solver.best_objective_bound)


def small(seed: int) -> tuple[int, int]:
    """A small evening: the search's seconds and the fewest, both of the same orders."""
    job = everyday_job(500 + seed, 2 + seed % 2)
    job = replace(job, papers=tuple(replace(p, pieces=p.pieces[:2]) for p in job.papers))
    papers = to_cut(job, 1.0)
    kinds = Kinds()
    sharing = _Sharing([_Lot.of(paper, n, kinds, None, 1) for n, paper in enumerate(papers)], USUAL.pace, None)
    sharing.run(lambda: True)
    alone = sharing.mix.alone
    best = min(sharing.mix.seconds(order, 0, USUAL.pace) for order in (sharing.best, np.arange(len(sharing.best))))
    return round(best - alone), Evening(sharing).fewest()


def main() -> None:
    """Measure, print."""
    warm_up()
    print(
        "| evening | piles | apart, min | one order | saved | rail set | in one order | at least | piles | then | s |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|---|")
    compare("demo", to_cut(read_job(DEMO.read_bytes()), SECONDS))
    for seed in range(EVENINGS):
        compare(f"everyday {seed}", to_cut(everyday_job(seed), SECONDS))
    for seed in range(EVENINGS):
        compare(f"class family {seed}", to_cut(evening_job(seed), SECONDS))
    found = [small(seed) for seed in range(SMALL)]
    proven = sum(mine == best for mine, best in found)
    print(
        f"{SMALL} small evenings: {sum(a for a, _ in found)} s, no order takes less than {sum(b for _, b in found)} s"
    )
    print(f"{proven} of {SMALL} are as quick as CP-SAT's")


if __name__ == "__main__":
    main()
