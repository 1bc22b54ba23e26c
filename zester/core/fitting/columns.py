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

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from fractions import Fraction
from functools import reduce
from math import gcd

from zester.core.fitting.job import PaperJob, Piece, Sheet
from zester.core.fitting.knapsack import GuillotineTable, Item, Part, TooManyPositions, grid_tree
from zester.core.fitting.positions import normal_positions
from zester.core.fitting.solver import CoverProgram
from zester.core.fitting.tidy import tidy

PRICE_UNITS = 10**9
CUTS_A_PRICE_UNIT = 4096
COARSE = 127
LARGEST_GRID = 5000


@dataclass(frozen=True)
class Size:
    """All pieces of one size and one rule for turning: ticks and how many are wanted in all."""

    width: int
    height: int
    turn: bool
    demand: int

    @property
    def area(self) -> int:
        """Square ticks."""
        return self.width * self.height


@dataclass(frozen=True)
class Problem:
    """One paper's problem as the solver sees it: sizes instead of named pieces, costs as whole units.

    ``names[k]`` are the pieces that are of size k; ``unit_cost`` is the money that one cost unit stands for.
    """

    sizes: tuple[Size, ...]
    names: tuple[tuple[Piece, ...], ...]
    sheets: tuple[Sheet, ...]
    costs: tuple[int, ...]
    unit_cost: Decimal

    @property
    def demands(self) -> list[int]:
        """How many of each size."""
        return [size.demand for size in self.sizes]

    @property
    def limited(self) -> list[int]:
        """Indices of the sheets there are only so many of."""
        return [index for index, sheet in enumerate(self.sheets) if sheet.count is not None]

    @property
    def may_run_out(self) -> bool:
        """Whether pieces may go missing: sheets are limited, or a size fits no sheet there is."""
        return bool(self.limited) or any(
            not any(_fits(size.width, size.height, size.turn, sheet) for sheet in self.sheets) for size in self.sizes
        )

    @property
    def free(self) -> list[bool]:
        """For every size whether it fits a sheet that costs nothing and is there without end."""
        endless = [s for s, c in zip(self.sheets, self.costs, strict=True) if c == 0 and s.count is None]
        return [any(_fits(z.width, z.height, z.turn, sheet) for sheet in endless) for z in self.sizes]


