"""What a bag or a kit weighs, so that a kitchen scale finds a missing base; how thick and large it is.

Grammage is the mass of a square metre (ISO 536), so that a piece weighs grammage × area:

    a base of 8½ × 5½ in of 216 g/m²:  0.2159 m × 0.1397 m × 216 g/m² = 6.51 g

A maker's paper may be off by some 5 % (common practice, no source), and all sheets of a pack the same way; a scale by
half a step. Weights are whole milligrams.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from itertools import pairwise

from zester.core.cards.outlines import corners_of
from zester.core.cutting.handwork import CUT_OUT
from zester.core.kits.coverage import bit_key
from zester.core.kits.packing import BIT, IF_ANY, Item
from zester.core.lengths import TICKS_PER_MM
from zester.core.papers import usual_caliper
from zester.core.pieces import BEFORE, FOLDED, SHAPE, WINDOW, CutPiece, Outline
from zester.core.usual_times import USUAL_TIMES, UsualTimes

# Ticks in a metre, squared: a square metre.
_SQUARE_METRE = (1000 * TICKS_PER_MM) ** 2
PAPER_PER_CENT, BITS_PER_CENT = 5, 10
SCALE_STEP = 1000
# Where nobody wrote a paper's weight: card stock, other papers, grams a square metre (common practice, no source).
USUAL_CARD, USUAL_OTHER = 216, 160


@dataclass(frozen=True)
class Grammage:
    """What a paper weighs."""

    grams: int
    """A square metre, grams."""
    guessed: bool
    """Whether nobody wrote it."""
    caliper: int
    """How thick a sheet is, micrometres."""


def grammage_of(weight: int | None, caliper: int | None, kind: str) -> Grammage:
    """A paper's grammage, the usual one of its kind where nobody wrote it."""
    usual = USUAL_CARD if kind == "card" else USUAL_OTHER
    return Grammage(weight or usual, not weight, caliper or usual_caliper(weight, kind))


