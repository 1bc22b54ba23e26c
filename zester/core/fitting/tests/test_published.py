"""Published problems, and exact programs of others on many small ones."""

import random
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Sheet
from zester.core.fitting.parts import count_sizes
from zester.core.fitting.patterns.knapsack import GuillotineTable, Item
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.fitting.search.closing import Lister
from zester.core.fitting.tests.test_engine import cp_sat_sheets, rectpack_sheets
from zester.core.tests.share import some


class ChristofidesWhitlockTests(TestCase):
    def test_example_1_with_at_most_so_many_of_each(self):
        # Christofides & Whitlock (1977), An algorithm for two-dimensional cutting problems, Oper. Res. 25, example 1:
        # sheet 15 × 10, (width, height, at most, value), not turned, guillotine optimum 244 (values from memory).
        entries = [
            (8, 4, 2, 66),
            (3, 7, 1, 35),
            (8, 2, 3, 24),
            (3, 4, 5, 17),
            (3, 3, 2, 11),
            (3, 2, 2, 8),
            (2, 1, 1, 2),
        ]
        items = [Item(k, w, h) for k, (w, h, _, _) in enumerate(entries)]
        worth, most = [e[3] for e in entries], [e[2] for e in entries]
        table = GuillotineTable(
            normal_positions([(w, m) for w, _, m, _ in entries], 15),
            normal_positions([(h, m) for _, h, m, _ in entries], 10),
            items,
        )
        table.fill(worth)
        root = table.cell(15, 10)
        lister = Lister(table, worth, most)
        rows = lister.list_columns({root: 240})[root]
        self.assertEqual(lister.totals[rows[0]], 244)
        counts = count_sizes(lister.tree(root, rows[0], 15, 10), len(entries))
        self.assertTrue(all(m >= min(n, m) for n, m in zip(counts, most, strict=True)))
        self.assertGreaterEqual(sum(min(n, m) * v for n, m, v in zip(counts, most, worth, strict=True)), 244)
        # The heuristic for filling up respects the limits, and may not be better than the best.
        tree = table.bounded_tree(15, 10, worth, most)
        made = count_sizes(tree, len(entries))
        self.assertTrue(all(n <= m for n, m in zip(made, most, strict=True)))
        self.assertLessEqual(sum(n * v for n, v in zip(made, worth, strict=True)), 244)


# Berkey & Wang (1987), Two-dimensional finite bin-packing algorithms, J. Opl Res. Soc. 38: sides of the items evenly
# from 1 to the first number, bins the second number square (distributions from memory).
BERKEY_WANG = {"I": (10, 10), "II": (10, 30), "III": (35, 40), "IV": (35, 100), "V": (100, 100), "VI": (100, 300)}


class BerkeyWangTests(TestCase):
    def test_classes_i_to_vi_lie_between_the_continuous_bound_and_rectpack(self):
        for name, (side, bin_side) in BERKEY_WANG.items():
            dice = random.Random(f"berkey wang {name}")
            pieces = tuple(
                Piece(id=f"P{k}", width=dice.randint(1, side), height=dice.randint(1, side), count=1, turn=False)
                for k in range(20)
            )
            paper = PaperJob(id="bins", sheets=(Sheet(id="bin", width=bin_side, height=bin_side),), pieces=pieces)
            # It takes a second; a machine that stands still for a while does not count against it.
            plan = fit_paper(paper, Bench(1), lambda _: None, 30)
            with self.subTest(name):
                area = sum(piece.width * piece.height for piece in pieces)
                self.assertGreaterEqual(plan.bound, -(-area // bin_side**2))
                self.assertLessEqual(plan.bound, plan.cost)
                self.assertLessEqual(plan.sheets, rectpack_sheets(paper))


def tiny_job(seed: int) -> PaperJob:
    """Up to seven pieces, each more than a fifth of the sheet, so that at most four share one; not turned."""
    dice = random.Random(f"tiny {seed}")
    width, height = dice.randint(12, 20), dice.randint(12, 20)
    pieces: list[Piece] = []
    while len(pieces) < dice.choice((2, 3, 3)):
        wide, high = dice.randint(3, width), dice.randint(3, height)
        if 5 * wide * high > width * height:
            pieces.append(Piece(id=f"P{len(pieces)}", width=wide, height=high, count=dice.randint(1, 2), turn=False))
    return PaperJob(id="tiny", sheets=(Sheet(id="sheet", width=width, height=height),), pieces=tuple(pieces))


class CpSatTests(TestCase):
    def test_the_fewest_sheets_are_those_of_cp_sat(self):
        proven = 0
        for seed in range(some(200)):
            paper = tiny_job(seed)
            plan = fit_paper(paper, Bench(1), lambda _: None, 3)
            fewest = cp_sat_sheets(paper.sheets[0], [(p.width, p.height) for p in paper.pieces for _ in range(p.count)])
            with self.subTest(seed=seed):
                self.assertLessEqual(plan.bound, fewest)
                self.assertEqual(plan.sheets, fewest)
                proven += plan.proven
        self.assertEqual(proven, some(200))


class OrderTests(TestCase):
    """What must hold between jobs."""

    def test_more_demand_never_costs_less_and_turning_never_more(self):
        for seed in range(some(40)):
            paper = tiny_job(seed)
            more = replace(paper, pieces=tuple(replace(piece, count=piece.count + 1) for piece in paper.pieces))
            free = replace(paper, pieces=tuple(replace(piece, turn=True) for piece in paper.pieces))
            plain, larger, turned = (fit_paper(each, Bench(1), lambda _: None, 3) for each in (paper, more, free))
            with self.subTest(seed=seed):
                self.assertGreaterEqual(larger.cost, plain.cost)
                self.assertLessEqual(turned.cost, plain.cost)

    def test_no_bound_is_above_a_cost_that_any_way_finds(self):
        for seed in range(some(30)):
            paper = tiny_job(1000 + seed)
            costs = [Decimal(rectpack_sheets(paper))]
            costs += [fit_paper(paper, Bench(1), lambda _: None, seconds).cost for seconds in (0.0, 3.0)]
            bounds = [fit_paper(paper, Bench(1), lambda _: None, seconds).bound for seconds in (0.0, 3.0)]
            with self.subTest(seed=seed):
                self.assertLessEqual(max(bounds), min(costs))
