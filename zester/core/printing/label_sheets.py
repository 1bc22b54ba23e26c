"""Sheets of labels as shops sell them, and where each label stands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.printing.pages import PAGES

INCH, MM = TICKS_PER_INCH, TICKS_PER_MM
# The side of a code on a label: with 45 modules across each is over a third of a millimetre.
CODE_SIDE = 17 * MM
Label = TypeVar("Label")


@dataclass(frozen=True, kw_only=True)
class LabelSheet:
    """A sheet of labels as shops sell them; ticks. Sizes are common practice, no source: measure yours once."""

    name: str
    """What it is called."""
    paper: str
    """``letter`` or ``a4``."""
    columns: int
    """Labels beside each other."""
    rows: int
    """Labels below each other."""
    width: int
    """Of a label."""
    height: int
    """Of a label."""
    left: int
    """From the left edge of the page to the first label."""
    top: int
    """From its upper edge."""
    across: int
    """From the left edge of one label to that of the next."""
    cut_lines: bool = False
    """Whether it is plain paper, with lines to cut along."""

    @property
    def each(self) -> int:
        """Labels on a page."""
        return self.columns * self.rows

    @property
    def code_top(self) -> int:
        """How far below its upper edge a code stands in the middle."""
        return (self.height - CODE_SIDE) // 2

    @property
    def is_tall(self) -> bool:
        """Whether a label has room for what to know of a piece."""
        return self.height >= 30 * MM

    @property
    def page(self) -> tuple[int, int]:
        """Width and height of the page."""
        return PAGES[self.paper]


LABEL_SHEETS = {
    "letter-30": LabelSheet(
        name="letter, 30 labels of 2⅝ × 1 in", paper="letter", columns=3, rows=10, width=21 * INCH // 8, height=INCH,
        left=3 * INCH // 16, top=INCH // 2, across=11 * INCH // 4,
    ),
    "letter-10": LabelSheet(
        name="letter, 10 labels of 4 × 2 in", paper="letter", columns=2, rows=5, width=4 * INCH, height=2 * INCH,
        left=5 * INCH // 32, top=INCH // 2, across=67 * INCH // 16,
    ),
    "a4-24": LabelSheet(
        name="A4, 24 labels of 70 × 37 mm", paper="a4", columns=3, rows=8, width=70 * MM, height=37 * MM,
        left=0, top=MM // 2, across=70 * MM,
    ),
    "a4-21": LabelSheet(
        name="A4, 21 labels of 63.5 × 38.1 mm", paper="a4", columns=3, rows=7, width=635 * MM // 10,
        height=381 * MM // 10, left=72 * MM // 10, top=151 * MM // 10, across=660 * MM // 10,
    ),
    "plain": LabelSheet(
        name="plain letter paper, cut apart", paper="letter", columns=2, rows=6, width=15 * INCH // 4,
        height=13 * INCH // 8, left=INCH // 2, top=5 * INCH // 8, across=15 * INCH // 4, cut_lines=True,
    ),
}  # fmt: skip


def usual_label_sheet(unit: str) -> str:
    """The sheet of those who measure in ``in`` or ``mm``: a key of ``LABEL_SHEETS``."""
    return "letter-30" if unit == "in" else "a4-24"


def label_pages(labels: Sequence[Label], sheet: LabelSheet, start: int) -> list[list[tuple[int, int, Label]]]:
    """Left and top of every label, page by page; the first page begins at label ``start``, counted from 1."""
    pages: list[list[tuple[int, int, Label]]] = []
    for index, label in enumerate(labels, max(0, min(start, sheet.each) - 1)):
        page, place = divmod(index, sheet.each)
        row, column = divmod(place, sheet.columns)
        while len(pages) <= page:
            pages.append([])
        pages[page].append((sheet.left + column * sheet.across, sheet.top + row * sheet.height, label))
    return pages
