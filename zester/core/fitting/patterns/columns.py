"""The linear program over sheets, made column by column, and its exact lower bound.

A column is one way of cutting one sheet. The program asks for the cheapest (fractional) mix of columns that makes
every size often enough; its prices tell the knapsack which new column would pay (Gilmore & Gomory 1961, 1965).

The bound needs no trust in floats. Prices are rounded to integers, the knapsack values every sheet with them exactly,
and by linear programming duality (Farley 1990)

    cost of any plan  >=  theta * sum(price * demand)  -  sum over limited sheets of  count * max(0, theta * F - cost)

for any non-negative prices, if theta is chosen so that no unlimited sheet is worth more than it costs. The best such
bound is kept and rounded up to the next sum of money that sheets can cost.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property, reduce
from math import gcd
from typing import Any

from zester.core.errors import sure
from zester.core.fitting.jobs.job import NO_MARGINS
from zester.core.fitting.parts import ANY_CUT, Part, count_cuts, count_sizes, grid_tree, peel, without
from zester.core.fitting.patterns.knapsack import (
    LARGEST_VALUE,
    MOST_CANDIDATES,
    GuillotineTable,
    Item,
    TooManyPositions,
)
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.fitting.patterns.problem import Problem, Size, Stock
from zester.core.fitting.patterns.tidy import tidy
from zester.core.fitting.solver import CoverProgram

COARSE = 127
# Tables for bounds may compare so many cuts, and are filled so often, if there is so much time.
FINER_WORK, FINER_ROUNDS, FINER_SECONDS = 1_000_000_000, 12, 1.5
LARGEST_GRID = 5000
MANY_PIECES = 300
# The share of the time that may go into columns to begin with.
START_SHARE = 0.2
SMOOTH, SMOOTH_FINER = 0.5, 0.3


@dataclass(frozen=True)
class Column:
    """One way of cutting one sheet: its cut tree and how many of each size it makes."""

    sheet: int
    """The index of the stock."""
    counts: tuple[int, ...]
    """How many of each size."""
    tree: Part
    """The cut tree that gives them."""


def use_up(column: Column, copies: int, left: list[int], stock: list[int | None]) -> None:
    """Take what so many copies make from what is left to make, and their sheets from the stock."""
    for index, count in enumerate(column.counts):
        left[index] = max(0, left[index] - copies * count)
    there = stock[column.sheet]
    if there is not None:
        stock[column.sheet] = there - copies


def make_column(problem: Problem, sheet: int, tree: Part) -> Column:
    """The column of a cut tree."""
    return Column(sheet, count_sizes(tree, len(problem.sizes)), tree)


class Tables:
    """The knapsack tables of a problem: one for all sheets that may hold the same sizes.

    Where a narrow strip may be held by a sheet's margin, the tables leave out that it has to be held, which is right
    for bounds. A tree that cannot be cut then is replaced by one of a table in which no margin holds anything.

    Where there are too many positions, the sizes are rounded up to a grid for the table (from 1/64 in on, doubled until
    it fits) and put right in the trees; ``exact`` is false then, and no bound may be drawn from the table.
    ``finer`` are the same without a grid, where filling them takes a second or two: a few times that is worth a bound.
    """

    def __init__(self, problem: Problem, most_work: int = MOST_CANDIDATES):
        self.problem, self.exact, self.most_work = problem, True, most_work
        groups: dict[tuple[Any, ...], list[int]] = {}
        for index, stock in enumerate(problem.stocks):
            groups.setdefault((stock.allowed, stock.table_limits), []).append(index)
        self._of: dict[int, GuillotineTable] = {}
        self._of_held: dict[int, GuillotineTable] = {}
        self._held: dict[int, GuillotineTable] = {}
        self._filled: tuple[Sequence[int], int] = ((0,) * len(problem.sizes), 0)
        self.all: list[GuillotineTable] = []
        for (allowed, _), stocks in groups.items():
            self.all.append(self._table(allowed, [problem.stocks[index] for index in stocks]))
            self._of |= dict.fromkeys(stocks, self.all[-1])
        # Up to four sides of every piece are cut, and what is cut is trimmed to a position first.
        cuts = max(6 * stock.width * stock.height // self._smallest() for stock in problem.stocks)
        self.cuts_a_unit = 1 << max(12, (cuts + 1).bit_length())

    def _smallest(self) -> int:
        return min(size.area for size in self.problem.sizes)

    def _table(self, allowed: tuple[bool, ...], stocks: list[Stock]) -> GuillotineTable:
        grid = 1
        while True:
            try:
                return _table(self.problem, allowed, stocks, grid, self.most_work)
            except TooManyPositions:
                self.exact = False
                grid = COARSE if grid == 1 else 2 * grid

    @cached_property
    def finer(self) -> Tables | None:
        """Exact tables for bounds, if there are any that can be filled."""
        if self.exact:
            return self
        found = Tables(self.problem, FINER_WORK)
        return found if found.exact else None

    @property
    def work(self) -> int:
        """How many cuts one filling of all tables compares."""
        return sum(table.work for table in self.all)

    def fill(self, worth: Sequence[int], cut_price: int = 0) -> None:
        """Fill every table for these values."""
        self._filled, self._held = (worth, cut_price), {}
        for table in self.all:
            table.fill(worth, cut_price)

    def _held_table(self, index: int) -> GuillotineTable:
        """The table of a sheet in which every strip is held by the sheet itself, filled like the others."""
        stock = self.problem.stocks[index]
        if index not in self._of_held:
            width, height = stock.sheet.inner
            bare = replace(stock.sheet, width=width, height=height, margins=NO_MARGINS)
            try:
                table = _table(self.problem, stock.allowed, [replace(stock, source=bare)], 1, self.most_work)
            except TooManyPositions:
                table = self._of[index]
            self._of_held[index] = table
        table = self._of_held[index]
        if index not in self._held:
            table.fill(*self._filled)
            self._held[index] = table
        return table

    def best(self, stock: int) -> int:
        """The most value a sheet of this kind can give."""
        sheet = self.problem.stocks[stock]
        return self._of[stock].best(sheet.width, sheet.height)

    def tree(self, stock: int, dice: random.Random | None = None) -> Part:
        """A cut tree of that value."""
        sheet = self.problem.stocks[stock]
        tree = self._of[stock].tree(sheet.width, sheet.height, dice)
        return tree if sheet.can_cut(tree) else self._held_table(stock).tree(sheet.width, sheet.height, dice)

    def bounded_tree(self, stock: int, worth: Sequence[int], most: Sequence[int], cut_price: int = 0) -> Part:
        """A good cut tree of the sheet that never makes more of a size than ``most``."""
        sheet = self.problem.stocks[stock]
        tree = self._of[stock].bounded_tree(sheet.width, sheet.height, worth, most, cut_price)
        if sheet.can_cut(tree):
            return tree
        return self._held_table(stock).bounded_tree(sheet.width, sheet.height, worth, most, cut_price)

    def table_of(self, stock: int) -> GuillotineTable:
        """The table that knows this kind of sheet."""
        return self._of[stock]

    def whole_prices(self, prices: Sequence[float]) -> list[int]:
        """Prices as whole numbers, as large as the tables can add up exactly with every cut priced."""
        # A table reaches as far as its widest and its highest sheet.
        stocks = self.problem.stocks
        sheet = max(stock.width for stock in stocks) * max(stock.height for stock in stocks)
        densest = max(price / size.area for price, size in zip(prices, self.problem.sizes, strict=True))
        scale = LARGEST_VALUE / (2 * self.cuts_a_unit * max(densest * sheet, 1e-12))
        return [int(max(0.0, price) * scale) for price in prices]


def _table(
    problem: Problem, allowed: tuple[bool, ...], stocks: list[Stock], grid: int, most_work: int
) -> GuillotineTable:
    """The table with every size rounded up to the grid (1: as it is); raises TooManyPositions."""
    items = []
    for index, size in enumerate(problem.sizes):
        if not allowed[index]:
            continue
        width, height = -(-size.width // grid) * grid, -(-size.height // grid) * grid
        # What would no longer fit a sheet when rounded stays as it is.
        if grid > 1 and not any(
            stock.holds(Size(width=width, height=height, turn=size.turn, demand=1)) for stock in stocks
        ):
            width, height = size.width, size.height
        ways = [(width, height), (height, width)][: 1 + size.turn]
        items += [Item(index, *way) for way in ways if any(stock.yields(*way) for stock in stocks)]
    width = max(stock.width for stock in stocks)
    height = max(stock.height for stock in stocks)
    limits = stocks[0].table_limits
    across = _lengths(problem, items, "width", width, limits.hold)
    down = _lengths(problem, items, "height", height, limits.hold)
    sizes = [(size.width, size.height) for size in problem.sizes]
    xs, ys = normal_positions(across, width), normal_positions(down, height)
    tops = [(stock.width, stock.height) for stock in stocks]
    return GuillotineTable(xs, ys, items, sizes, limits, tops, most_work)


def _lengths(problem: Problem, items: Sequence[Item], side: str, longest: int, hold: int) -> list[tuple[int, int]]:
    most: dict[tuple[int, int], int] = {}
    for item in items:
        most[getattr(item, side), item.size] = problem.sizes[item.size].demand
    lengths: dict[int, int] = {}
    for (length, _), demand in most.items():
        lengths[length] = lengths.get(length, 0) + demand
    if hold:
        # Waste that narrow strips are held by is as good as a piece.
        lengths[hold] = longest // hold
    return sorted(lengths.items())


@dataclass
class ColumnPool:
    """All columns found so far, each once, with the tree of the fewest cuts known for it."""

    problem: Problem
    columns: list[Column] = field(default_factory=list)
    _places: dict[tuple[Any, ...], int] = field(default_factory=dict)

    def add(self, sheet: int, tree: Part) -> Column | None:
        """Add the column of a cut tree; None if it makes nothing, cannot be cut or is known."""
        stock = self.problem.stocks[sheet]
        tree = self._capped(tree)
        tree = tidy(tree, halve=False, limits=stock.limits)
        column = make_column(self.problem, sheet, tree)
        place = self._places.get((sheet, column.counts))
        if not any(column.counts) or not stock.can_cut(tree):
            return None
        if place is not None:
            if count_cuts(tree) < count_cuts(self.columns[place].tree):
                self.columns[place] = column
            return None
        self._places[sheet, column.counts] = len(self.columns)
        self.columns.append(column)
        return column

    def _capped(self, tree: Part) -> Part:
        """The tree without what is beyond the whole demand, if it is so large that handling it would take long.

        The linear program is solved over columns that may make more, since the knapsack knows no demands.
        """
        counts = count_sizes(tree, len(self.problem.sizes))
        if sum(counts) < MANY_PIECES:
            return tree
        surplus = {k: n - d for k, (n, d) in enumerate(zip(counts, self.problem.demands, strict=True)) if n > d}
        return without(tree, surplus) if surplus else tree


@dataclass(frozen=True, kw_only=True)
class Relaxed:
    """The solved linear program."""

    amounts: list[float]
    """Of the pool's columns."""
    prices: list[float]
    """Of the sizes, floats in cost units."""
    worth: list[int]
    """The prices as the integers that proved the bound."""
    bound: int
    """The proven bound in cost units."""
    settled: bool
    """Whether no column pays any more."""


