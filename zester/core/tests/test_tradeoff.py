"""Paper against minutes: by hand, and against trying every choice."""

import random
from decimal import Decimal
from itertools import product
from unittest import TestCase

from zester.core.tradeoff import Point, least_total, together, worth_it


def point(cost, seconds, sheets=1) -> Point:
    """What a plan comes to."""
    return Point(cost=Decimal(cost), seconds=seconds, sheets=sheets)


class LeastTotalTests(TestCase):
    def test_an_hour_for_nothing_proposes_the_fewest_sheets(self):
        points = [point("3.50", 3600), point("4.00", 1800), point("9.00", 60)]
        self.assertEqual(least_total(points, Decimal(0)), 0)

    def test_half_an_hour_at_twelve_an_hour_is_worth_six(self):
        # Half a unit of money more saves half an hour; five more save 29 minutes, which are 5.80.
        points = [point("3.50", 3600), point("4.00", 1800), point("9.00", 60)]
        self.assertEqual(least_total(points, Decimal(12)), 2)
        self.assertEqual(least_total(points, Decimal(10)), 1)
        self.assertEqual(least_total(points, Decimal("0.50")), 0)

    def test_of_equals_the_cheaper_one(self):
        self.assertEqual(least_total([point(1, 3600), point(2, 1800)], Decimal(2)), 0)


class SeveralPapersTests(TestCase):
    def test_the_step_that_saves_most_for_its_money_comes_first(self):
        white = [point(10, 600), point(11, 500), point(12, 480)]
        blue = [point(5, 300), point("5.50", 200)]
        # Blue saves 200 s for 1, white 100 and then 20.
        self.assertEqual(worth_it([white, blue]), [(0, 0), (0, 1), (1, 1), (2, 1)])

    def test_what_lies_above_the_line_between_others_is_left_out(self):
        self.assertEqual(worth_it([[point(10, 600), point(11, 590), point(12, 400)]]), [(0,), (2,)])

    def test_for_every_worth_of_an_hour_the_least_total_of_all_choices_is_among_them(self):
        for seed in range(20):
            dice = random.Random(seed)
            fronts = []
            for _ in range(3):
                costs = sorted(dice.sample(range(1, 40), 4))
                seconds = sorted(dice.sample(range(1, 4000), 4), reverse=True)
                fronts.append([point(c, s) for c, s in zip(costs, seconds, strict=True)])
            steps = worth_it(fronts)
            for hour in (0, 1, 7, 30, 200):
                with self.subTest(seed=seed, hour=hour):
                    self.assertEqual(_least(fronts, steps, hour), _least(fronts, product(range(4), repeat=3), hour))


def _least(fronts, choices, hour) -> Decimal:
    """The least total of several choices of a plan for each paper."""
    plans = ([front[place] for front, place in zip(fronts, at, strict=True)] for at in choices)
    return min(together(each).total(Decimal(hour)) for each in plans)