@dataclass(frozen=True)
class Weight:
    """What something weighs."""

    milligrams: int
    """By what is known."""
    off: int = 0
    """How much lighter or heavier it may be, milligrams."""
    guessed: bool = False
    """Whether a paper's weight was not written."""
    unknown: tuple[str, ...] = ()
    """What nobody knows the weight of, and so is not in it."""

    def __add__(self, other: Weight) -> Weight:
        return Weight(
            self.milligrams + other.milligrams,
            self.off + other.off,
            self.guessed or other.guessed,
            tuple(dict.fromkeys((*self.unknown, *other.unknown))),
        )

    def times(self, count: int) -> Weight:
        """So many of it; they are off the same way."""
        return Weight(self.milligrams * count, self.off * count, self.guessed, self.unknown)

    @property
    def least(self) -> int:
        """In whole grams, as a scale shows it: the least."""
        return max(0, (self.milligrams - self.off - SCALE_STEP // 2) // 1000)

    @property
    def most(self) -> int:
        """The most, whole grams."""
        return -(-(self.milligrams + self.off + SCALE_STEP // 2) // 1000)

    @property
    def grams(self) -> Decimal:
        """To a tenth of a gram."""
        return (Decimal(self.milligrams) / 1000).quantize(Decimal("0.1"))

    @property
    def words(self) -> str:
        """``13 g (12 to 14)``."""
        whole = round(self.milligrams / 1000)
        return f"{whole} g ({self.least} to {self.most})" if whole >= 2 else f"{self.grams} g"


def area_of(outline: Outline) -> float:
    """Square ticks within an outline."""
    if outline.kind in ("circle", "oval"):
        return math.pi * outline.width * outline.height / 4
    if outline.kind == "label":
        # A quarter of a circle is missing at each corner, see ``outlines``.
        return outline.width * outline.height - math.pi * (min(outline.width, outline.height) // 5) ** 2
    corners = corners_of(outline.kind, outline.width, outline.height)
    pairs = zip(corners, [*corners[1:], corners[0]], strict=True)
    return abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in pairs)) / 2


def piece_weight(
    piece: CutPiece, paper: Grammage, *, middle_out: bool = False, usual: UsualTimes = USUAL_TIMES
) -> Weight:
    """A piece as it lies in the bag: what is cut out before the class is out of it.

    ``middle_out`` says that its hidden middle was taken out of it, ``usual`` when that is where its line does not.
    """
    area: float = piece.width * piece.height
    cut_out = [word for word in piece.preparations if word in CUT_OUT] or [SHAPE]
    if piece.shape and all(usual.job(piece, word).when == BEFORE for word in cut_out):
        area = area_of(piece.shape)
    if piece.window and usual.job(piece, WINDOW).when == BEFORE:
        area -= area_of(piece.window)
    if middle_out and piece.middle:
        area -= piece.middle.width * piece.middle.height
    milligrams = round(area * paper.grams * 1000 / _SQUARE_METRE)
    return Weight(milligrams, milligrams * PAPER_PER_CENT // 100, paper.guessed)


def in_the_bag(piece: CutPiece, caliper: int, usual: UsualTimes = USUAL_TIMES) -> tuple[int, int, int]:
    """Width and height (ticks) of a piece as it lies in the bag and how thick it is there, micrometres.

    What is folded beforehand lies folded: as large as its largest part, and so many times as thick as it is larger.
    """
    sides = [piece.width, piece.height]
    if piece.score and usual.job(piece, FOLDED).when == BEFORE:
        along, across = (0, 1) if piece.score.axis == "x" else (1, 0)
        for side, places in ((along, piece.score.places), (across, piece.score.cross)):
            marks = sorted({0, *places, sides[side]})
            part = max(end - start for start, end in pairwise(marks))
            caliper *= -(-sides[side] // part)
            sides[side] = part
    return sides[0], sides[1], caliper


def bit_weight(name: str, count: int, length: int, grams: Decimal | None) -> Weight:
    """So many of a bit; ``grams`` is the weight of one, or of a metre of what goes by the length."""
    if grams is None:
        return Weight(0, unknown=(name,))
    each = grams * 1000 * (Decimal(length) / (1000 * TICKS_PER_MM) if length else 1)
    milligrams = round(each * count)
    return Weight(milligrams, milligrams * BITS_PER_CENT // 100)


def weigh(items: Iterable[Item], pieces: Mapping[str, Weight], bits: Mapping[str, Decimal | None]) -> Weight:
    """All of it together.

    Parameters
    ----------
    items
        What is in a bag or a kit.
    pieces
        By its handle what one piece weighs.
    bits
        By ``coverage.bit_key`` what one of a bit weighs, or a metre of it, grams.
    """
    total = Weight(0)
    for item in items:
        if item.how == IF_ANY:
            continue
        if item.kind == BIT:
            total += bit_weight(item.key, item.count, item.length, bits.get(bit_key(item.key, bool(item.length))))
        elif item.key in pieces:
            total += pieces[item.key].times(item.count)
    return total


def shows(one: Weight, whole: Weight) -> bool:
    """Whether a scale shows that one thing of a bag is missing, beside a bag that is known to be right.

    Bags of one class come from the same sheets, so that they are alike to a few parts in a hundred of what differs;
    what matters then is the step of the scale.
    """
    return one.milligrams > SCALE_STEP + whole.milligrams // 100


@dataclass(frozen=True)
class Parcel:
    """A kit as it is sent, everything in one pile."""

    long: int
    """The longer side of the largest thing in it, ticks."""
    short: int
    """The shorter side of the widest, ticks."""
    thick: int
    """How high the pile is, ticks, without bits."""


def parcel_of(items: Iterable[Item], pieces: Mapping[str, tuple[int, int, int]]) -> Parcel:
    """``pieces``: by handle the width and height of a piece, ticks, and how thick it is, micrometres."""
    long = short = microns = 0
    for item in items:
        if item.key in pieces and item.kind != BIT:
            width, height, caliper = pieces[item.key]
            long, short = max(long, width, height), max(short, min(width, height))
            microns += caliper * item.count
    return Parcel(long, short, -(-microns * TICKS_PER_MM // 1000))
