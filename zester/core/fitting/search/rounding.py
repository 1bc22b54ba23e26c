"""Whole numbers of sheets out of the fractional mix.

Several ways are tried until the proven bound is reached or the rounds are used up:

1. the mix rounded down, the rest filled sheet by sheet with layouts that respect what is still wanted;
2. sheets filled one after the other from nothing, with several values for the sizes;
3. part of the mix rounded at random, the rest sheet by sheet with values that learn (1 to 3: ``filling.py``);
4. the integer program over all columns found so far (``whole.py``; Gilmore & Gomory's columns plus those of 1 and 2);
5. one person's share fitted alone and repeated, where that could meet the bound (``smaller.py``);
6. every column that a cheaper plan could use (``gaps.py``), which finds that plan or proves there is none; where
   some sizes have no price, for the others alone, which is proof enough if it proves that there is none;
7. where sheets have several prices, one number of each kind after the other (``mixes.py``);
8. more columns, from the column program of what the rounded-down mix leaves over, and from shaken prices.

Plans of the same cost that take fewer minutes, and easier ones that cost more, come after that (``easing.py``). Among
answers of equal cost the one that takes the fewest minutes at the trimmer is kept.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator

from zester.core.fitting.jobs.job import KeepRule
from zester.core.fitting.minutes.easing import Easing
from zester.core.fitting.minutes.easy_columns import EasyColumns
from zester.core.fitting.search.filling import Filling
from zester.core.fitting.search.found import Answer, Found
from zester.core.fitting.search.gaps import EFFORTS, Gaps
from zester.core.fitting.search.smaller import Depth, Smaller
from zester.core.fitting.search.whole import NearPerfect, whole_program

AREA_VALUES = (1.0, 1.06, 1.15, 0.97, 1.3)
WIDENINGS = 6
# What is kept of the time for judging plans that are easier to cut.
JUDGING = 1.2
# How often pieces are packed greedily.
QUICK_TRIES, TRIES = 12, 200
# How often sheets are filled with values that learn. With many kinds of sheets that takes long, and comes later.
FEW_TURNS, TURNS, FEW_KINDS = 6, 40, 6
# What is taken back of the mix, and how many nearly perfect columns are added.
NEAR_TRIES = ((0, 800), (0, 300), (1, 300), (2, 100))
FEW_NEAR_TRIES = ((0, 300), (1, 300), (2, 100))
Way = Callable[[], None]


class Rounding:
    """Looks for the best whole answer to one problem, one way after the other.

    Parameters
    ----------
    found : Found
        The problem, and what is known of it; the best answer and the bound are there afterwards.
    depth : Depth
        How much to try.
    """

    def __init__(self, found: Found, depth: Depth = Depth.FULL):
        self.found, self.depth = found, depth
        self.filling = Filling(found)
        self.smaller = Smaller(found, _round)
        self.gaps = Gaps(found, self.smaller)
        self.near = NearPerfect(found)

    def run(self) -> Answer:
        """The best answer found; never worse than sheets that each hold one size only."""
        found = self.found
        found.take(self.filling.one_size_a_sheet())
        for number, way in enumerate(self._ways()):
            # However little time there is, sheets are filled once, and pieces packed greedily once.
            if found.done or (number > 1 and found.is_begun and found.seconds_left() < 0):
                break
            way()
        return found.best

    def eased(self, best: Answer, more: float = 0.0, keep: KeepRule | None = None) -> list[Answer]:
        """The answer that ``run`` gave and others that take fewer minutes, the thriftiest first.

        They cost up to ``more`` of its cost more; with 0 they cost the same. ``keep`` tells which offcuts are kept.
        """
        found = self.found
        if found.lacks:
            return [best]

        def go_on() -> bool:
            found.tell("fewer minutes")
            return found.seconds_left() > JUDGING

        columns = EasyColumns(found.problem, found.tables, found.stack, go_on, keep)
        easing = Easing(columns, found.pool.columns, best.chosen, found.seconds_left)
        eased = [found.answer(each.chosen, found.nothing) for each in easing.run(more)]
        return sorted([best, *(answer for answer in eased if answer)], key=Answer.rank)

    def _ways(self) -> Iterator[Way]:
        """What is tried, one after the other, until the bound is met."""
        found, filling, gaps = self.found, self.filling, self.gaps
        yield lambda: found.take(filling.fill_rest(found.relaxed.amounts, found.price_worth()))
        if self.depth is not Depth.QUICK:
            yield lambda: filling.greedy(QUICK_TRIES)
            yield gaps.exclude_mixes
            if len(found.problem.stocks) <= FEW_KINDS and found.quick and not found.many:
                yield lambda: filling.correct(FEW_TURNS)
        yield self._whole
        if self.depth is Depth.QUICK:
            return
        if self.depth is Depth.FULL:
            yield self.smaller.one_share
            yield gaps.close_for_priced
            yield gaps.by_mixes
            if not found.many:
                yield lambda: filling.correct(TURNS)
            yield from self._for_many_sheets() if found.many else self._for_few_sheets()
        else:
            yield from self._for_few_sheets()
        if self.depth is Depth.SHARE:
            return
        shaker = random.Random(20)
        for turn in range(WIDENINGS):
            yield self._widening(turn, shaker)
            yield self._closing(EFFORTS[min(1 + turn, len(EFFORTS) - 1)])

    def _for_many_sheets(self) -> Iterator[Way]:
        # A dive fills tables again and again; where that takes long the nearly perfect columns come first.
        before = 1 if self.found.quick else len(NEAR_TRIES)
        for back, most in NEAR_TRIES[:before]:
            yield self._nearly(back, most)
        yield self.smaller.dive
        for back, most in NEAR_TRIES[before:]:
            yield self._nearly(back, most)
        yield self._closing(EFFORTS[0])

    def _for_few_sheets(self) -> Iterator[Way]:
        yield self._by_area(AREA_VALUES[0])
        yield self._closing(EFFORTS[0])
        if self.found.quick:
            yield from self._by_areas()
        if self.depth is not Depth.SHARE:
            if not self.found.problem.limited:
                # Where a few sheets leave next to no waste, sheets that lose next to nothing find the plan in a tenth
                # of the time a dive takes.
                for back, most in FEW_NEAR_TRIES:
                    yield self._nearly(back, most)
            yield self.smaller.dive
        if not self.found.quick:
            yield from self._by_areas()
        yield lambda: self.filling.greedy(TRIES)
        yield self._whole
        yield self._closing(EFFORTS[1])

    def _by_areas(self) -> Iterator[Way]:
        for power in AREA_VALUES[1:]:
            yield self._by_area(power)
        yield self._whole

    def _by_area(self, power: float) -> Way:
        return lambda: self.found.take(self.filling.fill_rest([], self.found.area_worth(power)))

    def _nearly(self, back: int, most: int) -> Way:
        return lambda: self.near.try_with(back, most)

    def _closing(self, effort: float) -> Way:
        return lambda: self.gaps.close(effort)

    def _whole(self) -> None:
        self.found.take(whole_program(self.found))

    def _widening(self, turn: int, shaker: random.Random) -> Way:
        return lambda: self._widen(turn, shaker)

    def _widen(self, turn: int, shaker: random.Random) -> None:
        """More columns, and the whole program again."""
        found = self.found
        known = len(found.pool.columns)
        self.smaller.residual_columns(turn)
        self._shaken_columns(shaker)
        found.take(self.filling.fill_rest([], self._shaken_worth(shaker)))
        if len(found.pool.columns) > known:
            self._whole()

    def _shaken_columns(self, shaker: random.Random) -> None:
        found = self.found
        for _ in range(4):
            worth = self._shaken_worth(shaker)
            found.tables.fill(worth)
            for index in range(len(found.problem.stocks)):
                found.pool.add(index, found.tables.tree(index))
                found.pool.add(index, found.tables.bounded_tree(index, worth, found.problem.demands))

    def _shaken_worth(self, shaker: random.Random) -> list[int]:
        return [max(1, int(worth * shaker.uniform(0.75, 1.25))) for worth in self.found.area_worth(1.05)]


def _round(found: Found, depth: Depth) -> Answer:
    return Rounding(found, depth).run()