def relax(
    problem: Problem,
    tables: Tables,
    pool: ColumnPool,
    tell: Callable[[int], None],
    seconds_left: Callable[[], float],
    rounds: int = 2000,
    early: bool = True,
    rich: bool = False,
) -> Relaxed:
    """Solve the linear program by column generation.

    The prices asked for are the mean of the program's own and those of the best bound so far, as long as that finds
    columns that pay (smoothing: Wentges 1997; Pessoa, Sadykov, Uchoa & Vanderbeck 2018). ``tell`` hears the number of
    columns now and then; it is stopped early (with a valid bound) when no seconds are left, after ``rounds``, or, if
    ``early``, once the mix costs no more than the bound when rounded up. ``rich`` begins with more columns, which take
    a little time and help whole sheets later.
    """
    generation = _Generation(problem, pool, tell, seconds_left, early)
    one_size_columns(problem, pool)
    if rich:
        full_one_size_columns(problem, tables, pool, tell, seconds_left)
    relaxed = generation.run(tables, rounds)
    if tables.exact or seconds_left() < FINER_SECONDS or not tables.finer:
        return relaxed
    # A bound of exact tables that take long to fill, begun with the prices of coarser ones.
    return generation.run(tables.finer, FINER_ROUNDS, SMOOTH_FINER)


