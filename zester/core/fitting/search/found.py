"""What is known of one problem while whole numbers of sheets are looked for: columns, the bound, the best so far."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from zester.core.fitting.parts import walk
from zester.core.fitting.patterns.columns import Column, ColumnPool, Relaxed, Tables, relax
from zester.core.fitting.patterns.handling import seconds_of_layouts
from zester.core.fitting.patterns.problem import Problem
from zester.core.fitting.patterns.tidy import tidy_layouts

HEAVY_WORK = 1_500_000
MANY_SHEETS = 200


@dataclass(frozen=True, kw_only=True)
class Answer:
    """Whole copies of columns, and what they come to."""

    chosen: tuple[tuple[Column, int], ...]
    """Columns and copies."""
    missing: tuple[int, ...]
    """How many of each size are not made."""
    cost: int
    """In units."""
    work: float
    """Seconds at the trimmer, as ``handling.py`` estimates them."""
    offcuts: int
    """Parts left over."""

    def rank(self) -> tuple[Any, ...]:
        """What is better comes first: nothing missing, cheap, few sheets, little work, few offcuts, few layouts."""
        sheets = sum(copies for _, copies in self.chosen)
        return (sum(self.missing), self.cost, sheets, self.work, self.offcuts, len(self.chosen))


class Found:
    """One problem with what was found for it so far; every way to more sheets looks here and puts here.

    Parameters
    ----------
    problem, tables, pool, relaxed
        The paper's problem, its knapsack tables, the columns so far and the solved linear program.
    stack : int
        Sheets cut at once, for counting strokes.
    tell : callable
        Called with a short text at every step; may raise to stop.
    seconds_left : callable
        How much of the time budget is left.
    compiled : callable
        Called before compiled loops are needed that a small table does without.
    """

    def __init__(
        self,
        problem: Problem,
        tables: Tables,
        pool: ColumnPool,
        relaxed: Relaxed,
        *,
        stack: int,
        tell: Callable[[str], None],
        seconds_left: Callable[[], float],
        compiled: Callable[[], None] = lambda: None,
    ):
        self.problem, self.tables, self.pool, self.relaxed = problem, tables, pool, relaxed
        self.stack, self.tell, self.seconds_left, self.compiled = stack, tell, seconds_left, compiled
        self._best: Answer | None = None
        self.bound = relaxed.bound

    @property
    def nothing(self) -> list[int]:
        """That no piece of any size is missing."""
        return [0] * len(self.problem.sizes)

    @property
    def lacks(self) -> bool:
        """Whether there is no answer yet that makes every piece."""
        return self._best is None or any(self._best.missing)

    @property
    def done(self) -> bool:
        """Whether the best answer is proven the best there is."""
        return not self.lacks and self.best.cost <= self.bound

    @property
    def is_begun(self) -> bool:
        """Whether there is any answer yet."""
        return self._best is not None

    @property
    def best(self) -> Answer:
        """The best answer so far: the first way that is tried gives one, whatever happens."""
        if self._best is None:
            raise RuntimeError("no way has been tried yet")
        return self._best

    @property
    def quick(self) -> bool:
        """Whether filling the tables takes next to no time."""
        return self.tables.work <= HEAVY_WORK

    @property
    def many(self) -> bool:
        """Whether hundreds of sheets are needed, so that nearly everything is in the rounded-down mix."""
        return self.bound >= MANY_SHEETS * max(self.problem.costs) and not self.problem.limited

    @property
    def one_endless_sheet(self) -> bool:
        """Whether all comes from sheets of one kind, of which there are enough."""
        return not (len(self.problem.stocks) > 1 or self.problem.limited or self.problem.may_run_out)

    def take(self, answer: Answer | None) -> None:
        """Keep an answer if it is better than the best so far."""
        if answer is not None and (self._best is None or answer.rank() < self._best.rank()):
            self._best = answer
            self.tell(f"{sum(copies for _, copies in answer.chosen)} sheets")

    def take_whole(self, chosen: Sequence[tuple[Column, int]]) -> None:
        """The same for columns and copies that make everything."""
        self.take(self.answer(chosen, self.nothing))

    def raise_bound(self, bound: int) -> None:
        """Nothing costs less than this."""
        self.bound = max(self.bound, bound)

    def settle_prices(self) -> None:
        """Solve the linear program to its end, if that was stopped early."""
        if not self.relaxed.settled:
            self.tell("better prices")
            self.relaxed = relax(
                self.problem, self.tables, self.pool, lambda _: None, lambda: self.seconds_left() - 1.0, early=False
            )
            self.raise_bound(self.relaxed.bound)

    def price_worth(self) -> list[int]:
        """Values of the sizes by the linear program's prices; what has none is worth a little by its area."""
        sizes = self.problem.sizes
        top = max(self.relaxed.prices) or 1.0
        largest = max(size.area for size in sizes)
        return [
            int(1e6 * price / top + 1e3 * size.area / largest) + 1
            for price, size in zip(self.relaxed.prices, sizes, strict=True)
        ]

    def area_worth(self, power: float) -> list[int]:
        """Values of the sizes by their areas; above 1 the large ones count more."""
        largest = max(size.area for size in self.problem.sizes)
        return [int(1e6 * (size.area / largest) ** power) + 1 for size in self.problem.sizes]

    def answer(self, chosen: Sequence[tuple[Column, int]], missing: Sequence[int]) -> Answer | None:
        """The columns and copies as an answer; None if they do not make what they should (a float gone wrong)."""
        made = [0] * len(self.problem.sizes)
        for column, copies in chosen:
            for index, count in enumerate(column.counts):
                made[index] += copies * count
        if any(m + lost < demand for m, lost, demand in zip(made, missing, self.problem.demands, strict=True)):
            return None
        merged: dict[tuple[Any, ...], tuple[Column, int]] = {}
        for column, copies in chosen:
            key = (column.sheet, column.counts)
            merged[key] = (column, copies + (merged[key][1] if key in merged else 0))
        trees = tidy_layouts(
            [(column.tree, copies) for column, copies in merged.values()], self.stack, self.problem.limits
        )
        pairs = zip(merged.values(), trees, strict=True)
        if not all(self.problem.stocks[column.sheet].can_cut(tree) for (column, _), tree in pairs):
            return None
        kept = tuple(
            (replace(column, tree=tree), copies) for (column, copies), tree in zip(merged.values(), trees, strict=True)
        )
        cost = sum(self.problem.costs[column.sheet] * copies for column, copies in kept)
        offcuts = sum(copies * sum(part.left_over for part in walk(column.tree)) for column, copies in kept)
        work = seconds_of_layouts(
            ((c.tree, n) for c, n in kept if not self.problem.stocks[c.sheet].is_window), self.stack
        )
        return Answer(chosen=kept, missing=tuple(missing), cost=cost, work=work, offcuts=offcuts)
