"""Where every piece of a card sits: what is under it, its corner, how high it lies.

A piece without a written place is centred on the layer that its name, role and the order of the list suggest: an
“Inside panel” on the inside, “Door mats” one on each door, a panel on the mat written before it, a strip or a shape on
the topmost mat or panel of its face.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.folds import Face, Folded
from zester.core.lengths import TICKS_PER_INCH
from zester.core.pieces import CutPiece
from zester.core.supports import support_of

BETWEEN_COPIES = TICKS_PER_INCH // 8


@dataclass(frozen=True, kw_only=True)
class Placed:
    """One copy of a piece on the card, turned about its middle by the tilt of its place."""

    piece: CutPiece
    """The piece."""
    face: Face
    """The face it is on."""
    x: int
    """Ticks from the left of the view of its face."""
    y: int
    """Ticks from the top of it."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    under: int | None
    """The index of the placed piece it sits on; None if that is the face itself."""
    level: int
    """Layers up from the face."""
    copy: int = 0
    """Which copy of the piece it is, from 0."""
    lift: int = 0
    """Ticks of foam under it and under what it sits on."""

    @property
    def tilt(self) -> int:
        """Tenths of a degree."""
        return self.piece.place.tilt

    @property
    def seen(self) -> tuple[int, int, int, int]:
        """Left, top, right and bottom of what is seen of it: its shape's box, or its own; not tilted."""
        shape = self.piece.shape
        width, height = (shape.width, shape.height) if shape else (self.width, self.height)
        left, top = self.x + (self.width - width) // 2, self.y + (self.height - height) // 2
        return left, top, left + width, top + height

    @property
    def box(self) -> tuple[int, int, int, int]:
        """The upright rectangle around it, tilted or not: left, top, right, bottom, rounded outwards."""
        if not self.tilt:
            return self.x, self.y, self.x + self.width, self.y + self.height
        # A tilt has no exact sine; rounding outwards keeps “hangs over” on the safe side.
        angle = math.radians(self.tilt / 10)
        sine, cosine = abs(math.sin(angle)), abs(math.cos(angle))
        half_width = math.ceil((self.width * cosine + self.height * sine) / 2)
        half_height = math.ceil((self.width * sine + self.height * cosine) / 2)
        middle_x, middle_y = self.x + self.width // 2, self.y + self.height // 2
        return middle_x - half_width, middle_y - half_height, middle_x + half_width, middle_y + half_height


def place_all(pieces: Sequence[CutPiece], folded: Folded) -> list[Placed]:
    """Every copy of every piece that is on the card, in the order of the list; the base and fillers are not among them.

    A piece that comes out twice for two doors goes one to each.
    """
    placed: list[Placed] = []
    for index, piece in enumerate(pieces):
        if piece.role == "base" or piece.filler:
            continue
        words, under = support_of(piece, pieces[:index], folded)
        supports = [k for k, other in enumerate(placed) if under and other.piece.number == under.number]
        faces = _faces(words, folded)
        if under and not supports:
            continue
        if piece.role == "band" and not under:
            placed.append(_band(piece, folded))
            continue
        for copy in range(piece.count):
            if supports:
                place = supports[copy % len(supports)]
                host = placed[place]
                placed.append(_on_layer(piece, host, place, *_share(copy, piece.count, len(supports))))
            else:
                share = _share(copy, piece.count, len(faces))
                placed.append(_on_face(piece, faces[copy % len(faces)], *share))
    return placed


def _faces(words: str, folded: Folded) -> list[Face]:
    if words == "doors" and "left door" in folded.faces:
        return [folded.faces["left door"], folded.faces["right door"]]
    found = folded.face(words)
    return [found or folded.faces["front"]]


def _share(copy: int, count: int, hosts: int) -> tuple[int, int, int]:
    """The copy's number on its own host, how many of them that host gets, the number of the copy in all."""
    host = copy % hosts
    return copy // hosts, len(range(host, count, hosts)), copy


