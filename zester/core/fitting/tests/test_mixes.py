"""Sheets of several prices, against CP-SAT and by hand."""

import random
from decimal import Decimal
from unittest import TestCase

from ortools.sat.python import cp_model

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Sheet
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.search.mixes import Excluded, Mixes
from zester.core.fitting.tests.test_engine import cp_sat_sheets
from zester.core.tests.share import some

BENCH = Bench(1)


def two_prices(seed: int) -> PaperJob:
    """Few pieces, from two kinds of sheets."""
    dice = random.Random(seed)
    small = Sheet(id="small", width=10, height=10, cost=Decimal("0.42"))
    large = Sheet(id="large", width=15, height=12, cost=Decimal(dice.randint(60, 90)) / 100)
    pieces = tuple(
        Piece(id=f"P{k}", width=dice.randint(3, 8), height=dice.randint(3, 9), count=dice.randint(4, 15))
        for k in range(3)
    )
    return PaperJob(id="paper", sheets=(small, large), pieces=pieces)


class MixesTests(TestCase):
    def test_costs_and_mixes_are_gone_through_in_order(self):
        problem = make_problem(two_prices(3))
        mixes = Mixes(problem, Tables(problem), ColumnPool(problem), lambda *_: None, lambda: True)
        costs = problem.costs
        levels = mixes.levels(5 * costs[0], 9 * costs[0])
        reached = {a * costs[0] + b * costs[1] for a in range(10) for b in range(10)}
        self.assertEqual([c for c, _ in levels], sorted(c for c in reached if 5 * costs[0] <= c < 9 * costs[0]))
        for level, counts in levels:
            for a, b in counts:
                self.assertEqual(a * costs[0] + b * costs[1], level)

    def test_where_there_are_too_many_mixes_nothing_is_claimed(self):
        problem = make_problem(two_prices(3))
        mixes = Mixes(problem, Tables(problem), ColumnPool(problem), lambda *_: None, lambda: True)
        bound, cost = 10, 500 * problem.costs[0]
        self.assertIsNone(mixes.levels(bound, cost))
        self.assertEqual((mixes.run(bound, cost), mixes.exclude(bound, cost)), ((None, bound), bound))

    def test_prices_exclude_what_holds_too_little(self):
        known = Excluded(worth=(3, 2), values=(10, 17), wanted=100)
        self.assertTrue(known.rules_out((3, 4)))
        self.assertFalse(known.rules_out((5, 3)))
        self.assertAlmostEqual(known.share((5, 5)), 100 / 135)

    def test_nothing_cheaper_is_excluded_that_can_be_cut(self):
        """Every plan that is found holds all, so no prices may rule out its mix of sheets."""
        proven = 0
        for seed in range(some(40)):
            job = two_prices(seed)
            plan = fit_paper(job, BENCH, lambda _: None, 5.0)
            check_paper(job, plan, BENCH)
            problem = make_problem(job)
            tables, pool = Tables(problem), ColumnPool(problem)
            relax(problem, tables, pool, lambda _: None, lambda: 5.0)
            mixes = Mixes(problem, tables, pool, lambda *_: None, lambda: True)
            counts = [sum(lay.copies for lay in plan.layouts if lay.sheet == sheet.id) for sheet in job.sheets]
            with self.subTest(seed=seed):
                self.assertFalse(mixes._excluded(counts))
                # With one sheet fewer of both kinds it is another matter.
                if min(counts) and plan.proven:
                    self.assertTrue(mixes.apply)
            proven += plan.proven
        self.assertGreaterEqual(proven, some(40) * 0.9)

    def test_cp_sat_finds_no_cheaper_mix_of_single_pieces(self):
        """Pieces of which one lies on a small sheet and two on a large one: then it is a matter of numbers."""
        small = Sheet(id="small", width=10, height=10, cost=Decimal("0.42"))
        large = Sheet(id="large", width=20, height=10, cost=Decimal("0.77"))
        piece = Piece(id="P", width=7, height=8, count=13)
        job = PaperJob(id="paper", sheets=(small, large), pieces=(piece,))
        self.assertEqual(cp_sat_sheets(small, [(7, 8)] * 2), 2)
        model = cp_model.CpModel()
        a, b = (model.new_int_var(0, 20, name) for name in "ab")
        model.add(a + 2 * b >= 13)
        model.minimize(42 * a + 77 * b)
        solver = cp_model.CpSolver()
        solver.solve(model)
        plan = fit_paper(job, BENCH, lambda _: None, 5.0)
        self.assertEqual((plan.cost * 100, plan.proven), (int(solver.objective_value), True))
