"""Cut trees: trimming, margins, turning, tidying, and what a trimmer can do."""

import random
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.fitting.jobs.job import Margins
from zester.core.fitting.parts import (
    ANY_CUT,
    CutLimits,
    Part,
    can_be_cut,
    count_cuts,
    count_sizes,
    cut_part,
    grid_tree,
    peel,
    renumber,
    rotate,
    slots,
    walk,
    with_margins,
    without,
)
from zester.core.fitting.patterns.strokes import count_strokes
from zester.core.fitting.patterns.tidy import tidy, tidy_layouts


def random_tree(dice: random.Random, width: int, height: int, depth: int = 5) -> Part:
    """A part cut at random, its leaves sizes 0 to 3 or left over."""
    if depth == 0 or min(width, height) < 4 or dice.random() < 0.2:
        return Part(width=width, height=height, size=dice.choice((None, 0, 1, 2, 3)))
    if dice.random() < 0.5:
        at = dice.randint(1, width - 1)
        sides = random_tree(dice, at, height, depth - 1), random_tree(dice, width - at, height, depth - 1)
        return cut_part(width, height, "x", at, *sides)
    at = dice.randint(1, height - 1)
    sides = random_tree(dice, width, at, depth - 1), random_tree(dice, width, height - at, depth - 1)
    return cut_part(width, height, "y", at, *sides)


def leaves(tree: Part) -> list[tuple]:
    """What a tree makes: (size, width, height) of every slot, in order of size."""
    return sorted((slot.size, slot.width, slot.height) for slot in slots(tree))


def sound(tree: Part) -> bool:
    """Whether every cut's two sides make up the part that is cut."""
    for part in walk(tree):
        if part.axis == "x":
            first, second = part.first, part.second
            if first.width != part.at or first.width + second.width != part.width:
                return False
            if first.height != part.height or second.height != part.height:
                return False
        elif part.axis == "y":
            first, second = part.first, part.second
            if first.height != part.at or first.height + second.height != part.height:
                return False
            if first.width != part.width or second.width != part.width:
                return False
    return True


TREES = st.builds(
    lambda seed, width, height: random_tree(random.Random(seed), width, height),
    st.integers(0, 10_000),
    st.integers(4, 60),
    st.integers(4, 60),
)


