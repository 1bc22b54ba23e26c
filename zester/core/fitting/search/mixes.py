"""Sheets of several prices: how many of each, one number after the other, in the order of what they cost.

Where sheets have different prices, plans have many possible costs between the bound and the best plan known:

    42 and 64 cents, between 8.14 and 8.26:   18 + 1 for 8.20,  15 + 3 for 8.22,  12 + 5 for 8.24

Each such mix is a problem of its own with so many sheets of each kind. Whole-number prices y of the sizes prove that
it holds too little as soon as

    sum(y * demand)  >  sum over kinds of  sheets * F(kind),        F: the most value one sheet can give

(Farkas 1902: the linear program of the mix has no solution). Prices that exclude one mix mostly exclude its
neighbours. What they do not exclude is fitted from just these sheets; then listing (``closing.py``) finds the plan or
proves that there is none. The first mix that holds everything is the cheapest plan if all cheaper ones are excluded.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from zester.core.errors import sure
from zester.core.fitting.patterns.columns import Column, ColumnPool, Tables, exact_values
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.search.closing import close_gap
from zester.core.fitting.solver import CoverProgram

# More kinds of priced sheets, or more mixes in all, are not looked at one by one.
MOST_KINDS, MOST_MIXES = 3, 400
ROUNDS = 60
# What a piece without a column counts, in shares of all sheets.
MISSING = 10.0
EFFORT = 0.3
SECONDS = 2.0


Chosen = tuple[tuple[Column, int], ...]
Fit = Callable[[Problem, int], Chosen | None]


@dataclass(frozen=True)
class Excluded:
    """What whole-number prices prove: a mix whose sheets hold less than is wanted by them holds too little."""

    worth: tuple[int, ...]
    """Of every size."""
    values: tuple[int, ...]
    """Of every stock: the most one sheet can give."""
    wanted: int
    """What is wanted comes to."""

    def rules_out(self, counts: Sequence[int]) -> bool:
        """Whether so many sheets of every stock are too little."""
        return self.wanted > self._given(counts)

    def share(self, counts: Sequence[int]) -> float:
        """What share of so many sheets is needed at the least."""
        return self.wanted / max(1, self._given(counts))

    def _given(self, counts: Sequence[int]) -> int:
        return sum(count * value for count, value in zip(counts, self.values, strict=True))


class Mixes:
    """The search for one problem with exact tables, from its bound up to the cost of the best plan known, in units.

    ``fit`` gives a plan for a problem with so many sheets of each kind that costs no more than it says, or None.
    ``go_on`` is asked now and then.
    """

    def __init__(self, problem: Problem, tables: Tables, pool: ColumnPool, fit: Fit, go_on: Callable[[], bool]):
        self.problem, self.tables, self.pool, self.fit, self.go_on = problem, tables, pool, fit, go_on
        self.priced = [index for index, cost in enumerate(problem.costs) if cost]
        self.excluded: list[Excluded] = []
        self.nearest: Excluded | None = None

    @property
    def apply(self) -> bool:
        """Whether there are several prices, few enough, and every other kind of sheet is limited."""
        rest = [stock for stock, cost in zip(self.problem.stocks, self.problem.costs, strict=True) if not cost]
        several = len({self.problem.costs[index] for index in self.priced}) > 1
        return (
            self.tables.exact
            and several
            and len(self.priced) <= MOST_KINDS
            and all(stock.count is not None for stock in rest)
        )

    def run(self, bound: int, cost: int) -> tuple[Chosen | None, int]:
        """A plan cheaper than ``cost``, if one is found; and the bound as far as it could be raised."""
        levels, raised = self.levels(bound, cost), True
        if levels is None:
            return None, bound
        for level, mixes in levels:
            if raised:
                bound = level
            for counts in mixes:
                if not self.go_on():
                    return None, bound
                if self._excluded(counts):
                    continue
                found, settled = self._settle(counts, level)
                if found:
                    return found, bound
                raised &= settled
        return None, cost if raised else bound

    def exclude(self, bound: int, cost: int) -> int:
        """The bound as far as prices alone raise it; the prices are in ``excluded``."""
        levels = self.levels(bound, cost)
        if levels is None:
            return bound
        for level, mixes in levels:
            for counts in mixes:
                if not self.go_on() or not self._excluded(counts):
                    return level
        return cost

    def levels(self, bound: int, cost: int) -> list[tuple[int, list[list[int]]]] | None:
        """The costs from the bound up to what is known, with the mixes that have them; None if there are too many.

        A mix says how many of each stock: of those without a price all.
        """
        found: dict[int, list[list[int]]] = {}
        for number, counts in enumerate(self._mixes(bound, cost)):
            if number == MOST_MIXES:
                return None
            level = sum(n * each for n, each in zip(counts, self.problem.costs, strict=True))
            found.setdefault(level, []).append(counts)
        return sorted(found.items())

    def _mixes(self, bound: int, cost: int) -> Iterator[list[int]]:
        """How many sheets of each stock, so that they cost the bound at least and less than the cost."""
        stocks, costs = self.problem.stocks, self.problem.costs
        counts = [stock.count or 0 for stock in stocks]

        def spread(spent: int, rest: list[int]) -> Iterator[list[int]]:
            index, more = rest[0], rest[1:]
            most = max(0, cost - 1 - spent) // costs[index]
            there = stocks[index].count
            most = most if there is None else min(most, there)
            # The last kind has to reach the bound.
            least = 0 if more else max(0, -(-(bound - spent) // costs[index]))
            for number in range(most, least - 1, -1):
                counts[index] = number
                if more:
                    yield from spread(spent + number * costs[index], more)
                else:
                    yield list(counts)

        yield from spread(0, self.priced)

    def _excluded(self, counts: Sequence[int]) -> bool:
        """Whether prices prove that so many sheets are too few; if not, the best prices are kept in ``nearest``.

        The linear program asks what share of the sheets would do; more than all of them means too few.
        """
        if any(known.rules_out(counts) for known in self.excluded):
            return True
        problem = self.problem
        sizes, used = len(problem.sizes), 0
        program = CoverProgram(problem.demands, [0] * len(counts))
        program.add(1.0, {sizes + stock: -count for stock, count in enumerate(counts) if count})
        for index in range(sizes):
            program.add(MISSING, {index: 1})
        self.nearest = None
        for _ in range(ROUNDS):
            for column in self.pool.columns[used:]:
                rows = {index: count for index, count in enumerate(column.counts) if count}
                program.add(0.0, rows | {sizes + column.sheet: 1})
            used = len(self.pool.columns)
            _, duals = program.solve()
            found = self._proof(self.tables.whole_prices([max(0.0, dual) for dual in duals[:sizes]]))
            if self.nearest is None or found.share(counts) > self.nearest.share(counts):
                self.nearest = found
            if found.rules_out(counts):
                self.excluded.append(found)
                return True
            for stock in range(len(counts)):
                self.pool.add(stock, self.tables.tree(stock))
            if len(self.pool.columns) == used or not self.go_on():
                break
        return False

    def _proof(self, worth: Sequence[int]) -> Excluded:
        values = exact_values(self.problem, self.tables, worth)
        wanted = sum(w * d for w, d in zip(worth, self.problem.demands, strict=True))
        return Excluded(tuple(worth), tuple(values), wanted)

    def _settle(self, counts: Sequence[int], level: int) -> tuple[Chosen | None, bool]:
        """A plan from so many sheets, or whether it is certain that there is none."""
        stocks = tuple(replace(stock, count=n) for stock, n in zip(self.problem.stocks, counts, strict=True))
        mine, nearest = replace(self.problem, stocks=stocks), sure(self.nearest).worth
        found = self.fit(mine, level)
        if found or not self.go_on():
            return found, False
        closed = close_gap(mine, self.tables, [nearest], level + 1, level, seconds=SECONDS, effort=EFFORT)
        return closed.chosen, closed.settled
