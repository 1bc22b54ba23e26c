"""The pages that are printed on, and the line that proves a printer's scale."""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, with_unit
from zester.core.sizes import SHEET_SIZES

INCH, MM = TICKS_PER_INCH, TICKS_PER_MM
# Width and height of the pages that printers take.
PAGES = {key: (SHEET_SIZES[key].width, SHEET_SIZES[key].height) for key in ("letter", "a4")}
# What no printer prints of a page; and room for the measured line below.
EDGE, FOOT = 10 * MM, 16 * MM
_PROOF = {"letter": 5 * INCH, "a4": 120 * MM}


def usual_page(unit: str) -> str:
    """The page of those who measure in ``in`` or ``mm``: a key of ``PAGES``."""
    return "letter" if unit == "in" else "a4"


@dataclass(frozen=True, kw_only=True)
class ProofLine:
    """A line that must measure what is written beside it; ticks."""

    x: int
    """Where it begins, from the left edge of the page."""
    y: int
    """The same from its upper edge."""
    length: int
    """How long it is."""
    words: str
    """What it must measure."""


def proof_line(page: str) -> ProofLine:
    """The line at the foot of a page, in the page's own unit."""
    length, unit = _PROOF[page], SHEET_SIZES[page].unit
    return ProofLine(x=EDGE, y=PAGES[page][1] - EDGE - 4 * MM, length=length, words=with_unit(length, unit))
