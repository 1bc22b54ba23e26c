"""Closing the gap, and diving."""

import random
from functools import cache
from unittest import TestCase

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import Bench
from zester.core.fitting.parts import count_sizes, slots
from zester.core.fitting.patterns.columns import ColumnPool, Tables, relax
from zester.core.fitting.patterns.greedy import greedy_sheets
from zester.core.fitting.patterns.knapsack import GuillotineTable, Item
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.search.closing import Lister, TooMany
from zester.core.fitting.search.diving import Dive
from zester.core.fitting.search.found import Answer, Found
from zester.core.fitting.search.rounding import Rounding
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

    def test_what_has_no_price_does_not_hide_that_a_sheet_more_is_needed(self):
        # Two of the one or two of the other fill a sheet, one of each never fits: three of both need four sheets, half
        # a sheet for each only three. The labels fit in beside them anyhow, in more ways than can be listed.
        job = paper("8½ x 11", ("5¼ x 8", 3), ("4 x 10¾", 3), ("½ x ¾", 3), ("½ x 1", 3), ("½ x 1½", 3))
        problem = make_problem(job)
        tables, pool = Tables(problem), ColumnPool(problem)
        relaxed = relax(problem, tables, pool, lambda _: None, lambda: 9.0)
        found = Found(problem, tables, pool, relaxed, stack=3, tell=lambda _: None, seconds_left=lambda: 9.0)
        rounding = Rounding(found)
        found.take(rounding.filling.fill_rest([], [size.area for size in problem.sizes]))
        self.assertEqual((found.bound, found.best.cost), (3, 4))
        rounding.gaps.close_for_priced()
        self.assertEqual(found.bound, 4)


class RankTests(TestCase):
    def test_of_equal_answers_the_one_with_fewer_offcuts_is_better(self):
        few, many = (
            Answer(chosen=(), missing=(0,), cost=3, work=9, offcuts=2),
            Answer(chosen=(), missing=(0,), cost=3, work=9, offcuts=5),
        )
        self.assertLess(few.rank(), many.rank())
        # Minutes come before offcuts, and money before minutes.
        self.assertLess(Answer(chosen=(), missing=(0,), cost=3, work=8, offcuts=5).rank(), few.rank())
        self.assertLess(Answer(chosen=(), missing=(0,), cost=2, work=20, offcuts=9).rank(), few.rank())


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
