"""Few sheets in few minutes: sheets in alike strips, and what is done about slots that nobody needs."""

import random
from unittest import TestCase

from zester.core.cutting.steps import cutting_steps, minutes_judge
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.job import Bench
from zester.core.fitting.minutes.stripping import strip_tree
from zester.core.fitting.parts import Part, count_sizes, cut_part, slots, walk
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.search.naming import name_layouts
from zester.core.fitting.tests.jobs import paper, random_job
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.tests.share import some

BENCH = Bench(3)


class StripTests(TestCase):
    def test_trees_hold_pieces_at_their_size_and_no_more_than_is_wanted(self):
        for seed in range(some(40)):
            dice, problem = random.Random(seed), make_problem(random_job(seed).papers[0])
            most = [dice.randint(0, size.demand) for size in problem.sizes]
            tree = strip_tree(problem, problem.stocks[0], most, dice)
            counts = count_sizes(tree, len(problem.sizes))
            with self.subTest(seed=seed):
                self.assertTrue(all(made <= wanted for made, wanted in zip(counts, most, strict=True)))
                self.assertEqual(any(counts), any(most))
                for slot in slots(tree):
                    size = problem.sizes[slot.size]
                    turned = size.turn and (slot.height, slot.width) == (size.width, size.height)
                    self.assertTrue(turned or (slot.width, slot.height) == (size.width, size.height))
                for part in walk(tree):
                    if part.axis:
                        whole = part.width if part.axis == "x" else part.height
                        sides = [p.width if part.axis == "x" else p.height for p in (part.first, part.second)]
                        self.assertEqual(sum(sides), whole)
                        self.assertEqual(part.at, sides[0])

    def test_four_pieces_of_one_sheet_take_two_settings(self):
        # Two strips of 3⅝ off the sheet (12 + 8 + 2 × 4), both across at 4⅜ twice, in the hand still (12 + 2 × 4).
        # Trimming the sheet first, so that what is left over is one part, took 12 more.
        job = paper("8½ x 11", ("3⅝ x 4⅜", 4, False))
        plan = fit_paper(job, BENCH, lambda _: None, 9.5, minutes_judge())
        self.assertEqual(cutting_steps(job, plan, BENCH).seconds(), 48)


class UnneededSlotTests(TestCase):
    def test_a_last_sheet_that_needs_less_is_begun_like_the_others(self):
        # Strips of 5¼ with a 4 × 5¼ and a 3¾ × 5 each; the third sheet needs none of the larger ones. Its strips could
        # be cut at 5, but then it would be a stack of its own.
        job = paper("8½ x 11", ("4 x 5¼", 4, False), ("3¾ x 5", 6, False))
        problem = make_problem(job)
        layouts = name_layouts(problem, [(0, _two_strips(), 3)], {"P1": 4, "P2": 6}, BENCH.stack)
        self.assertEqual([layout.copies for layout in layouts], [2, 1])
        firsts = [(layout.cuts[0].axis, layout.cuts[0].at) for layout in layouts]
        self.assertEqual(firsts, [("y", 21 * INCH // 4)] * 2)
        made = [sum(named.piece == name for named in layouts[1].parts) for name in ("P1", "P2")]
        self.assertEqual(made, [0, 2])


def _two_strips() -> Part:
    """8½ × 11: two strips of 5¼, in each a 4 × 5¼ and a 3¾ × 5."""
    wide, strip_high, half = 17 * INCH // 2, 21 * INCH // 4, INCH // 2
    larger = Part(width=4 * INCH, height=strip_high, size=0)
    smaller = Part(width=15 * INCH // 4, height=5 * INCH, size=1)
    trimmed = cut_part(smaller.width, strip_high, "y", 5 * INCH, smaller, Part(width=smaller.width, height=INCH // 4))
    end = wide - larger.width
    rest = cut_part(end, strip_high, "x", smaller.width, trimmed, Part(width=end - smaller.width, height=strip_high))
    strip = cut_part(wide, strip_high, "x", larger.width, larger, rest)
    below = cut_part(wide, strip_high + half, "y", strip_high, strip, Part(width=wide, height=half))
    return cut_part(wide, 11 * INCH, "y", strip_high, strip, below)
