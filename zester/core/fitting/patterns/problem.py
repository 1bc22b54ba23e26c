"""One paper's problem as the solver sees it: sizes instead of named pieces, stocks instead of sheets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property, reduce
from math import gcd
from typing import Any

from zester.core.errors import sure
from zester.core.fitting.jobs.check_job import cut_from_sheet
from zester.core.fitting.jobs.job import NO_MARGINS, UPS, PaperJob, Piece, Row, Sheet, row_strip
from zester.core.fitting.jobs.plan import Layout
from zester.core.fitting.parts import ANY_CUT, CutLimits, Part, can_be_cut, rotate, with_margins
from zester.core.geometry import goes_in


@dataclass(frozen=True, kw_only=True)
class Size:
    """All pieces of one size and one rule for turning."""

    width: int
    """Ticks."""
    height: int
    """Ticks."""
    turn: bool
    """Whether it may lie a quarter turn round."""
    demand: int
    """How many are wanted in all."""
    shape: bool = False
    """Whether it may be taken out of hidden middles."""
    row: Row | None = None
    """The matched row that it stands for."""

    @property
    def area(self) -> int:
        """Square ticks."""
        return self.width * self.height

    @property
    def ways(self) -> tuple[tuple[int, int], ...]:
        """Width and height in every way it may lie, each once."""
        upright, turned = (self.width, self.height), (self.height, self.width)
        return (upright, turned) if self.turn and upright != turned else (upright,)


@dataclass(frozen=True, kw_only=True)
class Stock:
    """A kind of sheet as the solver sees it: what can be used of it, its pattern upright."""

    source: Sheet | Piece
    """The sheet itself, or the piece whose hidden middle it is."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int | None
    """How many there are; None: as many as needed."""
    allowed: tuple[bool, ...]
    """For every size whether it may come from it."""
    limits: CutLimits = ANY_CUT
    """What the trimmer can do."""

    @property
    def is_window(self) -> bool:
        """Whether it is a hidden middle."""
        return isinstance(self.source, Piece)

    @property
    def sheet(self) -> Sheet:
        """The sheet; ValueError for a hidden middle."""
        if not isinstance(self.source, Sheet):
            raise ValueError("a hidden middle is no sheet")
        return self.source

    @property
    def area(self) -> int:
        """Square ticks."""
        return self.width * self.height

    @property
    def table_limits(self) -> CutLimits:
        """The limits for a table of what can be used: a margin may be what a narrow strip is held by."""
        return self.limits if self.is_window or self.sheet.margins == NO_MARGINS else replace(self.limits, hold=0)

    def can_cut(self, tree: Part) -> bool:
        """Whether the trimmer can make every cut of a tree, those along the margins too."""
        if self.is_window or self.limits == ANY_CUT:
            return True
        whole = with_margins(rotate(tree, UPS.index(self.sheet.up)), self.sheet.margins, self.limits)
        return can_be_cut(whole, self.limits)

    def holds(self, size: Size) -> bool:
        """Whether one of the size can be cut from it, as far as its sides go."""
        return any(self.yields(width, height) for width, height in size.ways)

    def yields(self, width: int, height: int) -> bool:
        """Whether a part that lies like this can be cut from it."""
        if self.is_window:
            return width <= self.width and height <= self.height
        return cut_from_sheet(width, height, self.sheet, self.limits)


@dataclass(frozen=True, kw_only=True)
class Problem:
    """``names[k]`` are the pieces that are of size k; ``costs`` are whole units of ``unit_cost`` money."""

    sizes: tuple[Size, ...]
    """What is wanted."""
    names: tuple[tuple[Piece, ...], ...]
    """The ids of the pieces of each size."""
    stocks: tuple[Stock, ...]
    """What it is cut from."""
    costs: tuple[int, ...]
    """Of each stock, in units."""
    unit_cost: Decimal
    """What a unit is, in money."""
    limits: CutLimits = ANY_CUT
    """What the trimmer can do."""

    @cached_property
    def demands(self) -> list[int]:
        """How many of each size."""
        return [size.demand for size in self.sizes]

    @cached_property
    def limited(self) -> list[int]:
        """Indices of the stocks there are only so many of."""
        return [index for index, stock in enumerate(self.stocks) if stock.count is not None]

    @property
    def how_many(self) -> list[int]:
        """How many there are of each of these."""
        return [stock.count for stock in self.stocks if stock.count is not None]

    @cached_property
    def may_run_out(self) -> bool:
        """Whether pieces may go missing: a size fits no sheet that is there without end."""
        return not all(self._endless(index, only_free=False) for index in range(len(self.sizes)))

    @cached_property
    def free(self) -> list[bool]:
        """For every size whether it fits a sheet that costs nothing and is there without end."""
        return [self._endless(index, only_free=True) for index in range(len(self.sizes))]

    def _endless(self, index: int, only_free: bool) -> bool:
        return any(
            stock.count is None and stock.allowed[index] and stock.holds(self.sizes[index]) and not (only_free and cost)
            for stock, cost in zip(self.stocks, self.costs, strict=True)
        )


