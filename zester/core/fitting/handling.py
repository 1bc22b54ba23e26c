"""Among plans of equal cost, the one with less work at the trimmer.

A layout with c cuts takes c strokes for every full stack of its sheets, so the strokes of a plan are close to

    sum over layouts of  cuts * ceil(copies / stack)

Columns with few cuts are made first, by column generation for cuts instead of costs. Then a second integer program
over the columns, at no more than the cost already found, has the stacks of every layout as unknowns besides the copies.
What comes out is counted exactly (``strokes.py``) before it is preferred.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable

from zester.core.fitting.columns import Column, Pool, Tables, column_rows
from zester.core.fitting.parts import CutLimits, Part, count_cuts
from zester.core.fitting.problem import Problem
from zester.core.fitting.solver import CoverProgram, least_work
from zester.core.fitting.strokes import part_key
from zester.core.fitting.tidy import tidy

MOST_COLUMNS = 10
CUT_UNITS = 1000
LAYOUT = 0.1
NODES = 12


def add_light_columns(
    problem: Problem, tables: Tables, pool: Pool, cost: int, hurry: Callable[[], bool], rounds: int = 40
) -> None:
    """Add the columns of the least cuts: column generation for cuts instead of costs, at no more than ``cost`` units.

    The knapsack takes the price of a cut off the value of the pieces, so it weighs a fuller sheet against more cuts.
    ``hurry`` tells when to stop.
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
        tables.fill([max(0, int(price * CUT_UNITS)) for price in duals[: len(problem.sizes)]], CUT_UNITS)
        for index, sheet in enumerate(problem.stocks):
            rent = -duals[row_of_cost] * problem.costs[index]
            if sheet.count is not None:
                rent -= duals[len(problem.sizes) + problem.limited.index(index)]
            if tables.best(index) > (rent + 1e-3) * CUT_UNITS:
                pool.add(index, tables.tree(index))
        if len(pool.columns) == used or hurry():
            return


def fewer_stacks(
    problem: Problem,
    pool: Pool,
    known: tuple[tuple[Column, int], ...],
    cost: int,
    *,
    stack: int,
    worth: list[int],
    seconds: float,
) -> tuple[tuple[Column, int], ...] | None:
    """A plan of at most ``cost`` units with few cut stacks, or None if none was found."""
    columns = _promising(problem, pool, known, worth)
    copies = {(column.sheet, column.counts): n for column, n in known}
    found = least_work(
        [_work(column.tree, stack, problem.limits) for column in columns],
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


def _work(tree: Part, stack: int, limits: CutLimits) -> list[float]:
    """Strokes of 1, 2, … copies up to a full stack, and a little for every layout more."""
    ways = []
    for way in (tree, tidy(tree, halve=True, limits=limits)):
        alike: Counter = Counter()
        part_key(way, alike)
        ways.append([sum(-(-count * n // stack) for count in alike.values()) for n in range(1, stack + 1)])
    return [min(strokes) + LAYOUT for strokes in zip(*ways, strict=True)]


def _promising(problem: Problem, pool: Pool, known: tuple[tuple[Column, int], ...], worth: list[int]) -> list[Column]:
    """The known plan's columns and those that lose least value by the prices, each once."""
    chosen = {(column.sheet, column.counts): column for column, _ in known}
    best = dict.fromkeys(range(len(problem.stocks)), 1)
    values = {}
    for column in pool.columns:
        value = sum(n * price for n, price in zip(column.counts, worth, strict=True))
        values[column.sheet, column.counts] = value
        best[column.sheet] = max(best[column.sheet], value)
    rest = [column for column in pool.columns if (column.sheet, column.counts) not in chosen]
    rest.sort(key=lambda c: (-values[c.sheet, c.counts] / best[c.sheet], count_cuts(c.tree)))
    return [*chosen.values(), *rest[: MOST_COLUMNS - len(chosen)]]
