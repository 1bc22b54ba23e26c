"""Positions and the guillotine knapsack against brute force and published values."""

import random
from functools import cache
from unittest import TestCase, mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from zester.core.fitting.parts import ANY_CUT, CutLimits, count_sizes
from zester.core.fitting.patterns import kernels, knapsack, loops
from zester.core.fitting.patterns.knapsack import GuillotineTable, Item, TooManyPositions
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.tests.share import some


def all_sums(lengths, limit):
    """Every sum up to the limit, by trying."""
    sums = {0}
    for length, most in lengths:
        sums = {s + k * length for s in sums for k in range(most + 1) if s + k * length <= limit}
    return sorted(sums)


class PositionTests(TestCase):
    @given(st.lists(st.tuples(st.integers(1, 40), st.integers(1, 4)), min_size=1, max_size=4), st.integers(1, 120))
    def test_all_sums_and_no_others(self, lengths, limit):
        self.assertEqual(normal_positions(lengths, limit).tolist(), all_sums(lengths, limit))


def table_for(width, height, pieces, turn=False, limits=ANY_CUT):
    """A table for pieces (width, height), any number of each."""
    items = [Item(k, w, h) for k, (w, h) in enumerate(pieces)]
    if turn:
        items += [Item(k, h, w) for k, (w, h) in enumerate(pieces)]
    xs = normal_positions([(i.width, width // i.width) for i in items], width)
    ys = normal_positions([(i.height, height // i.height) for i in items], height)
    return GuillotineTable(xs, ys, items, limits=limits)


class LoopTests(TestCase):
    def test_plain_and_compiled_loops_make_the_same_table(self):
        for seed in range(10):
            dice = random.Random(seed)
            items = [Item(k, dice.randint(2, 9), dice.randint(2, 9)) for k in range(4)]
            worth, price = [dice.randint(3, 60) for _ in items], dice.randint(0, 3)
            limits = CutLimits(longest=dice.choice((None, 24)), hold=dice.choice((0, 3)))
            xs = normal_positions([(item.width, 9) for item in items], 30)
            ys = normal_positions([(item.height, 9) for item in items], 22)
            plain, compiled = (GuillotineTable(xs, ys, items, limits=limits) for _ in range(2))
            plain.loops, compiled.loops = loops, kernels
            for table in (plain, compiled):
                table.fill(worth, price)
            with self.subTest(seed=seed):
                np.testing.assert_array_equal(plain.values, compiled.values)
                most = [dice.randint(0, 5) for _ in items]
                bounded = [table.bounded_tree(30, 22, worth, most, price) for table in (plain, compiled)]
                self.assertEqual(*bounded)

    def test_several_columns_at_a_time_make_the_same_table(self):
        for seed in range(10):
            dice = random.Random(seed)
            pieces = [(dice.randint(5, 40), dice.randint(5, 40)) for _ in range(5)]
            worth, price = [dice.randint(3, 60) for _ in pieces], dice.randint(0, 3)
            limits = CutLimits(longest=dice.choice((None, 70)))
            one, other = (table_for(120, 90, pieces, turn=True, limits=limits) for _ in range(2))
            one.blocks = None
            with self.subTest(seed=seed), mock.patch.object(knapsack, "BLOCK_WORK", 0):
                self.assertLess(len(other.blocks), other.shape[0])
                for table in (one, other):
                    table.fill(worth, price)
                np.testing.assert_array_equal(one.values, other.values)


def brute_force(width, height, pieces, worth):
    """The same optimum by trying every whole-number cut."""

    @cache
    def best(w, h):
        value = max((v for (a, b), v in zip(pieces, worth, strict=True) if a <= w and b <= h), default=0)
        for x in range(1, w // 2 + 1):
            value = max(value, best(x, h) + best(w - x, h))
        for y in range(1, h // 2 + 1):
            value = max(value, best(w, y) + best(w, h - y))
        return value

    return best(width, height)


class KnapsackTests(TestCase):
    def test_beasley_gcut1(self):
        # Beasley (1985), Algorithms for unconstrained two-dimensional guillotine cutting, J. Opl Res. Soc. 36,
        # problem gcut1: sheet 250 × 250, value = area, not turned, optimum 56,460 (value from memory).
        pieces = [(167, 184), (114, 118), (167, 152), (83, 140), (70, 86)]
        pieces += [(143, 166), (120, 160), (66, 148), (87, 141), (69, 165)]
        table = table_for(250, 250, pieces)
        table.fill([w * h for w, h in pieces])
        self.assertEqual(table.best(250, 250), 56_460)
        counts = count_sizes(table.tree(250, 250), len(pieces))
        self.assertEqual(sum(n * w * h for n, (w, h) in zip(counts, pieces, strict=True)), 56_460)

    @given(
        st.integers(8, 22),
        st.integers(8, 22),
        st.lists(st.tuples(st.integers(2, 12), st.integers(2, 12), st.integers(1, 50)), min_size=1, max_size=4),
    )
    def test_the_optimum_is_that_of_brute_force_and_the_tree_makes_it(self, width, height, entries):
        pieces, worth = [(w, h) for w, h, _ in entries], [v for _, _, v in entries]
        table = table_for(width, height, pieces)
        table.fill(worth)
        wanted = brute_force(width, height, pieces, worth)
        self.assertEqual(table.best(width, height), wanted)
        counts = count_sizes(table.tree(width, height), len(pieces))
        self.assertEqual(sum(n * v for n, v in zip(counts, worth, strict=True)), wanted)

    def test_a_bounded_tree_keeps_to_what_is_wanted(self):
        pieces = [(4, 5), (2, 3), (1, 1)]
        table = table_for(12, 12, pieces, turn=True)
        counts = count_sizes(table.bounded_tree(12, 12, [20, 6, 1], [3, 5, 7]), 3)
        self.assertLessEqual(counts[2], 7)
        self.assertEqual(counts[:2], (3, 5))
        self.assertGreaterEqual(counts[2], 5)

    def test_sizes_rounded_up_for_the_table_come_out_true(self):
        true = [(41, 52), (33, 27)]
        items = [Item(0, 50, 60), Item(0, 60, 50), Item(1, 40, 30), Item(1, 30, 40)]
        xs = normal_positions([(i.width, 9) for i in items], 200)
        ys = normal_positions([(i.height, 9) for i in items], 200)
        table = GuillotineTable(xs, ys, items, true)
        table.fill([5, 2])
        waiting, leaves = [table.tree(200, 200)], []
        while waiting:
            part = waiting.pop()
            waiting += [part.first, part.second] if part.axis else []
            leaves += [part] if part.size is not None else []
        self.assertGreater(len(leaves), 9)
        for leaf in leaves:
            self.assertEqual(sorted((leaf.width, leaf.height)), sorted(true[leaf.size]))

    def test_far_too_many_positions_are_refused_before_memory_runs_out(self):
        positions = np.arange(0, 4000, dtype=np.int64)
        with self.assertRaises(TooManyPositions):
            GuillotineTable(positions, positions, [Item(0, 1, 1)])


class ReducedTests(TestCase):
    """Tables that keep only the positions that can be reached."""

    def test_they_give_the_same_as_tables_of_all_positions(self):
        for seed in range(some(120)):
            dice = random.Random(seed)
            sides = [(dice.randint(5, 30), dice.randint(5, 30)) for _ in range(dice.randint(2, 7))]
            items = [Item(k, *way) for k, (w, h) in enumerate(sides) for way in ((w, h), (h, w))]
            tops = [(dice.randint(35, 70), dice.randint(35, 70)) for _ in range(2)]
            wide, high = (max(top[axis] for top in tops) for axis in (0, 1))
            xs = normal_positions([(item.width, 9) for item in items], wide)
            ys = normal_positions([(item.height, 9) for item in items], high)
            worth = [dice.randint(1, 900) * 4096 for _ in sides]
            whole = GuillotineTable(xs, ys, items, sides)
            with mock.patch("zester.core.fitting.patterns.knapsack.REDUCED_WORK", 0):
                fewer = GuillotineTable(xs, ys, items, sides, tops=tops)
            self.assertTrue(fewer.reduced)
            self.assertLessEqual(fewer.work, whole.work)
            for table in (whole, fewer):
                table.fill(worth, 1)
            for top in tops:
                with self.subTest(seed=seed, top=top):
                    best = -(-whole.best(*top) // 4096)
                    self.assertEqual(-(-fewer.best(*top) // 4096), best)
                    counts = count_sizes(fewer.tree(*top), len(sides))
                    self.assertEqual(sum(n * w for n, w in zip(counts, worth, strict=True)), best * 4096)
                    made = count_sizes(fewer.bounded_tree(*top, worth, [2] * len(sides)), len(sides))
                    self.assertLessEqual(max(made), 2)

    def test_a4_in_tenths_of_a_millimetre_has_a_small_table(self):
        sides = [(687, 981), (703, 1002), (391, 1477), (1048, 1483)]
        items = [Item(k, *way) for k, (w, h) in enumerate(sides) for way in ((w, h), (h, w))]
        xs = normal_positions([(item.width, 9) for item in items], 2100)
        ys = normal_positions([(item.height, 9) for item in items], 2970)
        whole = GuillotineTable(xs, ys, items, sides)
        with mock.patch("zester.core.fitting.patterns.knapsack.REDUCED_WORK", 0):
            fewer = GuillotineTable(xs, ys, items, sides, tops=[(2100, 2970)])
        self.assertLess(10 * fewer.work, whole.work)
