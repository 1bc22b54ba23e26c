"""Among plans of equal cost, the one with less work at the trimmer.

A layout with c cuts takes c strokes for every full stack of its sheets, so the strokes of a plan are close to

    sum over layouts of  cuts * ceil(copies / stack)

1. Columns with few cuts are made by column generation for cuts instead of costs. Its prices say what a column is worth
   in strokes; divided by the stack, its value is a lower bound on the strokes of any plan that costs no more.
2. Plans are made layout by layout, each one that can be cut in as many full stacks as possible without making more than
   is wanted (a sequential heuristic: Haessler 1971), from columns that lose little by those prices.
3. An integer program over the most promising columns, at no more than the cost already found, has the stacks of every
   layout as unknowns besides the copies.

What comes out is counted exactly (``strokes.py``) before it is preferred.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zester.core.fitting.columns import Column, ColumnPool, Tables, column_rows, make_column
from zester.core.fitting.parts import CutLimits, Part, count_cuts
from zester.core.fitting.problem import Problem
from zester.core.fitting.solver import CoverProgram, least_work
from zester.core.fitting.strokes import part_key
from zester.core.fitting.tidy import tidy

CUT_UNITS = 1000
# What a stack of another layout costs beside its strokes, in strokes: most need a place of the rail of their own.
LAYOUT = 6.0
PATIENCE = (0.5, 2.0)
STACKS = (100, 64, 40, 24, 16, 12, 9, 7, 5, 4, 3, 2, 1)
FULL_SHEET = 6.0
NODES = 6
MOST_COLUMNS = 16

Chosen = tuple[tuple[Column, int], ...]


@dataclass(frozen=True)
class Light:
    """Prices in cuts: of every size, and the rent of every kind of sheet for what it costs and for being scarce.

    ``cuts`` is how many cuts any plan of that cost takes, by the linear program.
    """

    prices: tuple[float, ...]
    """Of the sizes, in cuts."""
    rents: tuple[float, ...]
    """Of the sheets, in cuts."""
    cuts: float
    """The least cuts of any mix at that cost."""

    @property
    def worth(self) -> list[int]:
        """The prices as whole numbers, a cut being ``CUT_UNITS``."""
        return [max(0, int(price * CUT_UNITS)) for price in self.prices]

    def loss(self, column: Column) -> float:
        """How many cuts one copy of a column wastes by these prices."""
        value = sum(count * price for count, price in zip(column.counts, self.prices, strict=True))
        return count_cuts(column.tree) + self.rents[column.sheet] - value


def light_columns(
    problem: Problem, tables: Tables, pool: ColumnPool, cost: int, go_on: Callable[[], bool], rounds: int = 150
) -> Light:
    """Add the columns of the least cuts: column generation for cuts instead of costs, at no more than ``cost`` units.

    The knapsack takes the price of a cut off the value of the pieces, so it weighs a fuller sheet against more cuts.
    """
    limits = [problem.stocks[s].count for s in problem.limited]
    program = CoverProgram(problem.demands, [*limits, cost])
    row_of_cost = len(problem.demands) + len(limits)
    used = 0
    for _ in range(rounds):
        for column in pool.columns[used:]:
            rows = column_rows(problem, column)
            if problem.costs[column.sheet]:
                rows[row_of_cost] = problem.costs[column.sheet]
            program.add(count_cuts(column.tree), rows)
        used = len(pool.columns)
        _, duals = program.solve()
        rents = [-duals[row_of_cost] * each for each in problem.costs]
        for place, index in enumerate(problem.limited):
            rents[index] -= duals[len(problem.sizes) + place]
        light = Light(tuple(duals[: len(problem.sizes)]), tuple(rents), program.objective)
        tables.fill(light.worth, CUT_UNITS)
        for index, rent in enumerate(rents):
            if tables.best(index) > (rent + 1e-3) * CUT_UNITS:
                pool.add(index, tables.tree(index))
        if len(pool.columns) == used or not go_on():
            break
    return light


def stacked_plans(
    problem: Problem, tables: Tables, pool: ColumnPool, light: Light, stack: int, go_on: Callable[[], bool]
) -> Iterator[list[tuple[Column, int]]]:
    """Plans made layout by layout in full stacks, the most particular first; their columns join the pool."""
    for patience in PATIENCE:
        left, stock = list(problem.demands), [s.count for s in problem.stocks]
        chosen: list[tuple[Column, int]] = []
        while any(left) and go_on():
            found = _next_stacks(problem, tables, light, stack, left, stock, patience)
            if found is None:
                break
            column, copies = found
            pool.add(column.sheet, column.tree)
            chosen.append(found)
            for index, count in enumerate(column.counts):
                left[index] = max(0, left[index] - copies * count)
            if stock[column.sheet] is not None:
                stock[column.sheet] -= copies
        if not any(left):
            yield chosen


def _next_stacks(
    problem: Problem,
    tables: Tables,
    light: Light,
    stack: int,
    left: list[int],
    stock: list[int | None],
    patience: float,
) -> tuple[Column, int] | None:
    """The layout for the most copies that loses no more than ``patience``, or else the one that loses least."""
    sheet = max(each.area for each in problem.stocks)
    fill = [size.area / sheet * FULL_SHEET for size in problem.sizes]
    best, worth = None, [1 + each + int(CUT_UNITS * more) for each, more in zip(light.worth, fill, strict=True)]
    for copies in _copies(max(left), stack):
        most = [-(-demand // copies) if copies == 1 else demand // copies for demand in left]
        for index, there in enumerate(stock):
            if not any(most) or (there is not None and there < copies):
                continue
            column = make_column(problem, index, tables.bounded_tree(index, worth, most, CUT_UNITS))
            if not any(column.counts):
                # What is left may be worth less than its cuts; it has to be made all the same.
                column = make_column(problem, index, tables.bounded_tree(index, worth, most))
            if not any(column.counts):
                continue
            filled = sum(count * more for count, more in zip(column.counts, fill, strict=True))
            # Where the prices say that sheets are free, an empty one must still count for something.
            loss = light.loss(column) + FULL_SHEET * problem.stocks[index].area / sheet - filled
            if loss <= patience:
                return column, copies
            if best is None or loss < best[0] - 0.5:
                best = loss, column, copies
    return best and best[1:]


def _copies(most: int, stack: int) -> list[int]:
    """How many copies are tried: full stacks, many first, then fewer than one."""
    stacks = [each for each in STACKS if each * stack <= most]
    return [stack * each for each in stacks] + list(range(min(stack - 1, most), 0, -1))


def work_of(tree: Part, stack: int, limits: CutLimits) -> list[float]:
    """Strokes of 1, 2, … copies up to a full stack, and something for every stack begun."""
    ways = []
    for way in (tree, tidy(tree, halve=True, limits=limits)):
        alike: Counter = Counter()
        part_key(way, alike)
        ways.append([sum(-(-count * n // stack) for count in alike.values()) for n in range(1, stack + 1)])
    return [min(strokes) + LAYOUT for strokes in zip(*ways, strict=True)]


def fewer_stacks(
    problem: Problem, pool: ColumnPool, known: Chosen, cost: int, *, stack: int, light: Light, seconds: float
) -> Chosen | None:
    """A plan of at most ``cost`` units with few cut stacks, or None if none was found."""
    columns = _promising(pool, known, light)
    copies = {(column.sheet, column.counts): n for column, n in known}
    found = least_work(
        [work_of(column.tree, stack, problem.limits) for column in columns],
        [float(problem.costs[column.sheet]) for column in columns],
        [column_rows(problem, column) for column in columns],
        problem.demands,
        [problem.stocks[s].count for s in problem.limited],
        ceiling=float(cost),
        start=[copies.get((column.sheet, column.counts), 0) for column in columns],
        nodes=NODES,
        seconds=seconds,
    )
    if found is None:
        return None
    return tuple((column, n) for column, n in zip(columns, found, strict=True) if n)


def _promising(pool: ColumnPool, known: Chosen, light: Light) -> list[Column]:
    """The known plan's columns and those that lose least, each once."""
    chosen = {(column.sheet, column.counts): column for column, _ in known}
    rest = [column for column in pool.columns if (column.sheet, column.counts) not in chosen]
    rest.sort(key=lambda column: (light.loss(column), column.counts))
    return [*chosen.values(), *rest[: max(0, MOST_COLUMNS - len(chosen))]]
