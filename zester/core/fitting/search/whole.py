"""Integer programs over the columns there are: all of them, or those that lose next to nothing."""

from __future__ import annotations

from zester.core.fitting.patterns.columns import Column, column_rows, lp_cost, use_up
from zester.core.fitting.search.closing import near_perfect
from zester.core.fitting.search.found import Answer, Found
from zester.core.fitting.solver import whole_cover

MIP_NODES = 4000


def whole_program(found: Found) -> Answer | None:
    """The best whole numbers of all columns found so far; None if none is found in time."""
    found.tell("whole sheets")
    problem, columns = found.problem, found.pool.columns
    costs = [lp_cost(problem, column.sheet) for column in columns]
    rows = [column_rows(problem, column) for column in columns]
    if problem.may_run_out:
        # Elsewhere nothing may be missing.
        costs += [4.0 * (max(problem.costs) + 1)] * len(problem.sizes)
        rows += [{index: 1} for index in range(len(problem.sizes))]
    program = whole_cover(
        costs,
        rows,
        problem.demands,
        problem.how_many,
        good_enough=found.bound,
        nodes=MIP_NODES,
        seconds=max(0.3, min(1.0 if found.many else 3.0, found.seconds_left())),
    )
    if program.amounts is None:
        return None
    chosen = [(column, n) for column, n in zip(columns, program.amounts, strict=False) if n]
    missing = program.amounts[len(columns) :] or [0] * len(problem.sizes)
    return found.answer(chosen, missing)


class NearPerfect:
    """Most of the mix rounded down, the rest from columns that lose next to nothing."""

    def __init__(self, found: Found):
        self.found = found
        self._nearly: list[Column] | None = None

    def try_with(self, back: int, most: int) -> None:
        """For large demands: most of the mix rounded down, the rest from columns that lose next to nothing."""
        if self.found.lacks:
            return
        self.found.settle_prices()
        self.found.tell("nearly perfect sheets")
        self.found.compiled()
        if self._nearly is None:
            self._nearly = near_perfect(self.found.problem, self.found.tables, self.found.relaxed.worth)
        left = list(self.found.problem.demands)
        whole = [
            (column, max(0, int(amount + 1e-6) - back))
            for column, amount in zip(self.found.pool.columns, self.found.relaxed.amounts, strict=False)
        ]
        for column, copies in whole:
            use_up(column, copies, left, [None] * len(self.found.problem.stocks))
        spent = sum(self.found.problem.costs[column.sheet] * copies for column, copies in whole)
        mix = [column for column, _ in whole]
        columns = list({(c.sheet, c.counts): c for c in (*self._nearly[:most], *mix)}.values())
        program = whole_cover(
            [float(self.found.problem.costs[column.sheet]) for column in columns],
            [column_rows(self.found.problem, column) for column in columns],
            left,
            [],
            good_enough=self.found.bound - spent,
            nodes=MIP_NODES,
            seconds=max(0.2, min(3.0, self.found.seconds_left() - 0.5)),
            ceiling=self.found.bound - spent,
        )
        if program.amounts:
            rest = [(column, n) for column, n in zip(columns, program.amounts, strict=True) if n]
            self.found.take_whole([*((c, n) for c, n in whole if n), *rest])