class TreeTests(TestCase):
    @given(TREES)
    def test_tidying_changes_neither_what_is_made_nor_the_sheet(self, tree):
        for halve in (False, True):
            tidied = tidy(tree, halve)
            self.assertTrue(sound(tidied))
            self.assertEqual(leaves(tidied), leaves(tree))
            self.assertEqual((tidied.width, tidied.height), (tree.width, tree.height))
            self.assertLessEqual(count_cuts(tidied), count_cuts(tree))

    @given(st.lists(st.tuples(TREES, st.integers(1, 7)), min_size=1, max_size=4), st.integers(1, 4))
    def test_tidied_layouts_never_take_more_strokes_than_cut_strip_by_strip(self, layouts, stack):
        plain = [(tidy(tree, halve=False), copies) for tree, copies in layouts]
        tidied = tidy_layouts(layouts, stack)
        copies = [n for _, n in layouts]
        self.assertLessEqual(count_strokes(zip(tidied, copies, strict=True), stack), count_strokes(plain, stack))

    @given(TREES, st.integers(1, 3))
    def test_turning_keeps_every_piece_and_every_cut(self, tree, turns):
        turned = rotate(tree, turns)
        self.assertTrue(sound(turned))
        self.assertEqual(count_cuts(turned), count_cuts(tree))
        expected = leaves(tree) if turns == 2 else sorted((size, high, wide) for size, wide, high in leaves(tree))
        self.assertEqual(leaves(turned), expected)

    def test_a_clockwise_turn_brings_what_was_left_to_the_top(self):
        tree = Part(
            width=10,
            height=4,
            axis="x",
            at=3,
            first=Part(width=3, height=4, size=0),
            second=Part(width=7, height=4, size=1),
        )
        turned = rotate(tree, 1)
        self.assertEqual((turned.axis, turned.at, turned.first.size), ("y", 3, 0))
        upper = Part(
            width=4,
            height=10,
            axis="y",
            at=3,
            first=Part(width=4, height=3, size=0),
            second=Part(width=4, height=7, size=1),
        )
        self.assertEqual(rotate(upper, 1).second.size, 0)

    @given(TREES, st.tuples(*[st.integers(0, 5)] * 4))
    def test_margins_come_around_a_tree_and_leave_its_pieces_alone(self, tree, sides):
        whole = with_margins(tree, Margins(*sides), ANY_CUT)
        left, top, right, bottom = sides
        self.assertEqual((whole.width, whole.height), (tree.width + left + right, tree.height + top + bottom))
        self.assertTrue(sound(whole))
        self.assertEqual(leaves(whole), leaves(tree))

    def test_a_far_margin_joins_the_leftover_beside_it(self):
        tree = Part(
            width=10, height=4, axis="x", at=6, first=Part(width=6, height=4, size=0), second=Part(width=4, height=4)
        )
        whole = with_margins(tree, Margins(right=2), ANY_CUT)
        self.assertEqual((count_cuts(whole), whole.second.width), (1, 6))

    def test_slots_beyond_need_are_left_over_from_the_far_end(self):
        tree = grid_tree(10, 4, 0, 2, 4)
        rest = without(tree, {0: 2})
        self.assertEqual(count_sizes(rest, 1), (3,))
        # The first three strips are still cut where they were.
        self.assertEqual([slot.width for slot in slots(rest)], [2, 2, 2])

    def test_sizes_without_a_number_are_left_over(self):
        tree = Part(
            width=10,
            height=4,
            axis="x",
            at=6,
            first=Part(width=6, height=4, size=0),
            second=Part(width=4, height=4, size=1),
        )
        self.assertEqual(leaves(renumber(tree, {1: 7})), [(7, 4, 4)])
        self.assertTrue(renumber(tree, {}).left_over)


class TrimmerTests(TestCase):
    def test_the_longest_cut_goes_across_and_not_along(self):
        tree = Part(
            width=10,
            height=20,
            axis="y",
            at=5,
            first=Part(width=10, height=5, size=0),
            second=Part(width=10, height=15, size=1),
        )
        self.assertTrue(can_be_cut(tree, CutLimits(10)))
        self.assertFalse(can_be_cut(tree, CutLimits(9)))

    def test_the_wider_part_is_the_one_that_is_held(self):
        tree = Part(
            width=10,
            height=4,
            axis="x",
            at=1,
            first=Part(width=1, height=4, size=0),
            second=Part(width=9, height=4, size=1),
        )
        self.assertTrue(can_be_cut(tree, CutLimits(None, 9)))
        self.assertFalse(can_be_cut(tree, CutLimits(None, 10)))

    def test_trimming_takes_the_order_that_the_trimmer_can_make(self):
        # 10 × 20 under a cut of 12: across the 10 first, then the rest is short enough to be trimmed narrower.
        trimmed = peel(10, 20, Part(width=2, height=8, size=0), CutLimits(12))
        self.assertEqual(trimmed.axis, "y")
        self.assertTrue(can_be_cut(trimmed, CutLimits(12)))

    @given(TREES, st.integers(1, 20))
    def test_where_strips_are_held_the_narrow_ones_are_cut_first(self, tree, hold):
        limits = CutLimits(None, hold)
        if can_be_cut(tidy(tree, halve=False), limits):
            self.assertTrue(can_be_cut(tidy(tree, halve=False, limits=limits), limits))

    def test_a_grid_fills_its_part(self):
        tree = grid_tree(17, 9, 0, 4, 3)
        self.assertEqual(count_sizes(tree, 1), (12,))
        self.assertTrue(sound(tree))
