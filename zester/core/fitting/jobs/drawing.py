"""Where everything lies on a sheet: the geometry of a layout's drawing, in ticks.

x →   0        at
y  0  +--------+----+
↓     | A1     | A2 |     every part that is whole after the cuts is a LaidPart, either a piece
      +--------+----+     or an offcut (piece is empty)
      | offcut      |
      +-------------+
"""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.fitting.jobs.plan import Cut, Layout, Named
from zester.core.geometry import Box, split


@dataclass(frozen=True, kw_only=True)
class LaidPart:
    """A part as it lies on the sheet."""

    part: int
    """Its number in the layout."""
    x: int
    """Ticks from the sheet's left edge."""
    y: int
    """Ticks from its upper edge."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    piece: str = ""
    """The piece's id; empty for an offcut and for a whole portion."""
    turned: bool = False
    """Whether the piece lies a quarter turn round."""
    up: str = "top"
    """The edge at which the top of the piece lies."""
    portion: bool = False
    """Whether it is a whole portion."""

    @property
    def offcut(self) -> bool:
        """Whether nothing is made of it."""
        return not self.piece and not self.portion

    @property
    def area(self) -> int:
        """Square ticks."""
        return self.width * self.height


@dataclass(frozen=True)
class CutLine:
    """A cut as it is seen on the sheet."""

    cut: Cut
    """The cut."""
    box: Box
    """The part it goes across."""
    start: tuple[int, int]
    """Its left or upper end, ticks from the upper left corner of the sheet."""
    end: tuple[int, int]
    """Its other end."""


def cut_lines(layout: Layout, width: int, height: int) -> list[CutLine]:
    """The cuts of a layout on a sheet of this size, in order."""
    return _cut_up(layout, width, height)[1]


def lay_parts(layout: Layout, width: int, height: int) -> list[LaidPart]:
    """All whole parts of a layout on a sheet of this size, pieces and offcuts, from the upper left."""
    boxes, _ = _cut_up(layout, width, height)
    names = {named.part: named for named in layout.parts}
    laid = [_laid(part, box, names.get(part)) for part, box in boxes.items()]
    return sorted(laid, key=lambda p: (p.y, p.x))


def _cut_up(layout: Layout, width: int, height: int) -> tuple[dict[int, Box], list[CutLine]]:
    """The boxes of the parts that are whole in the end, by their numbers, and the cuts."""
    boxes, lines = {0: (0, 0, width, height)}, []
    for index, cut in enumerate(layout.cuts):
        box = boxes.pop(cut.part)
        boxes[2 * index + 1], boxes[2 * index + 2] = _, second = split(box, cut.axis, cut.at)
        x, y, wide, high = box
        end = (second[0], y + high) if cut.axis == "x" else (x + wide, second[1])
        lines.append(CutLine(cut, box, second[:2], end))
    return boxes, lines


def _laid(part: int, box: Box, named: Named | None) -> LaidPart:
    x, y, width, height = box
    if named is None:
        return LaidPart(part=part, x=x, y=y, width=width, height=height)
    return LaidPart(
        part=part,
        x=x,
        y=y,
        width=width,
        height=height,
        piece=named.piece,
        turned=named.turned,
        up=named.edge,
        portion=named.portion,
    )


@dataclass(frozen=True, kw_only=True)
class Label:
    """Text on a part."""

    lines: tuple[str, ...]
    """Line by line."""
    letter: int
    """The height of the letters, ticks."""
    x: int
    """Of its centre, ticks."""
    y: int
    """Of its centre, ticks."""
    upwards: bool = False
    """Whether it runs upwards."""

    @property
    def line_step(self) -> int:
        """Ticks from one line to the next."""
        return self.letter * 118 // 100

    def baseline(self, line: int) -> int:
        """Ticks from the label's centre down to the middle of a line."""
        return (2 * line - len(self.lines) + 1) * self.line_step // 2

    @property
    def plate(self) -> tuple[int, int]:
        """Width and height of the plate behind the text, in ticks."""
        longest = max(len(line) for line in self.lines)
        return longest * self.letter * 56 // 100 + self.letter // 2, len(self.lines) * self.line_step + self.letter // 8


# A letter's height as a share of the sheet's longer side, the larger one first.
SHARES = (36, 45)


def fit_label(
    placed: LaidPart, handle: str, size: str, sheet_side: int, shares: tuple[int, ...] = SHARES
) -> Label | None:
    """The most that can be written on a part so that it can be read: handle and size, the handle alone, or nothing.

    Letters are one of ``shares`` of the sheet's longer side high, the first that fits. A letter is taken to be 0.58
    of its height wide. Without a size only the handle is written.
    """
    x, y = placed.x + placed.width // 2, placed.y + placed.height // 2
    for lines in ((handle, size), (f"{handle}  {size}",), (handle,)) if size else ((handle,),):
        for share in shares:
            letter = sheet_side // share
            long = max(len(line) for line in lines) * letter * 58 // 100 + letter // 2
            high = len(lines) * letter * 125 // 100 + letter // 5
            if long <= placed.width and high <= placed.height:
                return Label(lines=lines, letter=letter, x=x, y=y)
            if long <= placed.height and high <= placed.width:
                return Label(lines=lines, letter=letter, x=x, y=y, upwards=True)
    return None
