"""The yardstick for strokes: a plain first integer solution of the column program, made as simply as can be.

Columns from the knapsack with no price on cuts, each the first cut tree of its value, waste trimmed off at once; then
the integer program for the fewest sheets over the columns of the linear program, and nothing after it.
"""

from __future__ import annotations

from zester.core.fitting.jobs.job import PaperJob
from zester.core.fitting.parts import Part, count_sizes, cut_part
from zester.core.fitting.patterns.columns import Tables
from zester.core.fitting.patterns.knapsack import GuillotineTable
from zester.core.fitting.patterns.problem import make_problem
from zester.core.fitting.solver import CoverProgram, whole_cover

PRICE_UNITS = 10**9


def first_tree(table: GuillotineTable, width: int, height: int, cell: tuple[int, int] | None = None) -> Part:
    """The first cut tree of a part's value, in the order the cuts are tried."""
    i, j = cell or table.cell(width, height)
    value = table.values[i, j]
    if value == 0:
        return Part(width=width, height=height)
    while i > 0 and table.values[i - 1, j] == value:
        i -= 1
    while j > 0 and table.values[i, j - 1] == value:
        j -= 1
    wide, high = int(table.xs[i]), int(table.ys[j])
    if wide < width:
        return cut_part(
            width, height, "x", wide, first_tree(table, wide, height, (i, j)), Part(width=width - wide, height=height)
        )
    if high < height:
        return cut_part(
            width, height, "y", high, first_tree(table, width, high, (i, j)), Part(width=width, height=height - high)
        )
    for item, its in zip(table.items, table.item_cells, strict=True):
        if its == (i, j) and table.worth[item.size] == value:
            return Part(width=width, height=height, size=item.size)
    return _first_cut(table, width, height, (i, j), value)


def _first_cut(table: GuillotineTable, width: int, height: int, cell: tuple[int, int], value: float) -> Part:
    i, j = cell
    for number in range(*_span(table.across.begin, i)):
        near, far = (int(table.across.near[number]), j), (int(table.across.far[number]), j)
        if table.values[near] + table.values[far] == value:
            at = int(table.xs[near[0]])
            sides = first_tree(table, at, height, near), first_tree(table, width - at, height, far)
            return cut_part(width, height, "x", at, *sides)
    for number in range(*_span(table.down.begin, j)):
        near, far = (i, int(table.down.near[number])), (i, int(table.down.far[number]))
        if table.values[near] + table.values[far] == value:
            at = int(table.ys[near[1]])
            sides = first_tree(table, width, at, near), first_tree(table, width, height - at, far)
            return cut_part(width, height, "y", at, *sides)
    raise AssertionError("a value that no cut gives")


def _span(begin, position: int) -> tuple[int, int]:
    return int(begin[position]), int(begin[position + 1])


def plain_solution(paper: PaperJob) -> list[tuple[Part, int]]:
    """Cut trees with copies for a paper with one kind of sheet."""
    problem = make_problem(paper)
    table, sheet = Tables(problem).all[0], problem.stocks[0]
    program = CoverProgram(problem.demands, [])
    columns: dict[tuple[int, ...], Part] = {}

    def add() -> bool:
        tree = first_tree(table, sheet.width, sheet.height)
        counts = count_sizes(tree, len(problem.sizes))
        if counts in columns:
            return False
        columns[counts] = tree
        program.add(1.0, {index: count for index, count in enumerate(counts) if count})
        return True

    for index in range(len(problem.sizes)):
        table.fill([int(index == k) for k in range(len(problem.sizes))])
        add()
    while True:
        _, duals = program.solve()
        table.fill([int(max(0.0, dual) * PRICE_UNITS) for dual in duals])
        if table.best(sheet.width, sheet.height) <= PRICE_UNITS * (1 + 1e-6) or not add():
            break
    found = whole_cover(
        [1.0] * len(columns),
        [{index: count for index, count in enumerate(counts) if count} for counts in columns],
        problem.demands,
        [],
        good_enough=0,
        nodes=4000,
        seconds=5,
    )
    return [(tree, copies) for tree, copies in zip(columns.values(), found.amounts, strict=True) if copies]