class _Generation:
    """A linear program that grows by columns until none pays."""

    def __init__(
        self,
        problem: Problem,
        pool: ColumnPool,
        tell: Callable[[int], None],
        seconds_left: Callable[[], float],
        early: bool,
    ):
        self.problem, self.pool, self.tell, self.seconds_left, self.early = problem, pool, tell, seconds_left, early
        self.program = CoverProgram(problem.demands, problem.how_many)
        self.penalty = 4.0 * (max(problem.costs) + 1)
        # What may be missing: a column for every size.
        self.missing = len(problem.sizes)
        for index in range(self.missing):
            self.program.add(self.penalty, {index: 1})
        self.bound, self.used = area_bound(problem), 0
        self.anchor: list[float] | None = None

    def run(self, tables: Tables, rounds: int, smooth: float = SMOOTH) -> Relaxed:
        """Ask these tables for columns; their bounds count if they are exact.

        ``smooth`` is how much the program's own prices weigh against the best so far.
        """
        problem, missing = self.problem, self.missing
        best: DualBound | None = None
        for _ in range(rounds):
            self._load()
            amounts, duals = self.program.solve()
            prices = [max(0.0, dual) for dual in duals[: len(problem.sizes)]]
            asked = [prices] if self.anchor is None else [_between(prices, self.anchor, smooth), prices]
            for ask in asked:
                proven = dual_bound(problem, tables, tables.whole_prices(ask), ask)
                if tables.exact:
                    self.bound = max(self.bound, reachable_cost(problem, proven.value))
                if best is None or proven.value > best.value:
                    best, self.anchor = proven, proven.prices
                found = _price_out(problem, tables, self.pool, prices, duals, self.penalty)
                if found:
                    break
            self.tell(len(self.pool.columns))
            if not found or self.seconds_left() < 0 or (self.early and self._tight(amounts)):
                break
        return Relaxed(
            amounts=amounts[missing:], prices=prices, worth=sure(best).worth, bound=self.bound, settled=not found
        )

    def _tight(self, amounts: Sequence[float]) -> bool:
        """Whether the mix itself rounds up to no more than the bound already proven (Farley's early stop)."""
        if any(amount > 1e-6 for amount in amounts[: self.missing]):
            return False
        cost = self.program.objective
        return reachable_cost(self.problem, Fraction(cost - 1e-6 * max(1.0, cost))) <= self.bound

    def _load(self) -> None:
        for column in self.pool.columns[self.used :]:
            self.program.add(lp_cost(self.problem, column.sheet), column_rows(self.problem, column))
        self.used = len(self.pool.columns)


