"""The fit job as values: which pieces are wanted from which papers, and what they are cut with.

``job_file.py`` reads and writes it as open JSON, ``check_job.py`` says whether it can be used. All lengths are ticks.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from zester.core.fitting.jobs.plan import Layout
from zester.core.fitting.parts import ANY_CUT, CutLimits
from zester.core.geometry import Window, goes_in

# A paper that comes in several sizes: what lies on the shelf of one is a kind of sheet of its own, its id the size's
# with this sign. It counts a tenth of its price, so that it is used before any is bought.
ON_SHELF = "+"
SHELF_SHARE = Decimal("0.1")
UPS = ("top", "right", "bottom", "left")
# The usual budget for a paper, seconds.
PAPER_SECONDS = 9.5
DIRECTIONS = ("free", "half", "upright")
POOLS = ("together", "own", "portions", "whole")
# Those in which what is handed out is cut up at home.
AT_HOME = ("portions", "whole")


@dataclass(frozen=True)
class Margins:
    """What cannot be used along the sides of a sheet: a printed edge, a ragged side."""

    left: int = 0
    """Ticks."""
    top: int = 0
    """Ticks."""
    right: int = 0
    """Ticks."""
    bottom: int = 0
    """Ticks."""


NO_MARGINS = Margins()


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """A kind of sheet that pieces are cut from."""

    id: str
    """What the plan calls it."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int | None = None
    """How many there are; None: as many as needed."""
    cost: Decimal = Decimal(1)
    """What using one costs, in any money."""
    margins: Margins = NO_MARGINS
    """What cannot be used along its sides, as it lies."""
    up: str = "top"
    """The edge at which the top of its pattern lies: one of ``UPS``."""
    pack: int = 1
    """How many are sold together."""

    @property
    def is_offcut(self) -> bool:
        """Whether it is an offcut: there are only so many, and using one costs nothing."""
        return self.count is not None and not self.cost

    @property
    def is_on_shelf(self) -> bool:
        """Whether it is what lies on the shelf of a size that can be bought, too."""
        return self.count is not None and self.id.endswith(ON_SHELF)

    @property
    def price(self) -> Decimal:
        """What one costs that is bought."""
        return self.cost / SHELF_SHARE if self.is_on_shelf else self.cost

    @property
    def inner(self) -> tuple[int, int]:
        """Width and height within the margins."""
        margins = self.margins
        return self.width - margins.left - margins.right, self.height - margins.top - margins.bottom

    @property
    def sideways(self) -> bool:
        """Whether its pattern lies on its side."""
        return self.up in ("left", "right")

    @property
    def upright(self) -> tuple[int, int]:
        """Width and height within the margins when its pattern stands upright."""
        return self.inner[::-1] if self.sideways else self.inner


@dataclass(frozen=True, kw_only=True)
class Piece:
    """A size of piece that is wanted so many times."""

    id: str
    """What the plan calls it."""
    width: int
    """Ticks, as the piece stands upright."""
    height: int
    """Ticks."""
    count: int
    """How many are wanted."""
    turn: bool = True
    """Whether it may lie a quarter turn round. One that may not may still lie upside down, unless it is upright."""
    upright: bool = False
    """Whether its top has to lie where the top of the pattern is."""
    each: int | None = None
    """One person's share of the count; None if nobody said."""
    window: Window | None = None
    """Its hidden middle, if it has one."""
    from_window: bool = False
    """Whether it may be taken out of a hidden middle."""
    filler: bool = False
    """Whether it is wanted only where it costs nothing."""

    @property
    def direction(self) -> str:
        """One of ``DIRECTIONS``: ``free``, ``half`` (half a turn only) or ``upright``."""
        return "free" if self.turn else "upright" if self.upright else "half"

    def fits(self, sheet: Sheet) -> bool:
        """Whether one lies within the margins of the sheet at all."""
        return goes_in(self.width, self.height, *sheet.upright, turn=self.turn)


@dataclass(frozen=True)
class Row:
    """Matched pieces, cut as one strip."""

    id: str
    """What it is called."""
    axis: str
    """"x": side by side from left to right; "y": one below the other."""
    pieces: tuple[str, ...]
    """Their ids in order; one may stand several times."""


def row_strip(row: Row, pieces: dict[str, Piece]) -> Piece:
    """A matched row as one piece, the strip it is cut as; ``pieces`` by id."""
    members = [pieces[name] for name in row.pieces]
    width, height = members[0].width, members[0].height
    if row.axis == "x":
        width = sum(piece.width for piece in members)
    else:
        height = sum(piece.height for piece in members)
    return Piece(id=row.id, width=width, height=height, count=1, turn=members[0].turn)


@dataclass(frozen=True, kw_only=True)
class PaperJob:
    """All that is wanted from one paper. Papers do not mix, so each is fitted on its own."""

    id: str
    """The paper's key."""
    sheets: tuple[Sheet, ...]
    """The kinds of sheets there are; at least one."""
    pieces: tuple[Piece, ...]
    """What is wanted; at least one that is no filler."""
    matched: tuple[Row, ...] = ()
    """Pieces that stay side by side."""
    pool: str = "together"
    """One of ``POOLS``: common sheets, everybody's own, portions or whole sheets that are cut up at home."""
    people: int = 1
    """Participants; only ``own`` and ``portions`` need them."""
    pins: tuple[Layout, ...] = ()
    """Layouts that stay as they are, with their copies."""
    name: str = ""
    """What people call the paper; only messages use it."""

    @property
    def called(self) -> str:
        """The paper's name, or its key where it has none."""
        return self.name or self.id


@dataclass(frozen=True)
class KeepRule:
    """The smallest offcut worth keeping."""

    short: int
    """Its shorter side, ticks."""
    long: int
    """Its longer side, ticks."""

    def keeps(self, width: int, height: int) -> bool:
        """Whether an offcut of this size (ticks) is kept."""
        return min(width, height) >= self.short and max(width, height) >= self.long


@dataclass(frozen=True)
class Bench:
    """What the cutting is done with."""

    stack: int = 1
    """Sheets cut at once."""
    limits: CutLimits = ANY_CUT
    """What the trimmer can do."""
    keep: KeepRule | None = None
    """Which offcuts are kept, so that no filler uses them up; None: none."""

    @property
    def keep_rule(self) -> KeepRule:
        """Which offcuts are kept; every one, where nobody said."""
        return self.keep or KeepRule(1, 1)


ANY_BENCH = Bench()


@dataclass(frozen=True)
class Job:
    """A whole fit job."""

    unit: str
    """"in" or "mm": only how lengths are written."""
    papers: tuple[PaperJob, ...]
    """One paper after the other."""
    bench: Bench = ANY_BENCH
    """What it is cut with."""
