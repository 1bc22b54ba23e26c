"""Portions: whole sheets cut into a grid of equal portions, so many of them for each person to cut up at home.

Every grid of up to 12 × 12 is considered on every kind of sheet; the portion's sides are the sheet's divided evenly and
rounded down to a sixteenth of an inch or, on metric sheets, a millimetre. How many portions a person needs is a fit of
its own, asked for only where it could still be better than what is known:

    sheets = ceil(people * portions each / portions a sheet)
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from zester.core.fitting.jobs.job import UPS, Piece, Sheet
from zester.core.fitting.parts import CutLimits, Part, can_be_cut, grid_tree, rotate, with_margins
from zester.core.geometry import goes_in
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM

MOST_ACROSS = 12
MOST_FITS = 24


@dataclass(frozen=True, kw_only=True)
class Portion:
    """A grid on a sheet: the portion's sides in ticks, as the pattern stands upright, and how many a sheet gives."""

    sheet: Sheet
    """The kind of sheet it comes from."""
    width: int
    """Ticks, the pattern upright."""
    height: int
    """Ticks."""
    across: int
    """How many beside each other on a sheet."""
    down: int
    """How many below each other."""

    @property
    def a_sheet(self) -> int:
        """Portions in one sheet."""
        return self.across * self.down

    def tree(self, limits: CutLimits) -> Part:
        """The cut tree of the whole sheet as it lies, every leaf of size 0 a portion."""
        width, height = _upright(self.sheet)
        grid = grid_tree(width, height, 0, self.width, self.height, limits)
        return with_margins(rotate(grid, UPS.index(self.sheet.up)), self.sheet.margins, limits)

    def sheets(self, people: int, each: int) -> int:
        """Sheets for so many people with so many portions each."""
        return -(-people * each // self.a_sheet)


@dataclass(frozen=True, kw_only=True)
class PortionChoice:
    """The best grid: portions for each person, the cost, a proven bound on the cost of any grid, and the fit found."""

    portion: Portion
    """The portion."""
    each: int
    """How many one person gets."""
    cost: Decimal
    """What the sheets for all cost."""
    bound: Decimal
    """What they cost at the least, for any grid."""
    layouts: tuple[Any, ...]
    """How one person's are cut up."""


def grids(sheets: tuple[Sheet, ...], pieces: list[Piece], limits: CutLimits) -> list[Portion]:
    """Every grid whose portions hold every piece and that the trimmer can cut."""
    found: dict[tuple[Any, ...], Portion] = {}
    for sheet in sheets:
        width, height = _upright(sheet)
        step = TICKS_PER_MM if sheet.width % TICKS_PER_MM == 0 == sheet.height % TICKS_PER_MM else TICKS_PER_INCH // 16
        for across in range(1, MOST_ACROSS + 1):
            for down in range(1, MOST_ACROSS + 1):
                sides = width // across // step * step, height // down // step * step
                if across == down == 1:
                    sides = width, height
                portion = Portion(sheet=sheet, width=sides[0], height=sides[1], across=across, down=down)
                holds = min(sides) > 0 and all(goes_in(p.width, p.height, *sides, turn=p.turn) for p in pieces)
                if holds and can_be_cut(portion.tree(limits), limits):
                    found[sheet.id, across, down] = portion
    return list(found.values())


def _upright(sheet: Sheet) -> tuple[int, int]:
    return sheet.inner[::-1] if sheet.sideways else sheet.inner


def choose_portion(
    portions: list[Portion], area: int, people: int, fit_share: Callable[[Portion], tuple[int, int, tuple[Any, ...]]]
) -> PortionChoice | None:
    """The cheapest grid, of equals the one with the fewest portions a person, and then the least long.

    Parameters
    ----------
    portions : list of Portion
    area : int
        Square ticks of one person's pieces.
    people : int
    fit_share : callable
        Fits one person's pieces into portions; gives how many it takes, a proven bound on that, and the layouts.

    Returns
    -------
    PortionChoice or None
        None if no grid holds every piece, or none there are sheets enough for.
    """

    def cost(portion: Portion, each: int) -> Decimal:
        return portion.sheets(people, each) * portion.sheet.cost

    def least(portion: Portion) -> int:
        return max(1, -(-area // (portion.width * portion.height)))

    order = sorted(portions, key=lambda p: (cost(p, least(p)), least(p), max(p.width, p.height), p.a_sheet))
    best, bounds, fits = None, [], 0
    for portion in order:
        floor = cost(portion, least(portion))
        if best and (floor >= best[0][0] or fits >= MOST_FITS):
            bounds.append(floor)
            continue
        fits += 1
        each, sure, layouts = fit_share(portion)
        bounds.append(cost(portion, max(sure, least(portion))))
        there = portion.sheet.count
        rank = (cost(portion, each), each, max(portion.width, portion.height))
        if (there is None or portion.sheets(people, each) <= there) and (best is None or rank < best[0]):
            best = rank, portion, each, layouts
    if best is None:
        return None
    return PortionChoice(
        portion=best[1], each=best[2], cost=best[0][0], bound=min(best[0][0], *bounds), layouts=best[3]
    )
