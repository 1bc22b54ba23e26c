"""True-size guides: every piece at its real size, page by page, with room for the line that proves the scale.

Pieces stand beside each other in rows, the highest first (next fit decreasing height: Coffman, Garey, Johnson and
Tarjan 1980). One that is larger than a page is drawn in parts that are put together at a dotted line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.cutting.machine_file import Line, Marks, inside
from zester.core.fitting.jobs.drawing import LaidPart
from zester.core.lengths import TICKS_PER_MM, show_size
from zester.core.printing.pages import EDGE, FOOT, PAGES

MM = TICKS_PER_MM
GAP = 5 * MM


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """A piece that gets a guide."""

    handle: str
    """Its handle."""
    name: str
    """What it is called."""
    width: int
    """Ticks, as it stands upright."""
    height: int
    """Ticks."""
    marks: Marks
    """Its score lines and openings."""


@dataclass(frozen=True)
class Guide:
    """A piece, or a part of one, on a page."""

    x: int
    """Ticks from the left edge of the page."""
    y: int
    """Ticks from its upper edge."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    lines: tuple[Line, ...]
    """What is scored and cut inside, on the page."""
    title: str
    """What it is."""
    size: str
    """Its size in words."""
    open_sides: str
    """The sides at which it goes on, on another page: of ``l``, ``t``, ``r``, ``b``."""

    @property
    def on_side(self) -> bool:
        """Whether its words run down: where it is too narrow for them."""
        return self.width < 60 * MM and self.height > self.width

    @property
    def letter(self) -> str:
        """How high its letters are, millimetres; empty where there is no room for any."""
        room = (self.width if self.on_side else self.height) / MM
        along = (self.height if self.on_side else self.width) / MM
        size = min(3.2, room * 0.6, along / (0.55 * (len(self.title) + len(self.size) + 4)))
        return f"{size:.2f}" if size >= 1.4 else ""

    @property
    def down(self) -> str:
        """How far below its upper edge they stand."""
        return f"{float(self.letter or 0) * 1.25:.2f}"


@dataclass(frozen=True)
class GuidePage:
    """A page."""

    guides: tuple[Guide, ...]
    """What is on it."""


def guide_pages(pieces: Sequence[Wanted], page: str, unit: str) -> list[GuidePage]:
    """The pages; ``page`` is a key of ``PAGES``."""
    wide, high = PAGES[page]
    wide, high = wide - 2 * EDGE, high - 2 * EDGE - FOOT
    small = [piece for piece in pieces if _fits(piece, wide, high)]
    large = [piece for piece in pieces if not _fits(piece, wide, high)]
    pages = _rows([_laid(piece, wide, high) for piece in small], wide, high, unit)
    return [*pages, *(page for piece in large for page in _parts(piece, wide, high, unit))]


def _fits(piece: Wanted, wide: int, high: int) -> bool:
    return min(piece.width, piece.height) <= min(wide, high) and max(piece.width, piece.height) <= max(wide, high)


def _laid(piece: Wanted, wide: int, high: int) -> tuple[Wanted, LaidPart]:
    """Upright where it fits so, otherwise on its side."""
    if piece.width <= wide and piece.height <= high:
        return piece, LaidPart(part=0, x=0, y=0, width=piece.width, height=piece.height, piece=piece.handle)
    return piece, LaidPart(
        part=0, x=0, y=0, width=piece.height, height=piece.width, piece=piece.handle, turned=True, up="right"
    )


def _rows(laid: list[tuple[Wanted, LaidPart]], wide: int, high: int, unit: str) -> list[GuidePage]:
    pages: list[list[Guide]] = []
    x = y = row = 0
    for piece, part in sorted(laid, key=lambda each: (-each[1].height, -each[1].width)):
        if pages and x + part.width > wide:
            x, y, row = 0, y + row + GAP, 0
        if not pages or y + part.height > high:
            pages.append([])
            x = y = row = 0
        pages[-1].append(_guide(piece, part, EDGE + x, EDGE + y, unit))
        x, row = x + part.width + GAP, max(row, part.height)
    return [GuidePage(tuple(page)) for page in pages]


def _guide(piece: Wanted, part: LaidPart, x: int, y: int, unit: str, which: str = "", sides: str = "") -> Guide:
    at = LaidPart(part=0, x=x, y=y, width=part.width, height=part.height, piece=part.piece, up=part.up)
    title = f"{piece.handle} {piece.name}".strip() + which
    size = show_size(piece.width, piece.height, unit)
    return Guide(x, y, part.width, part.height, tuple(inside(at, piece.marks)), title, size, sides)


def _parts(piece: Wanted, wide: int, high: int, unit: str) -> list[GuidePage]:
    """A piece that is larger than a page, in parts; score lines where they lie in a part."""
    columns, rows = -(-piece.width // wide), -(-piece.height // high)
    found = []
    for row in range(rows):
        for column in range(columns):
            left, top = column * wide, row * high
            width, height = min(wide, piece.width - left), min(high, piece.height - top)
            whole = LaidPart(part=0, x=EDGE - left, y=EDGE - top, width=piece.width, height=piece.height)
            box = (EDGE, EDGE, EDGE + width, EDGE + height)
            lines = tuple(clipped for line in inside(whole, piece.marks) if (clipped := _clipped(line, box)))
            sides = "".join(
                side
                for side, more in zip("ltrb", (column, row, column < columns - 1, row < rows - 1), strict=True)
                if more
            )
            number = row * columns + column + 1
            title = f"{piece.handle} {piece.name}, part {number} of {rows * columns}"
            size = show_size(piece.width, piece.height, unit)
            found.append(GuidePage((Guide(EDGE, EDGE, width, height, lines, title, size, sides),)))
    return found


def _clipped(line: Line, box: tuple[int, int, int, int]) -> Line | None:
    """A straight line along an axis within a box; outlines are left out where they do not lie in it whole."""
    left, top, right, bottom = box
    xs, ys = [x for x, _ in line.points], [y for _, y in line.points]
    if len(line.points) == 2:
        ends = tuple((min(max(x, left), right), min(max(y, top), bottom)) for x, y in line.points)
        beside = min(xs) > right or max(xs) < left or min(ys) > bottom or max(ys) < top
        return None if beside or ends[0] == ends[1] else Line(line.layer, ends)
    within = min(xs) >= left and max(xs) <= right and min(ys) >= top and max(ys) <= bottom
    return line if within else None