def _on_layer(piece: CutPiece, host: Placed, at: int, number: int, of: int, copy: int) -> Placed:
    x, y = _corner(piece, host.x, host.y, host.width, host.height, host.face.fold, number, of)
    lift = host.lift + piece.raised
    width, height = piece.shown_width, piece.shown_height
    return Placed(
        piece=piece,
        face=host.face,
        x=x,
        y=y,
        width=width,
        height=height,
        under=at,
        level=host.level + 1,
        copy=copy,
        lift=lift,
    )


def _on_face(piece: CutPiece, face: Face, number: int, of: int, copy: int) -> Placed:
    x, y = _corner(piece, face.x, face.y, face.width, face.height, face.fold, number, of)
    return Placed(
        piece=piece,
        face=face,
        x=x,
        y=y,
        width=piece.shown_width,
        height=piece.shown_height,
        under=None,
        level=1,
        copy=copy,
        lift=piece.raised,
    )


def _corner(piece: CutPiece, x: int, y: int, width: int, height: int, fold: str, number: int, of: int):
    """The left and upper edge of one of ``of`` copies on a host at ``x, y``.

    Copies spread evenly over the side they leave most room on; where that side's place is written, they follow each
    other from it with a small gap.
    """
    place = piece.place
    left, top, right, bottom = place.left, place.top, place.right, place.bottom
    if place.fold is not None:
        left = place.fold if fold == "left" else left
        right = place.fold if fold == "right" else right
        top = place.fold if fold == "top" else top
        bottom = place.fold if fold == "bottom" else bottom
    wide, high = piece.shown_width, piece.shown_height
    across = (width - wide) >= (height - high)
    return (
        x + _along(width, wide, left, right, number if across else 0, of if across else 1),
        y + _along(height, high, top, bottom, 0 if across else number, 1 if across else of),
    )


def _along(room: int, size: int, near: int | None, far: int | None, number: int, of: int) -> int:
    if near is not None:
        return near + number * (size + BETWEEN_COPIES)
    if far is not None:
        return room - far - size - number * (size + BETWEEN_COPIES)
    if of == 1:
        return (room - size) // 2
    # Even gaps, also at both ends: n copies leave n + 1 of them.
    return ((room - of * size) * (number + 1)) // (of + 1) + number * size


@dataclass(frozen=True)
class Wrap:
    """How a band goes round."""

    across: bool
    """Whether along the card's width; otherwise along its height."""
    length: int
    """Of the band, ticks."""
    shown: int
    """How wide it shows, ticks."""
    turned: bool
    """Whether that is the other way than it is written."""


def wrap_of(piece: CutPiece, folded: Folded) -> Wrap:
    """Which way a band goes round the closed card: along its longer side, unless only the other can be."""
    across = piece.width >= piece.height
    length, shown = max(piece.width, piece.height), min(piece.width, piece.height)
    side, other = (folded.width, folded.height) if across else (folded.height, folded.width)
    turned = length < 2 * side and length >= 2 * other
    return Wrap(across != turned, length, shown, turned)


def _band(piece: CutPiece, folded: Folded) -> Placed:
    wrap = wrap_of(piece, folded)
    front = folded.faces["front"]
    whole = Face(
        key="around",
        name="round the card",
        x=0,
        y=0,
        width=folded.width,
        height=folded.height,
        closed=True,
        fold=front.fold,
    )
    width, height = (folded.width, wrap.shown) if wrap.across else (wrap.shown, folded.height)
    place = piece.place
    x = 0 if wrap.across else _along(folded.width, width, place.left, place.right, 0, 1)
    y = _along(folded.height, height, place.top, place.bottom, 0, 1) if wrap.across else 0
    # A band lies over everything on the front.
    return Placed(piece=piece, face=whole, x=x, y=y, width=width, height=height, under=None, level=90)
