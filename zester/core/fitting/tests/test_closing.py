"""Closing the gap, and less handling at equal cost."""

import random
from functools import cache
from unittest import TestCase

from zester.core.fitting.closing import Lister, TooMany
from zester.core.fitting.columns import ColumnPool, Tables, relax
from zester.core.fitting.diving import Dive
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.greedy import greedy_sheets
from zester.core.fitting.handling import fewer_stacks, light_columns, stacked_plans
from zester.core.fitting.job import Bench
from zester.core.fitting.knapsack import GuillotineTable, Item
from zester.core.fitting.parts import count_cuts, count_sizes, slots
from zester.core.fitting.positions import normal_positions
from zester.core.fitting.problem import make_problem
from zester.core.fitting.rounding import Answer
from zester.core.fitting.solver import least_work
from zester.core.fitting.tests.jobs import paper, random_job


def all_vectors(width: int, height: int, pieces: list[tuple[int, int]], most: list[int]) -> set[tuple[int, ...]]:
    """Every count vector a sheet can give, by trying every whole-number cut."""

    @cache
    def reach(w: int, h: int) -> frozenset:
        found = {(0,) * len(pieces)}
        for k, (a, b) in enumerate(pieces):
            if a <= w and b <= h:
                found.add(tuple(int(k == i) for i in range(len(pieces))))
        sides = [(reach(x, h), reach(w - x, h)) for x in range(1, w // 2 + 1)]
        sides += [(reach(w, y), reach(w, h - y)) for y in range(1, h // 2 + 1)]
        for first, second in sides:
            found |= {tuple(min(m, p + q) for p, q, m in zip(u, v, most, strict=True)) for u in first for v in second}
        return frozenset(found)

    return set(reach(width, height))


class ListerTests(TestCase):
    def test_every_undominated_column_above_the_value_is_listed(self):
        for seed in range(8):
            dice = random.Random(seed)
            pieces = [(dice.randint(2, 6), dice.randint(2, 6)) for _ in range(3)]
            worth, most = [dice.randint(3, 20) for _ in pieces], [dice.randint(1, 4) for _ in pieces]
            items = [Item(k, *piece) for k, piece in enumerate(pieces)]
            table = GuillotineTable(
                normal_positions([(i.width, 9) for i in items], 11),
                normal_positions([(i.height, 9) for i in items], 9),
                items,
            )
            table.fill(worth)
            everything = all_vectors(11, 9, pieces, most)
            values = {v: sum(n * w for n, w in zip(v, worth, strict=True)) for v in everything}
            need = max(values.values()) * 3 // 4
            wanted = {
                v
                for v in everything
                if values[v] >= need
                and not any(u != v and all(p >= q for p, q in zip(u, v, strict=True)) for u in everything)
            }
            root = table.cell(11, 9)
            lister = Lister(table, worth, most)
            rows = lister.list_columns({root: need})[root]
            with self.subTest(seed=seed):
                self.assertEqual({tuple(lister.vectors[row].tolist()) for row in rows}, wanted)

    def test_the_tree_of_a_listed_column_makes_it(self):
        items = [Item(0, 4, 3), Item(1, 3, 2)]
        table = GuillotineTable(normal_positions([(4, 3), (3, 4)], 12), normal_positions([(3, 3), (2, 4)], 9), items)
        table.fill([12, 6])
        root = table.cell(12, 9)
        lister = Lister(table, [12, 6], [9, 9])
        rows = lister.list_columns({root: 90})[root]
        self.assertGreater(len(rows), 1)
        for row in rows:
            counts = count_sizes(lister.tree(root, row, 12, 9), 2)
            self.assertTrue(all(n >= v for n, v in zip(counts, lister.vectors[row], strict=True)))

    def test_it_gives_up_rather_than_list_without_end(self):
        items = [Item(k, 1 + k % 3, 1 + k // 3) for k in range(9)]
        positions = normal_positions([(1, 60)], 60)
        table = GuillotineTable(positions, positions, items)
        table.fill([i.width * i.height for i in items])
        with self.assertRaises(TooMany):
            Lister(table, [1] * 9, [99] * 9).list_columns({table.cell(60, 60): 0})


class ClosingTests(TestCase):
    def test_a_gap_the_linear_program_leaves_is_settled(self):
        # Three 6 × 6 squares, one to a 10 × 10 sheet: the areas alone say two sheets, the columns say three.
        plan = fit_paper(paper("10 x 10", ("6 x 6", 3), ("5 x 4", 2)), Bench(1), lambda _: None, 5)
        self.assertEqual((plan.sheets, plan.proven), (3, True))

    def test_a_sheet_cut_up_at_random_is_put_together_again(self):
        # The pieces of one sheet, five times over: five sheets without waste.
        parts = [("5 x 4", 5), ("3½ x 4", 5), ("8½ x 2⅜", 5), ("3⅛ x 4⅝", 5), ("5⅜ x 4⅝", 5)]
        plan = fit_paper(paper("8½ x 11", *parts), Bench(3), lambda _: None, 8)
        self.assertEqual((plan.sheets, plan.proven), (5, True))


class RankTests(TestCase):
    def test_of_equal_answers_the_one_with_fewer_offcuts_is_better(self):
        few, many = (
            Answer(chosen=(), missing=(0,), cost=3, work=9, offcuts=2),
            Answer(chosen=(), missing=(0,), cost=3, work=9, offcuts=5),
        )
        self.assertLess(few.rank(), many.rank())
        # Strokes come before offcuts, and money before strokes.
        self.assertLess(Answer(chosen=(), missing=(0,), cost=3, work=8, offcuts=5).rank(), few.rank())
        self.assertLess(Answer(chosen=(), missing=(0,), cost=2, work=20, offcuts=9).rank(), few.rank())


class HandlingTests(TestCase):
    def setUp(self):
        self.problem = make_problem(random_job(3).papers[0])
        self.tables, self.pool = Tables(self.problem), ColumnPool(self.problem)
        self.relaxed = relax(self.problem, self.tables, self.pool, lambda _: None, lambda: 9.0)

    def test_light_columns_need_no_more_cuts_at_the_same_cost(self):
        before = len(self.pool.columns)
        light = light_columns(self.problem, self.tables, self.pool, self.relaxed.bound + 1, lambda: True)
        known = [(column, 40) for column in self.pool.columns[:before]]
        cost = sum(n for _, n in known)
        found = fewer_stacks(self.problem, self.pool, tuple(known), cost, stack=3, light=light, seconds=2)
        self.assertLess(
            sum(count_cuts(c.tree) * -(-n // 3) for c, n in found), sum(count_cuts(c.tree) * 14 for c, _ in known)
        )

    def test_stacked_plans_make_everything_and_come_in_full_stacks(self):
        problem = make_problem(paper("8½ x 11", ("4 x 5¼", 24), ("2⅛ x 2¾", 96)))
        tables, pool = Tables(problem), ColumnPool(problem)
        relaxed = relax(problem, tables, pool, lambda _: None, lambda: 9.0)
        light = light_columns(problem, tables, pool, relaxed.bound, lambda: True)
        plans = list(stacked_plans(problem, tables, pool, light, 3, lambda: True))
        self.assertTrue(plans)
        for plan in plans:
            made = [sum(n * column.counts[k] for column, n in plan) for k in range(len(problem.sizes))]
            self.assertTrue(all(m >= d for m, d in zip(made, problem.demands, strict=True)))
        stacked = sum(n for _, n in plans[0] if n % 3 == 0)
        self.assertGreater(2 * stacked, sum(n for _, n in plans[0]))

    def test_the_program_prefers_full_stacks(self):
        # Two columns make one piece a copy; the second is lighter only in full stacks of three.
        work = [[1.0, 2.0, 3.0], [2.0, 2.0, 2.0]]
        found = least_work(work, [1.0, 1.0], [{0: 1}, {0: 1}], [7], [], ceiling=7.0, start=[7, 0], nodes=100, seconds=2)
        self.assertEqual(found, [1, 6])


class DivingTests(TestCase):
    def test_a_dive_meets_its_target_or_says_that_it_did_not(self):
        for seed in (3, 8, 21):
            problem = make_problem(random_job(seed).papers[0])
            tables, pool = Tables(problem), ColumnPool(problem)
            relaxed = relax(problem, tables, pool, lambda _: None, lambda: 9.0, early=False)
            for target in (relaxed.bound - 1, relaxed.bound + 2):
                dive = Dive(problem=problem, target=target, finish=lambda _demands, _most: None, go_on=lambda: True)
                found = dive.run(relaxed, pool)
                with self.subTest(seed=seed, target=target - relaxed.bound):
                    if target < relaxed.bound:
                        self.assertIsNone(found)
                    elif found is not None:
                        self.assertLessEqual(sum(problem.costs[c.sheet] * n for c, n in found), target)
                        for index, demand in enumerate(problem.demands):
                            self.assertGreaterEqual(sum(n * c.counts[index] for c, n in found), demand)


class GreedyTests(TestCase):
    def test_every_try_places_every_piece_once_inside_its_sheet(self):
        sizes, demands = [(5, 3, True), (4, 4, False), (2, 7, True)], [3, 2, 4]
        tries = list(greedy_sheets(10, 8, sizes, demands, 12))
        self.assertEqual(len(tries), 12)
        for trees in tries:
            made = [sum(count_sizes(tree, 3)[k] for tree in trees) for k in range(3)]
            self.assertEqual(made, demands)
            for slot in (slot for tree in trees for slot in slots(tree)):
                wide, high, turn = sizes[slot.size]
                self.assertIn((slot.width, slot.height), [(wide, high), (high, wide)][: 1 + turn])
            self.assertTrue(all((tree.width, tree.height) == (10, 8) for tree in trees))

    def test_it_leaves_large_jobs_alone(self):
        self.assertEqual(list(greedy_sheets(10, 8, [(1, 1, True)], [1000], 3)), [])