def make_problem(paper: PaperJob, demands: dict[str, int] | None = None) -> Problem:
    """The problem of one paper; ``demands`` (by piece id) may ask for fewer than the job does."""
    groups: dict[tuple[int, int, bool], list[Piece]] = {}
    for piece in paper.pieces:
        turn = piece.turn and piece.width != piece.height
        width, height = (
            (min(piece.width, piece.height), max(piece.width, piece.height)) if turn else (piece.width, piece.height)
        )
        groups.setdefault((width, height, turn), []).append(piece)
    wanted = {piece.id: piece.count if demands is None else demands[piece.id] for piece in paper.pieces}
    keys = sorted((key for key in groups if sum(wanted[p.id] for p in groups[key])), key=lambda k: (-k[0] * k[1], k))
    sizes = tuple(Size(*key, sum(wanted[piece.id] for piece in groups[key])) for key in keys)
    scaled = [int(sheet.cost * 10**6) for sheet in paper.sheets]
    unit = reduce(gcd, scaled) or 1
    usable = tuple(sheet for sheet in paper.sheets if sheet.count != 0)
    costs = tuple(int(sheet.cost * 10**6) // unit for sheet in usable)
    return Problem(sizes, tuple(tuple(groups[key]) for key in keys), usable, costs, Decimal(unit) / 10**6)


@dataclass(frozen=True)
class Column:
    """One way of cutting one sheet: its cut tree and how many of each size it makes."""

    sheet: int
    counts: tuple[int, ...]
    tree: Part


def count_sizes(tree: Part, sizes: int) -> tuple[int, ...]:
    """How many of each size a cut tree makes."""
    counts = [0] * sizes
    waiting = [tree]
    while waiting:
        part = waiting.pop()
        if part.axis:
            waiting += [part.first, part.second]
        elif part.size is not None:
            counts[part.size] += 1
    return tuple(counts)


def make_column(problem: Problem, sheet: int, tree: Part) -> Column:
    """The column of a cut tree."""
    return Column(sheet, count_sizes(tree, len(problem.sizes)), tree)


def count_cuts(tree: Part) -> int:
    """How many cuts a cut tree has."""
    cuts, waiting = 0, [tree]
    while waiting:
        part = waiting.pop()
        if part.axis:
            cuts += 1
            waiting += [part.first, part.second]
    return cuts


class Tables:
    """The knapsack tables of a problem: one for all its sheets.

    Where there are too many positions, the sizes are rounded up to a grid for the table (from 1/64 in on, doubled until
    it fits memory) and put right in the trees; ``exact`` is false then, and no bound may be drawn from the table.
    """

    def __init__(self, problem: Problem):
        self.exact, grid = True, 1
        while True:
            try:
                self.table = _table(problem, grid)
                return
            except TooManyPositions:
                self.exact = False
                grid = COARSE if grid == 1 else 2 * grid


def _table(problem: Problem, grid: int) -> GuillotineTable:
    """The table with every size rounded up to the grid (1: as it is); raises TooManyPositions."""
    items = []
    for index, size in enumerate(problem.sizes):
        width, height = -(-size.width // grid) * grid, -(-size.height // grid) * grid
        # What would no longer fit a sheet when rounded stays as it is.
        if grid > 1 and not any(_fits(width, height, size.turn, sheet) for sheet in problem.sheets):
            width, height = size.width, size.height
        items.append(Item(index, width, height))
        if size.turn:
            items.append(Item(index, height, width))
    width = max(sheet.width for sheet in problem.sheets)
    height = max(sheet.height for sheet in problem.sheets)
    across, down = _lengths(problem, items, "width"), _lengths(problem, items, "height")
    sizes = [(size.width, size.height) for size in problem.sizes]
    return GuillotineTable(normal_positions(across, width), normal_positions(down, height), items, sizes)


def _fits(width: int, height: int, turn: bool, sheet: Sheet) -> bool:
    upright = width <= sheet.width and height <= sheet.height
    return upright or (turn and height <= sheet.width and width <= sheet.height)


def _lengths(problem: Problem, items: Sequence[Item], side: str) -> list[tuple[int, int]]:
    most: dict[tuple[int, int], int] = {}
    for item in items:
        most[getattr(item, side), item.size] = problem.sizes[item.size].demand
    lengths: dict[int, int] = {}
    for (length, _), demand in most.items():
        lengths[length] = lengths.get(length, 0) + demand
    return sorted(lengths.items())


@dataclass
class Pool:
    """All columns found so far, each once, with the tree of the fewest cuts known for it."""

    problem: Problem
    columns: list[Column] = field(default_factory=list)
    _places: dict[tuple, int] = field(default_factory=dict)

    def add(self, sheet: int, tree: Part) -> Column | None:
        """Add the column of a cut tree; None if it makes nothing or is known."""
        tree = tidy(tree, halve=False)
        column = make_column(self.problem, sheet, tree)
        place = self._places.get((sheet, column.counts))
        if not any(column.counts):
            return None
        if place is not None:
            if count_cuts(tree) < count_cuts(self.columns[place].tree):
                self.columns[place] = column
            return None
        self._places[sheet, column.counts] = len(self.columns)
        self.columns.append(column)
        return column


@dataclass(frozen=True)
class Relaxed:
    """The solved linear program: amounts of the pool's columns, prices of the sizes, a proven bound in cost units.

    ``worth`` are the integer prices that prove the most.
    """

    amounts: list[float]
    prices: list[float]
    worth: list[int]
    bound: int


def relax(
    problem: Problem,
    tables: Tables,
    pool: Pool,
    tell: Callable[[int], None],
    seconds_left: Callable[[], float],
    rounds: int = 400,
) -> Relaxed:
    """Solve the linear program by column generation.

    ``tell`` is called with the number of columns after every round, and may raise to stop. When the time is up what
    there is so far is returned; its bound holds all the same.
    """
    if not pool.columns:
        one_size_columns(problem, tables, pool)
    penalty = _penalty(problem)
    program = CoverProgram(problem.demands, [problem.sheets[s].count for s in problem.limited])
    for index in range(len(problem.sizes)):
        program.add(penalty, {index: 1})
    bound, used, best = area_bound(problem), 0, None
    for _ in range(rounds):
        used = _load(program, problem, pool, used)
        amounts, duals = program.solve()
        prices = [max(price, 0.0) for price in duals[: len(problem.sizes)]]
        worth = [int(price * PRICE_UNITS / penalty) for price in prices]
        proven = dual_bound(problem, tables.table, worth)
        if tables.exact:
            bound = max(bound, reachable_cost(problem, proven.value))
        best = proven if best is None or proven.value > best.value else best
        tell(len(pool.columns))
        if not _price_out(problem, tables.table, pool, duals, penalty) or seconds_left() < 0:
            break
    return Relaxed(amounts[len(problem.sizes) :], prices, best.worth, bound)


def _penalty(problem: Problem) -> float:
    # More than any sheet can cost for one piece, so that a piece goes missing only if it must.
    return 4.0 * (max(problem.costs) + 1)


def _load(program: CoverProgram, problem: Problem, pool: Pool, used: int) -> int:
    for column in pool.columns[used:]:
        program.add(lp_cost(problem, column.sheet), column_rows(problem, column))
    return len(pool.columns)


def lp_cost(problem: Problem, sheet: int) -> float:
    """The cost of a sheet with a breath added, so that free sheets are not wasted either."""
    return problem.costs[sheet] + (0.001 if problem.costs[sheet] == 0 else 0.0)


def column_rows(problem: Problem, column: Column) -> dict[int, int]:
    """The rows of a column: the sizes it makes, and the stock of its sheet if that is limited."""
    rows = {index: count for index, count in enumerate(column.counts) if count}
    if problem.sheets[column.sheet].count is not None:
        rows[len(problem.sizes) + problem.limited.index(column.sheet)] = 1
    return rows


def one_size_columns(problem: Problem, tables: Tables, pool: Pool) -> None:
    """For every size and every sheet the sheet filled with that size alone."""
    for index in range(len(problem.sizes)):
        tables.table.fill([int(k == index) for k in range(len(problem.sizes))])
        for sheet_index, sheet in enumerate(problem.sheets):
            if tables.table.best(sheet.width, sheet.height):
                pool.add(sheet_index, tables.table.tree(sheet.width, sheet.height))
            if not tables.exact:
                _grid_columns(problem.sizes[index], index, sheet, sheet_index, pool)


def _grid_columns(size: Size, index: int, sheet: Sheet, sheet_index: int, pool: Pool) -> None:
    """The plain grids of one size on a sheet, which a rounded table may not know."""
    for across, down in [(size.width, size.height), (size.height, size.width)][: 1 + size.turn]:
        if 0 < (sheet.width // across) * (sheet.height // down) <= LARGEST_GRID:
            pool.add(sheet_index, grid_tree(sheet.width, sheet.height, index, across, down))


def _price_out(problem: Problem, table: GuillotineTable, pool: Pool, duals: list[float], penalty: float) -> bool:
    """Add every sheet's best column if it pays; False when none does."""
    found = False
    for index, sheet in enumerate(problem.sheets):
        rent = 0.0
        if sheet.count is not None:
            rent = -duals[len(problem.sizes) + problem.limited.index(index)]
        value = table.best(sheet.width, sheet.height) * penalty / (PRICE_UNITS * CUTS_A_PRICE_UNIT)
        if value > lp_cost(problem, index) + rent + 1e-7 * penalty:
            found |= pool.add(index, table.tree(sheet.width, sheet.height)) is not None
    return found


@dataclass(frozen=True)
class DualBound:
    """A bound proven by integer prices, in exact cost units.

    ``theta`` turns a price into cost units; ``rents`` are what a sheet of limited stock must earn beyond its cost.
    """

    worth: list[int]
    theta: Fraction
    rents: list[Fraction]
    value: Fraction


def dual_bound(problem: Problem, table: GuillotineTable, worth: Sequence[int]) -> DualBound:
    """The bound that these integer prices prove; fills the table with them, cuts priced next to nothing.

    A sheet has far fewer than ``CUTS_A_PRICE_UNIT`` cuts, so rounding up gives its exact value without them.
    """
    # What can be had for nothing is worth nothing; any price on it would spoil the bound of the rest.
    worth = [0 if free else price for price, free in zip(worth, problem.free, strict=True)]
    table.fill([price * CUTS_A_PRICE_UNIT for price in worth], cut_price=1)
    values = [-(-table.best(sheet.width, sheet.height) // CUTS_A_PRICE_UNIT) for sheet in problem.sheets]
    total = sum(price * demand for price, demand in zip(worth, problem.demands, strict=True))
    ratios = [
        Fraction(cost, value)
        for sheet, cost, value in zip(problem.sheets, problem.costs, values, strict=True)
        if sheet.count is None and value
    ]
    theta = min(ratios) if ratios else Fraction(4 * (max(problem.costs) + 1), PRICE_UNITS)
    rents = [
        max(Fraction(0), theta * value - cost) if sheet.count is not None else Fraction(0)
        for sheet, cost, value in zip(problem.sheets, problem.costs, values, strict=True)
    ]
    rent = sum((sheet.count or 0) * each for sheet, each in zip(problem.sheets, rents, strict=True))
    return DualBound(list(worth), theta, rents, theta * total - rent)


def area_bound(problem: Problem) -> int:
    """The bound that the areas alone prove, in cost units."""
    total = Fraction(sum(size.area * size.demand for size in problem.sizes))
    cost = Fraction(0)
    by_price = sorted(
        zip(problem.sheets, problem.costs, strict=True), key=lambda sc: sc[1] / (sc[0].width * sc[0].height)
    )
    for sheet, each in by_price:
        area = sheet.width * sheet.height
        if sheet.count is None or total <= area * sheet.count:
            return reachable_cost(problem, cost + each * total / area)
        cost += each * sheet.count
        total -= area * sheet.count
    return reachable_cost(problem, cost)


def reachable_cost(problem: Problem, bound: Fraction) -> int:
    """The least sum of whole sheets' costs that is not below ``bound``."""
    least = max(0, -((-bound.numerator) // bound.denominator))
    step = reduce(gcd, problem.costs)
    return least if step <= 1 else -(-least // step) * step
