"""The only door to the linear and integer programming library (HiGHS).

Everything that comes out of here is a float and must be checked in exact numbers by the caller.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import highspy
import numpy as np


class _Silent(highspy.Highs):
    """Silent before the constructor's own set-up, which would print a banner into a plan on standard output."""

    def enableCallbacks(self) -> None:  # noqa: N802 (the library's name)
        self.silent()
        super().enableCallbacks()  # type: ignore[no-untyped-call]  # The library has no types here.


def _quiet() -> highspy.Highs:
    highs: highspy.Highs = _Silent()  # type: ignore[no-untyped-call]  # Nor here.
    highs.setOptionValue("threads", 1)
    highs.setOptionValue("random_seed", 1)
    return highs


class CoverProgram:
    """A linear program that grows by columns: least cost so that every row reaches its demand.

    Rows ``0..n-1`` must reach ``demands`` at least; rows after that must stay at or below ``limits``.
    """

    def __init__(self, demands: Sequence[int], limits: Sequence[int]):
        self._highs = _quiet()
        self.rows = len(demands) + len(limits)
        for demand in demands:
            self._highs.addRow(float(demand), highspy.kHighsInf, 0, np.array([], dtype=np.int32), np.array([]))
        for limit in limits:
            self._highs.addRow(-highspy.kHighsInf, float(limit), 0, np.array([], dtype=np.int32), np.array([]))

    def add(self, cost: float, entries: dict[int, int]) -> None:
        """Add a column; ``entries`` maps rows to coefficients."""
        rows = np.array(list(entries), dtype=np.int32)
        values = np.array(list(entries.values()), dtype=np.float64)
        self._highs.addCol(cost, 0.0, highspy.kHighsInf, len(rows), rows, values)

    def limit(self, row: int, most: int) -> None:
        """Another limit for a row, counted with the demands."""
        self._highs.changeRowBounds(row, -highspy.kHighsInf, float(most))

    def solve(self) -> tuple[list[float], list[float]]:
        """The amounts of the columns and the prices (duals) of the rows."""
        self._highs.run()
        solution = self._highs.getSolution()
        return list(solution.col_value), list(solution.row_dual)

    @property
    def objective(self) -> float:
        """The cost of the last solution."""
        return self._highs.getInfo().objective_function_value


@dataclass(frozen=True)
class WholeAnswer:
    """Whole amounts of the columns (None: none were found), and whether the search came to its end.

    If it did, the amounts are the best there are, or there are none.
    """

    amounts: list[int] | None
    """Of the columns; None if no whole answer was found."""
    finished: bool
    """Whether the search ended by itself."""


def whole_cover(
    costs: Sequence[float],
    columns: Sequence[dict[int, int]],
    demands: Sequence[int],
    limits: Sequence[int],
    *,
    good_enough: float,
    nodes: int,
    seconds: float,
    ceiling: float | None = None,
) -> WholeAnswer:
    """The same program in whole numbers.

    ``good_enough`` is a cost at which to stop; ``nodes`` bounds the search (so that the same job gives the same plan)
    and ``seconds`` is the emergency brake. ``ceiling`` is a cost that may not be passed.
    """
    highs = _quiet()
    highs.setOptionValue("mip_max_nodes", nodes)
    highs.setOptionValue("time_limit", max(seconds, 0.05))
    highs.setOptionValue("objective_target", good_enough + 1e-6)
    highs.setOptionValue("mip_rel_gap", 0.0)
    highs.setOptionValue("mip_abs_gap", 1e-6)
    if not columns:
        return WholeAnswer(None, finished=True)
    free = highspy.kHighsInf
    rows = [*demands, *([-free] * len(limits))], [*([free] * len(demands)), *limits]
    highs.passModel(_model(costs, [free] * len(columns), rows, columns, highspy.MatrixFormat.kColwise))
    if ceiling is not None:
        highs.addRow(
            -highspy.kHighsInf, ceiling + 0.5, len(costs), np.arange(len(costs), dtype=np.int32), np.array(costs)
        )
    highs.run()
    status, ended = highs.getInfo().primal_solution_status, highs.getModelStatus()
    if status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return WholeAnswer(None, ended == highspy.HighsModelStatus.kInfeasible)
    amounts = [round(value) for value in highs.getSolution().col_value]
    return WholeAnswer(amounts, ended == highspy.HighsModelStatus.kOptimal)


class WholeProgram:
    """Any integer program of least cost: unknowns from 0 up, rows between bounds; costs are whole numbers."""

    def __init__(self) -> None:
        self._costs: list[int] = []
        self._most: list[float] = []
        self._rows: list[tuple[dict[int, int], float, float]] = []

    def add(self, cost: int = 0, most: float = highspy.kHighsInf) -> int:
        """An unknown more; its number."""
        self._costs.append(cost)
        self._most.append(most)
        return len(self._costs) - 1

    def row(self, entries: dict[int, int], least: float = -highspy.kHighsInf, most: float = highspy.kHighsInf) -> None:
        """What the unknowns come to with these coefficients lies between ``least`` and ``most``."""
        self._rows.append((entries, least, most))

    def solve(self, below: int, nodes: int, seconds: float) -> tuple[list[int] | None, int]:
        """The values of the best answer that costs less than ``below`` (None: none was found), and a bound.

        ``nodes`` bounds the search, ``seconds`` is the emergency brake.
        """
        highs = _quiet()
        highs.setOptionValue("mip_max_nodes", nodes)
        highs.setOptionValue("time_limit", max(seconds, 0.05))
        highs.setOptionValue("mip_rel_gap", 0.0)
        highs.setOptionValue("mip_abs_gap", 0.99)
        costs = {index: cost for index, cost in enumerate(self._costs) if cost}
        rows = [*self._rows, (costs, -highspy.kHighsInf, below - 0.5)]
        entries, least, most = zip(*rows, strict=True)
        highs.passModel(_model(self._costs, self._most, (least, most), entries, highspy.MatrixFormat.kRowwise))
        highs.run()
        ended, info = highs.getModelStatus(), highs.getInfo()
        if ended == highspy.HighsModelStatus.kInfeasible:
            return None, below
        bound = min(below, int(-(-(info.mip_dual_bound - 1e-6) // 1))) if info.mip_dual_bound > 0 else 0
        if info.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
            return None, bound
        return [round(value) for value in highs.getSolution().col_value], bound


def _model(
    costs: Sequence[float],
    most: Sequence[float],
    rows: tuple[Sequence[float], Sequence[float]],
    entries: Sequence[dict[int, int]],
    by: highspy.MatrixFormat,
) -> highspy.HighsLp:
    """Unknowns from 0 to ``most``, rows between two bounds; ``entries`` are coefficients, ``by`` column or by row."""
    model = highspy.HighsLp()
    model.num_col_, model.num_row_ = len(costs), len(rows[0])
    model.col_cost_ = np.array(costs, dtype=np.float64)
    model.col_lower_, model.col_upper_ = np.zeros(len(costs)), np.array(most, dtype=np.float64)
    model.row_lower_, model.row_upper_ = (np.array(side, dtype=np.float64) for side in rows)
    model.a_matrix_.format_ = by
    model.a_matrix_.start_ = np.cumsum([0, *(len(each) for each in entries)], dtype=np.int32)
    model.a_matrix_.index_ = np.array([index for each in entries for index in each], dtype=np.int32)
    model.a_matrix_.value_ = np.array([value for each in entries for value in each.values()], dtype=np.float64)
    model.integrality_ = [highspy.HighsVarType.kInteger] * len(costs)
    return model