def make_problem(paper: PaperJob, demands: dict[str, int] | None = None, limits: CutLimits = ANY_CUT) -> Problem:
    """The problem of one paper; ``demands`` (by piece id) may ask for fewer than the job does. Fillers are left out."""
    wanted = {piece.id: piece.count if demands is None else demands[piece.id] for piece in paper.pieces}
    groups = _groups(paper)
    needed = {key: _demand(key, group, wanted) for key, group in groups.items()}
    keys = sorted((key for key in groups if needed[key]), key=lambda k: (-k[0] * k[1], k[:4], k[4].id if k[4] else ""))
    sizes = tuple(
        Size(width=key[0], height=key[1], turn=key[2], demand=needed[key], shape=key[3], row=key[4]) for key in keys
    )
    sheets = [sheet for sheet in paper.sheets if sheet.count != 0]
    stocks = [_sheet_stock(sheet, sizes, limits) for sheet in sheets]
    hosts = [piece for piece in paper.pieces if piece.window and wanted[piece.id]]
    windows = [_window_stock(host, wanted[host.id], sizes) for host in hosts]
    stocks += [window for window in windows if any(window.allowed)]
    scaled = [int(sheet.cost * 10**6) for sheet in sheets]
    unit = reduce(gcd, scaled, 0) or 1
    costs = tuple(cost // unit for cost in scaled) + (0,) * (len(stocks) - len(sheets))
    names = tuple(tuple(groups[key]) for key in keys)
    return Problem(
        sizes=sizes, names=names, stocks=tuple(stocks), costs=costs, unit_cost=Decimal(unit) / 10**6, limits=limits
    )


def _groups(paper: PaperJob) -> dict[tuple[Any, ...], list[Piece]]:
    """The pieces by what makes them one size: sides, turning, whether they may come from windows, the row."""
    groups: dict[tuple[Any, ...], list[Piece]] = {}
    pieces = {piece.id: piece for piece in paper.pieces}
    in_rows = {name for row in paper.matched for name in row.pieces}
    for piece in paper.pieces:
        if piece.filler or piece.id in in_rows:
            continue
        # A square lies the same way turned; only in a hidden middle its direction matters.
        turn = piece.turn and (piece.width != piece.height or piece.from_window)
        sides = (piece.width, piece.height)
        width, height = sorted(sides) if turn else sides
        groups.setdefault((width, height, turn, piece.from_window, None), []).append(piece)
    for row in paper.matched:
        strip = row_strip(row, pieces)
        groups[strip.width, strip.height, strip.turn, False, row] = [pieces[name] for name in row.pieces]
    return groups


def _demand(key: tuple[Any, ...], group: list[Piece], wanted: dict[str, int]) -> int:
    row: Row | None = key[4]
    if row is None:
        return sum(wanted[piece.id] for piece in group)
    return max(-(-wanted[name] // row.pieces.count(name)) for name in row.pieces)


def _sheet_stock(sheet: Sheet, sizes: tuple[Size, ...], limits: CutLimits) -> Stock:
    width, height = sheet.inner[::-1] if sheet.sideways else sheet.inner
    return Stock(
        source=sheet, width=width, height=height, count=sheet.count, allowed=(True,) * len(sizes), limits=limits
    )


def _window_stock(host: Piece, count: int, sizes: tuple[Size, ...]) -> Stock:
    # A host that may lie any way takes only shapes that may, too.
    window = sure(host.window)
    sides = window.width, window.height
    allowed = tuple(
        size.shape and (size.turn or not host.turn) and goes_in(size.width, size.height, *sides, turn=size.turn)
        for size in sizes
    )
    return Stock(source=host, width=sides[0], height=sides[1], count=count, allowed=allowed)


def beyond_pins(paper: PaperJob) -> tuple[PaperJob, dict[str, int]]:
    """The paper with the sheets that its pinned layouts leave, and what is wanted beyond what they make, by piece."""
    wanted = {piece.id: 0 if piece.filler else piece.count for piece in paper.pieces}
    for pin in paper.pins:
        for named in pin.parts:
            wanted[named.piece] = max(0, wanted[named.piece] - pin.copies)
    return replace(paper, sheets=without_used(paper.sheets, paper.pins)), wanted


def without_used(sheets: Sequence[Sheet], layouts: Sequence[Layout]) -> tuple[Sheet, ...]:
    """The sheets that are left when the layouts are cut."""
    used: dict[str, int] = {}
    for layout in layouts:
        if layout.source == "sheet":
            used[layout.sheet] = used.get(layout.sheet, 0) + layout.copies
    return tuple(
        sheet if sheet.count is None else replace(sheet, count=max(0, sheet.count - used.get(sheet.id, 0)))
        for sheet in sheets
    )


def part_of(problem: Problem, demands: list[int]) -> tuple[Problem, list[int], list[int]]:
    """The problem for smaller demands, hidden middles left out and every sheet there without limit.

    Returns
    -------
    problem, sizes, stocks
        The indices that its sizes and stocks have in the whole problem.
    """
    keep = [index for index, demand in enumerate(demands) if demand > 0]
    sheets = [index for index, stock in enumerate(problem.stocks) if not stock.is_window]
    small = Problem(
        sizes=tuple(replace(problem.sizes[k], demand=demands[k]) for k in keep),
        names=tuple(problem.names[k] for k in keep),
        stocks=tuple(replace(problem.stocks[s], count=None, allowed=(True,) * len(keep)) for s in sheets),
        costs=tuple(problem.costs[s] for s in sheets),
        unit_cost=problem.unit_cost,
        limits=problem.limits,
    )
    return small, keep, sheets