def _between(prices: list[float], anchor: list[float], smooth: float) -> list[float]:
    return [smooth * price + (1 - smooth) * best for price, best in zip(prices, anchor, strict=True)]


def lp_cost(problem: Problem, sheet: int) -> float:
    """The cost of a sheet with a breath added, so that free sheets are not wasted either."""
    return problem.costs[sheet] + (0.001 if problem.costs[sheet] == 0 else 0.0)


def column_rows(problem: Problem, column: Column) -> dict[int, int]:
    """The rows of a column: the sizes it makes, and the stock of its sheet if that is limited."""
    rows = {index: count for index, count in enumerate(column.counts) if count}
    if problem.stocks[column.sheet].count is not None:
        rows[len(problem.sizes) + problem.limited.index(column.sheet)] = 1
    return rows


def program_at_cost(problem: Problem, cost: int) -> CoverProgram:
    """A program whose mix costs at most ``cost`` units: rows for the sizes, the limited sheets, the cost."""
    return CoverProgram(problem.demands, limits_at_cost(problem, cost))


def limits_at_cost(problem: Problem, cost: int) -> list[int]:
    """What the rows after the sizes may come to."""
    return [*problem.how_many, cost]


def rows_at_cost(problem: Problem, column: Column) -> dict[int, int]:
    """The rows of a column in such a program."""
    rows, cost = column_rows(problem, column), problem.costs[column.sheet]
    return rows | {len(problem.sizes) + len(problem.limited): cost} if cost else rows


def rents_at_cost(problem: Problem, duals: Sequence[float]) -> list[float]:
    """What a sheet of every stock has to earn in such a program, by its prices."""
    sizes = len(problem.sizes)
    rents = [-duals[sizes + len(problem.limited)] * each for each in problem.costs]
    for place, index in enumerate(problem.limited):
        rents[index] -= duals[sizes + place]
    return rents


