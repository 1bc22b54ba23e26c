"""What makes harder classes come out: values that learn, finer tables for bounds, narrow strips that are held."""

import random
from unittest import TestCase

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, Margins, PaperJob, Piece, Sheet
from zester.core.fitting.parts import CutLimits
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.search.correcting import Correcting
from zester.core.fitting.search.filling import Filling
from zester.core.fitting.search.found import Found
from zester.core.fitting.tests.jobs import random_job
from zester.core.lengths import TICKS_PER_INCH
from zester.core.tests.share import some


def quiet(_: object) -> None:
    """Hears nothing."""


def many_sizes(seed: int) -> PaperJob:
    """Thirty sizes in eighths of an inch on letter sheets, few of each."""
    dice = random.Random(seed)
    pieces = tuple(
        Piece(id=f"P{k}", width=dice.randint(6, 34), height=dice.randint(8, 44), count=dice.randint(6, 18))
        for k in range(30)
    )
    return PaperJob(id="paper", sheets=(Sheet(id="sheet", width=68, height=88),), pieces=pieces)


class CorrectingTests(TestCase):
    def test_fillings_make_everything_and_cost_less_than_was_said(self):
        for seed in range(some(8)):
            problem = make_problem(many_sizes(seed))
            tables, pool = Tables(problem), ColumnPool(problem)
            relaxed = relax(problem, tables, pool, quiet, lambda: 5.0, early=False)
            known = Found(problem, tables, pool, relaxed, stack=3, tell=quiet, seconds_left=lambda: 5.0)
            mix = list(zip(pool.columns, relaxed.amounts, strict=False))
            correcting = Correcting(problem, mix, Filling(known).next_sheet)
            enough = relaxed.bound + 3
            found = [chosen for chosen in (correcting.fill(enough) for _ in range(8)) if chosen]
            with self.subTest(seed=seed):
                self.assertTrue(found)
                for chosen in found:
                    self.assertTrue(relaxed.bound <= sum(copies for _, copies in chosen) < enough)
                    made = [sum(n * column.counts[k] for column, n in chosen) for k in range(len(problem.sizes))]
                    self.assertTrue(all(m >= d for m, d in zip(made, problem.demands, strict=True)))

    def test_thirty_sizes_take_the_fewest_sheets(self):
        for seed in range(some(8)):
            job = many_sizes(seed)
            plan = fit_paper(job, Bench(3), quiet, 9.5)
            check_paper(job, plan, Bench(3))
            with self.subTest(seed=seed):
                self.assertTrue(plan.proven)


class FinerTests(TestCase):
    def test_the_bound_of_coarser_tables_is_that_of_exact_ones(self):
        """Working tables on a grid of a 64th prove nothing; the finer ones prove what exact ones do."""
        found = 0
        for seed in range(some(24)):
            paper = random_job(seed).papers[0]
            problem = make_problem(paper)
            exact, coarse = Tables(problem), Tables(problem, most_work=150)
            if coarse.exact:
                continue
            found += 1
            bounds = [
                relax(problem, tables, ColumnPool(problem), quiet, lambda: 5.0, early=False).bound
                for tables in (exact, coarse)
            ]
            with self.subTest(seed=seed):
                self.assertIs(coarse.finer.exact, True)
                self.assertEqual(*bounds)
        self.assertTrue(found)


class HeldTests(TestCase):
    def test_narrow_strips_on_sheets_with_margins_are_cut_so_that_they_can_be_held(self):
        """The sheet's margin holds the first strip and no other; plans stay near what is proven."""
        inch, eighth = TICKS_PER_INCH, TICKS_PER_INCH // 8
        bench = Bench(3, CutLimits(longest=11 * inch, hold=6 * eighth))
        edge = 2 * eighth
        sheet = Sheet(id="sheet", width=68 * eighth, height=88 * eighth, margins=Margins(edge, edge, edge, edge))
        pieces = (
            Piece(id="strip", width=5 * eighth, height=40 * eighth, count=30),
            Piece(id="mat", width=32 * eighth, height=42 * eighth, count=12),
            Piece(id="tag", width=14 * eighth, height=20 * eighth, count=20),
        )
        job = PaperJob(id="paper", sheets=(sheet,), pieces=pieces)
        plan = fit_paper(job, bench, quiet, 9.5)
        check_paper(job, plan, bench)
        self.assertTrue(plan.proven)
