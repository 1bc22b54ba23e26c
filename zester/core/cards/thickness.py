"""How thick a card is and which envelope takes it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.cards.folds import Folded
from zester.core.cards.layers import Placed
from zester.core.cutlist.pieces import CutPiece, Stock
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.papers import usual_caliper
from zester.core.sizes import ENVELOPES, Envelope

# Glued stock gives a little, foam does not; neither is counted. Paper bits and knots are nobody's to know.
EASE = TICKS_PER_INCH // 8
THICK = 5 * TICKS_PER_MM


@dataclass(frozen=True)
class Thickness:
    """The thickest place of the closed card, in ticks rounded up; its sheets from the base up; the foam in it."""

    ticks: int
    sheets: tuple[str, ...]
    foam: int
    guessed: bool


def thickness_of(base: CutPiece | None, folded: Folded, placed: Sequence[Placed], stocks: Sequence[Stock]) -> Thickness:
    """Base times its layers, the thickest pile on the front, the thickest on the inside, the thickest on the back."""
    by_key = {stock.key: stock for stock in stocks}
    papers = [base.paper] * folded.layers if base else []
    foam = 0
    for face in ("front", "inside", "back"):
        piles = [k for k, each in enumerate(placed) if _group(each) == face]
        if piles:
            top = max(piles, key=lambda k: _pile(k, placed, by_key))
            papers += _sheets(top, placed)
            foam += placed[top].lift
    microns = sum(_caliper(by_key.get(paper)) for paper in papers)
    guessed = any(not by_key[paper].measured for paper in papers if paper in by_key)
    return Thickness(-int(-(microns * TICKS_PER_MM) // 1000) + foam, tuple(papers), foam, guessed)


def _group(each: Placed) -> str:
    if each.face.key == "back":
        return "back"
    return "front" if each.face.closed else "inside"


def _sheets(at: int, placed: Sequence[Placed]) -> list[str]:
    under = placed[at].under
    below = _sheets(under, placed) if under is not None else []
    return [*below, placed[at].piece.paper]


def _pile(at: int, placed: Sequence[Placed], by_key: dict[str, Stock]) -> int:
    microns = sum(_caliper(by_key.get(paper)) for paper in _sheets(at, placed))
    return microns * TICKS_PER_MM + placed[at].lift * 1000


def _caliper(stock: Stock | None) -> int:
    return stock.caliper if stock and stock.caliper else usual_caliper(None, "card")


def envelope_for(width: int, height: int, unit: str) -> Envelope | None:
    """The smallest usual envelope that the card slides into with an eighth of an inch to spare each way."""
    long, short = max(width, height) + EASE, min(width, height) + EASE
    fitting = [each for each in ENVELOPES[unit] if each.width >= long and each.height >= short]
    return min(fitting, key=lambda each: each.width * each.height, default=None)