def one_size_columns(problem: Problem, pool: ColumnPool) -> None:
    """For every size and every sheet the plain grids of that size alone, either way round, and a single one."""
    for index, size in enumerate(problem.sizes):
        for stock_index, stock in enumerate(problem.stocks):
            if not stock.allowed[index]:
                continue
            for across, down in size.ways:
                if not stock.yields(across, down):
                    continue
                if (stock.width // across) * (stock.height // down) <= LARGEST_GRID:
                    pool.add(stock_index, grid_tree(stock.width, stock.height, index, across, down, stock.limits))
                alone = Part(width=across, height=down, size=index)
                if stock.limits != ANY_CUT or not any(column.counts[index] for column in pool.columns):
                    # Where the trimmer's limits leave no grid, or it would be too large, one piece is a start.
                    pool.add(stock_index, peel(stock.width, stock.height, alone, stock.limits))


def full_one_size_columns(
    problem: Problem,
    tables: Tables,
    pool: ColumnPool,
    tell: Callable[[int], None],
    seconds_left: Callable[[], float],
) -> None:
    """For every size and every sheet the fullest sheet of that size alone, pieces lying both ways.

    They help, but are not needed: of many sizes the rest is left out once a fifth of the time has gone.
    """
    enough = seconds_left() * (1 - START_SHARE)
    for index, size in enumerate(problem.sizes):
        if seconds_left() < enough:
            break
        tell(len(pool.columns))
        tables.fill([int(k == index) for k in range(len(problem.sizes))])
        for stock in range(len(problem.stocks)):
            if 0 < tables.best(stock) <= max(MANY_PIECES, size.demand):
                pool.add(stock, tables.tree(stock))


def _price_out(
    problem: Problem, tables: Tables, pool: ColumnPool, prices: list[float], duals: list[float], penalty: float
) -> bool:
    """Add every sheet's best column, by the prices the tables were filled with, if the program's own say it pays."""
    found = False
    for index, stock in enumerate(problem.stocks):
        rent = 0.0
        if stock.count is not None:
            rent = -duals[len(problem.sizes) + problem.limited.index(index)]
        tree = tables.tree(index)
        counts = count_sizes(tree, len(problem.sizes))
        value = sum(count * price for count, price in zip(counts, prices, strict=True))
        if value > lp_cost(problem, index) + rent + 1e-7 * penalty:
            found |= pool.add(index, tree) is not None
    return found


@dataclass(frozen=True, kw_only=True)
class DualBound:
    """A bound proven by integer prices."""

    worth: list[int]
    """The price of each size, integers."""
    prices: list[float]
    """The floats that they came from."""
    theta: Fraction
    """What turns a price into cost units."""
    rents: list[Fraction]
    """What a sheet of limited stock must earn beyond its cost."""
    value: Fraction
    """The bound in cost units."""


def dual_bound(
    problem: Problem, tables: Tables, worth: Sequence[int], prices: Sequence[float] | None = None
) -> DualBound:
    """The bound that these integer prices prove; fills the tables with them, cuts priced next to nothing.

    A sheet has far fewer cuts than there are cut prices in a unit, so rounding up gives its exact value without them.
    """
    # What can be had for nothing is worth nothing; any price on it would spoil the bound of the rest.
    worth = [0 if free else price for price, free in zip(worth, problem.free, strict=True)]
    values = exact_values(problem, tables, worth)
    total = sum(price * demand for price, demand in zip(worth, problem.demands, strict=True))
    ratios = [
        Fraction(cost, value)
        for stock, cost, value in zip(problem.stocks, problem.costs, values, strict=True)
        if stock.count is None and value
    ]
    theta = min(ratios) if ratios else _any_theta(problem, worth, prices)
    rents = [
        max(Fraction(0), theta * value - cost) if stock.count is not None else Fraction(0)
        for stock, cost, value in zip(problem.stocks, problem.costs, values, strict=True)
    ]
    rent = sum((stock.count or 0) * each for stock, each in zip(problem.stocks, rents, strict=True))
    return DualBound(worth=list(worth), prices=list(prices or ()), theta=theta, rents=rents, value=theta * total - rent)


def exact_values(problem: Problem, tables: Tables, worth: Sequence[int]) -> list[int]:
    """The most that one sheet of every stock gives at whole prices; fills the tables, cuts priced next to nothing."""
    unit = tables.cuts_a_unit
    tables.fill([price * unit for price in worth], cut_price=1)
    return [-(-tables.best(index) // unit) for index in range(len(problem.stocks))]


def _any_theta(problem: Problem, worth: Sequence[int], prices: Sequence[float] | None) -> Fraction:
    # Where every sheet is limited any factor gives a valid bound; the best turns the integers back into the prices.
    top = max(prices) if prices else 4.0 * (max(problem.costs) + 1)
    return Fraction(top) / max(1, *worth)


def area_bound(problem: Problem) -> int:
    """The bound that the areas alone prove, in cost units."""
    total = Fraction(sum(size.area * size.demand for size in problem.sizes))
    cost = Fraction(0)
    by_price = sorted(zip(problem.stocks, problem.costs, strict=True), key=lambda sc: sc[1] / sc[0].area)
    for stock, each in by_price:
        if stock.count is None or total <= stock.area * stock.count:
            return reachable_cost(problem, cost + each * total / stock.area)
        cost += each * stock.count
        total -= stock.area * stock.count
    return reachable_cost(problem, cost)


def reachable_cost(problem: Problem, bound: Fraction) -> int:
    """The least sum of whole sheets' costs that is not below ``bound``."""
    least = max(0, -((-bound.numerator) // bound.denominator))
    step = reduce(gcd, problem.costs)
    return least if step <= 1 else -(-least // step) * step
