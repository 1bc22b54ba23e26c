"""Part of the mix rounded at random, the rest sheet by sheet with values that learn.

After every sheet the value of what lies on it is drawn towards its area, and a little more the more of that sheet is
wasted: what is hard to place is worth more the next time (sequential value correction: Belov & Scheithauer 2007, Setup
and open-stacks minimization in one-dimensional stock cutting; here for sheets). Beginning with a share of the linear
program's mix, rounded at random, most sheets lose next to nothing already. Of classes with 30 to 40 sizes, in which
nothing else found the last sheet in ten seconds, that found it in one.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence

from zester.core.fitting.patterns.columns import Column, use_up
from zester.core.fitting.patterns.problem import Problem

# What shares of the mix are taken in turn, and how far chance may round them up.
SHARES, CHANCE = (0.0, 0.5, 0.8, 1.0), 0.6
# Values are areas to this power, and are begun anew after so many turns.
POWER, ANEW = 1.02, 16
# How much older values weigh, at random around 1.
WEIGHT = 1.5
SCALE = 1e6
SEED = 5

Chosen = list[tuple[Column, int]]
# The best next sheet for what is left, from the stock that is left, by whole-number values.
NextSheet = Callable[[list[int], list[int | None], list[int]], Column | None]


class Correcting:
    """Fillings of one problem, one after the other.

    ``mix`` are columns and how much of each the linear program takes.
    """

    def __init__(self, problem: Problem, mix: Sequence[tuple[Column, float]], next_sheet: NextSheet):
        self.problem, self.next_sheet, self.dice = problem, next_sheet, random.Random(SEED)
        self.mix = [(column, amount) for column, amount in mix if amount > 1e-6]
        self.areas = [float(size.area) for size in problem.sizes]
        self.values: list[float] = []
        self.turn = 0

    def fill(self, enough: int, go_on: Callable[[], bool] = lambda: True) -> Chosen | None:
        """Another filling that costs less than ``enough`` units, if this turn finds one.

        ``go_on`` is asked before every sheet.
        """
        if self.turn % ANEW == 0:
            self.values = [area**POWER for area in self.areas]
        left, stock = list(self.problem.demands), [each.count for each in self.problem.stocks]
        chosen = self._share(SHARES[self.turn % len(SHARES)], left, stock)
        self.turn += 1
        cost = sum(self.problem.costs[column.sheet] * copies for column, copies in chosen)
        while any(left):
            top = max(self.values)
            column = self.next_sheet(left, stock, [int(SCALE * value / top) + 1 for value in self.values])
            if column is None or not go_on() or cost + self.problem.costs[column.sheet] >= enough:
                return None
            counts = [min(count, there) for count, there in zip(column.counts, left, strict=True)]
            self._learn(column, counts, left)
            use_up(column, 1, left, stock)
            chosen.append((column, 1))
            cost += self.problem.costs[column.sheet]
        return chosen

    def _share(self, share: float, left: list[int], stock: list[int | None]) -> Chosen:
        """Whole copies of a share of the mix, rounded at random, that make no more than is wanted."""
        chosen: Chosen = []
        for column, amount in self.dice.sample(self.mix, len(self.mix)) if share else ():
            most = [there // count for there, count in zip(left, column.counts, strict=True) if count]
            lying = stock[column.sheet]
            if lying is not None:
                most.append(lying)
            copies = min(int(amount * share + self.dice.random() * CHANCE), *most)
            if copies:
                use_up(column, copies, left, stock)
                chosen.append((column, copies))
        return chosen

    def _learn(self, column: Column, counts: Sequence[int], left: Sequence[int]) -> None:
        used = sum(count * area for count, area in zip(counts, self.areas, strict=True))
        wasted = self.problem.stocks[column.sheet].area / used
        old = self.dice.uniform(1 / WEIGHT, WEIGHT)
        for index, count in enumerate(counts):
            if count:
                weight = old * (self.problem.demands[index] + left[index])
                new = self.areas[index] ** POWER * wasted
                self.values[index] = (weight * self.values[index] + count * new) / (weight + count)
