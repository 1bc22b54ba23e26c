"""A piece that came out a hair short: where on its card it can be used all the same, and what to trim instead.

What can be mended depends on what covers it: an edge under another layer, or one that is trimmed flush anyway, is not
seen; a border that grows by a hair is seen less if the layer below is trimmed by the same.
"""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.cards.hidden import covered, covers_of
from zester.core.cards.layers import Placed
from zester.core.cards.study import Study
from zester.core.lengths import show_length

SIDES = ("left", "top", "right", "bottom")


@dataclass(frozen=True)
class Bearing:
    """What can be done with a piece that is short."""

    hidden: tuple[str, ...]
    """Places where it is not seen, in words; the best first."""
    instead: tuple[str, ...]
    """What to trim instead, in words."""

    @property
    def can(self) -> bool:
        """Whether there is a place where nobody sees it."""
        return bool(self.hidden)


def bear_short(study: Study, number: int, short: int) -> Bearing:
    """What can be done with the piece of that number if it is ``short`` ticks too small one way."""
    if study.base is not None and study.base.number == number:
        much = f"{show_length(short, study.unit)} {study.unit}"
        return Bearing((), (f"the card gets {much} smaller: trim every layer that runs to its edge by the same",))
    places = [(at, placed) for at, placed in enumerate(study.placed) if placed.piece.number == number]
    hidden: dict[str, None] = {}
    instead: dict[str, None] = {}
    for at, placed in places:
        for words in _flush(placed, short):
            hidden[words] = None
        for words in _under(study, at, placed, short):
            hidden[words] = None
        for words in _trims(study, at, placed, short):
            instead[words] = None
    return Bearing(tuple(hidden), tuple(instead))


def _flush(placed: Placed, short: int) -> list[str]:
    over = placed.piece.overhang
    edges = zip(SIDES, (over.left, over.top, over.right, over.bottom), strict=True)
    return [f"its {side} edge is trimmed flush anyway" for side, long in edges if long >= short]


def _under(study: Study, at: int, placed: Placed, short: int) -> list[str]:
    """Edges that lie under other layers, from end to end."""
    if placed.piece.shape or placed.tilt:
        return []
    covers = covers_of(study, at)
    left, top, right, bottom = placed.x, placed.y, placed.x + placed.width, placed.y + placed.height
    strips = {
        "left": (left, top, left + short, bottom),
        "top": (left, top, right, top + short),
        "right": (right - short, top, right, bottom),
        "bottom": (left, bottom - short, right, bottom),
    }
    found = []
    for side, strip in strips.items():
        boxes = [(cover.x, cover.y, cover.x + cover.width, cover.y + cover.height) for cover in covers]
        over = [(cover.piece.name, box) for cover, box in zip(covers, boxes, strict=True) if _meets(box, strip)]
        alone = [name for name, box in over if covered(strip, [box])]
        names = alone[:1] or [name for name, _ in over]
        if names and covered(strip, [box for _, box in over]):
            found.append(f"its {side} edge lies under {' and '.join(dict.fromkeys(names))}")
    return found


def _meets(box: tuple[int, int, int, int], other: tuple[int, int, int, int]) -> bool:
    return box[0] < other[2] and other[0] < box[2] and box[1] < other[3] and other[1] < box[3]


def _trims(study: Study, at: int, placed: Placed, short: int) -> list[str]:
    """What keeps borders even: what it lies on, and what lies on it."""
    much = f"{show_length(short, study.unit)} {study.unit}"
    found = []
    if placed.under is not None:
        host = study.placed[placed.under].piece
        found.append(f"trim {host.name}, which it lies on, by the same {much}: the border stays even")
    else:
        found.append(f"on the card itself the border grows by {much} on one side, or half of that on two")
    for cover in covers_of(study, at):
        room = min(placed.width - cover.width, placed.height - cover.height)
        if room > 0:
            found.append(f"trim {cover.piece.name}, which lies on it, by the same {much}")
    return found
