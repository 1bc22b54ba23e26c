"""How thick a card is and which envelope takes it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.cards.layers import Placed
from zester.core.folds import Folded
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.papers import usual_caliper
from zester.core.pieces import CutPiece, KnownPaper
from zester.core.sizes import ENVELOPES, Envelope

# Glued stock gives a little, foam does not; neither is counted. Paper bits and knots are nobody's to know.
EASE = TICKS_PER_INCH // 8
THICK = 5 * TICKS_PER_MM


@dataclass(frozen=True)
class Thickness:
    """How thick the closed card is where it is thickest."""

    ticks: int
    """Ticks, rounded up."""
    sheets: tuple[str, ...]
    """The keys of the papers that lie on each other there, from the base up."""
    foam: int
    """Ticks of foam in it."""
    guessed: bool
    """Whether a caliper was not measured."""


def thickness_of(
    base: CutPiece | None, folded: Folded, placed: Sequence[Placed], papers: Sequence[KnownPaper]
) -> Thickness:
    """Base times its layers, the thickest pile on the front, the thickest on the inside, the thickest on the back."""
    by_key = {paper.key: paper for paper in papers}
    pile = [base.paper] * folded.layers if base else []
    foam = 0
    for face in ("front", "inside", "back"):
        piles = [k for k, each in enumerate(placed) if _group(each) == face]
        if piles:
            top = max(piles, key=lambda k: _pile(k, placed, by_key))
            pile += _sheets(top, placed)
            foam += placed[top].lift
    microns = sum(_caliper(by_key.get(paper)) for paper in pile)
    guessed = any(not by_key[paper].measured for paper in pile if paper in by_key)
    return Thickness(-int(-(microns * TICKS_PER_MM) // 1000) + foam, tuple(pile), foam, guessed)


def _group(each: Placed) -> str:
    if each.face.key == "back":
        return "back"
    return "front" if each.face.closed else "inside"


def _sheets(at: int, placed: Sequence[Placed]) -> list[str]:
    under = placed[at].under
    below = _sheets(under, placed) if under is not None else []
    return [*below, placed[at].piece.paper]


def _pile(at: int, placed: Sequence[Placed], by_key: dict[str, KnownPaper]) -> int:
    microns = sum(_caliper(by_key.get(paper)) for paper in _sheets(at, placed))
    return microns * TICKS_PER_MM + placed[at].lift * 1000


def _caliper(paper: KnownPaper | None) -> int:
    return paper.caliper if paper and paper.caliper else usual_caliper(None, "card")


def envelope_for(width: int, height: int, unit: str) -> Envelope | None:
    """The smallest usual envelope that the card slides into with an eighth of an inch to spare each way."""
    long, short = max(width, height) + EASE, min(width, height) + EASE
    fitting = [each for each in ENVELOPES[unit] if each.width >= long and each.height >= short]
    return min(fitting, key=lambda each: each.width * each.height, default=None)
