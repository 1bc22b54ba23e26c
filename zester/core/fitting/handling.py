"""Among plans of equal cost, the one with less work at the trimmer.

A layout with c cuts takes c strokes for every full stack of its sheets, so the strokes of a plan are close to

    sum over layouts of  cuts * ceil(copies / stack)

This is minimised by a second integer program over all known columns at no more than the cost already found: besides
the copies it has the stacks of every layout as unknowns. Columns of one or two sizes are added first: their parts are
more alike. What comes out is counted exactly (``strokes.py``) before it is preferred.
"""

from __future__ import annotations

from itertools import combinations

from zester.core.fitting.columns import Column, Pool, Problem, Tables, column_rows
from zester.core.fitting.knapsack import Part
from zester.core.fitting.solver import least_stacks

MOST_COLUMNS = 220
FILL_WORK = 12_000_000
NODES = 1500


def count_cuts(tree: Part) -> int:
    """How many cuts a cut tree has."""
    cuts, waiting = 0, [tree]
    while waiting:
        part = waiting.pop()
        if part.axis:
            cuts += 1
            waiting += [part.first, part.second]
    return cuts


def add_simple_columns(problem: Problem, tables: Tables, pool: Pool, worth: list[int]) -> None:
    """Add for pairs of sizes the best column that holds no other size, as far as the work is worth it."""
    pairs = list(combinations(range(len(problem.sizes)), 2))
    affordable = FILL_WORK // max(1, tables.table.work)
    step = max(1, -(-len(pairs) // max(1, affordable)))
    for pair in pairs[::step]:
        tables.table.fill([worth[k] if k in pair else 0 for k in range(len(worth))])
        for index, sheet in enumerate(problem.sheets):
            pool.add(index, tables.table.tree(sheet.width, sheet.height))


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
    found = least_stacks(
        [count_cuts(column.tree) + 0.05 for column in columns],
        [float(problem.costs[column.sheet]) for column in columns],
        [column_rows(problem, column) for column in columns],
        problem.demands,
        [problem.sheets[s].count for s in problem.limited],
        ceiling=float(cost),
        stack=stack,
        start=[dict(_by_counts(known)).get((c.sheet, c.counts), 0) for c in columns],
        nodes=NODES,
        seconds=seconds,
    )
    if found is None:
        return None
    return tuple((column, n) for column, n in zip(columns, found, strict=True) if n)


def _by_counts(known: tuple[tuple[Column, int], ...]) -> list[tuple]:
    return [((column.sheet, column.counts), copies) for column, copies in known]


def _promising(
    problem: Problem, pool: Pool, known: tuple[tuple[Column, int], ...], worth: list[int]
) -> list[Column]:
    """The known plan's columns and those that lose least value by the prices, each once."""
    chosen = {(column.sheet, column.counts): column for column, _ in known}
    best = {index: 1 for index in range(len(problem.sheets))}
    values = {}
    for column in pool.columns:
        value = sum(n * price for n, price in zip(column.counts, worth, strict=True))
        values[column.sheet, column.counts] = value
        best[column.sheet] = max(best[column.sheet], value)
    rest = [column for column in pool.columns if (column.sheet, column.counts) not in chosen]
    rest.sort(key=lambda c: (-values[c.sheet, c.counts] / best[c.sheet], count_cuts(c.tree)))
    return [*chosen.values(), *rest[: MOST_COLUMNS - len(chosen)]]
