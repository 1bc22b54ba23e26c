"""Where every piece of a card sits: what is under it, its corner, how high it lies.

A piece without a written place is centred on the layer that its name, role and the order of the list suggest: an
“Inside panel” on the inside, “Door mats” one on each door, a panel on the mat written before it, a strip or a shape on
the topmost mat or panel of its face.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zester.core.folds import Face, Folded
from zester.core.lengths import TICKS_PER_INCH
from zester.core.pieces import CutPiece, Place
from zester.core.supports import face_of, seat_of

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
    local: tuple[int, int] = (0, 0)
    """Its corner from that of what it sits on, before either is turned; ticks."""
    host_tilt: int = 0
    """Tenths of a degree that what it sits on is turned by."""
    passed: int | None = None
    """The number of the layer above it in the list that it is too large for and so is drawn beneath, which nobody said;
    None if it sits where it would, or runs from edge to edge on purpose.
    """
    copy: int = 0
    """Which copy of the piece it is, from 0."""
    lift: int = 0
    """Ticks of foam under it and under what it sits on."""

    @property
    def own_tilt(self) -> int:
        """How far it is turned against what it sits on, tenths of a degree."""
        # What is written with the tilt of its layer lies along that.
        return 0 if self.host_tilt and self.piece.place.tilt == self.host_tilt else self.piece.place.tilt

    @property
    def tilt(self) -> int:
        """Tenths of a degree, with that of what it sits on."""
        return self.host_tilt + self.own_tilt

    @property
    def own_box(self) -> tuple[int, int, int, int]:
        """What it takes up of what it sits on, seen from there: left, top, right, bottom, tilted or its shape's."""
        if self.own_tilt:
            return _around(*self.local, self.width, self.height, self.own_tilt)
        return self.seen_at(*self.local)

    @property
    def seen(self) -> tuple[int, int, int, int]:
        """Left, top, right and bottom of what is seen of it: its shape's box, or its own; not tilted."""
        return self.seen_at(self.x, self.y)

    def seen_at(self, x: int, y: int) -> tuple[int, int, int, int]:
        """The same with its corner at ``x, y``."""
        shape = self.piece.shape
        width, height = (shape.width, shape.height) if shape else (self.width, self.height)
        left, top = x + (self.width - width) // 2, y + (self.height - height) // 2
        return left, top, left + width, top + height

    @property
    def box(self) -> tuple[int, int, int, int]:
        """The upright rectangle around it, tilted or not: left, top, right, bottom, rounded outwards."""
        return _around(self.x, self.y, self.width, self.height, self.tilt)


def _around(x: int, y: int, width: int, height: int, tilt: int) -> tuple[int, int, int, int]:
    """The upright rectangle around one that is turned about its middle."""
    if not tilt:
        return x, y, x + width, y + height
    # A tilt has no exact sine; rounding outwards keeps “hangs over” on the safe side.
    angle = math.radians(tilt / 10)
    sine, cosine = abs(math.sin(angle)), abs(math.cos(angle))
    half_width = math.ceil((width * cosine + height * sine) / 2)
    half_height = math.ceil((width * sine + height * cosine) / 2)
    middle_x, middle_y = x + width // 2, y + height // 2
    return middle_x - half_width, middle_y - half_height, middle_x + half_width, middle_y + half_height


def place_all(pieces: Sequence[CutPiece], folded: Folded) -> list[Placed]:
    """Every copy of every piece that is on the card, in the order of the list; the base and fillers are not among them.

    A piece that comes out twice for two doors goes one to each.
    """
    placed: list[Placed] = []
    pieces = _from_below(pieces, folded)
    for index, piece in enumerate(pieces):
        if piece.role == "base" or piece.filler or piece.loose:
            continue
        seat = seat_of(piece, pieces[:index], folded)
        under, over = seat.under, seat.passed.number if seat.passed else None
        if piece.place.over_fold:
            placed += _over_the_fold(piece, folded)
            continue
        supports = [k for k, other in enumerate(placed) if under and other.piece.number == under.number]
        faces = _faces(seat.face, folded)
        if under and not supports:
            continue
        if piece.role == "band" and not under:
            placed.append(_band(piece, folded))
            continue
        for copy in range(piece.count):
            if supports:
                place = supports[copy % len(supports)]
                host = placed[place]
                layer = _on_layer(piece, host, place, *_share(copy, piece.count, len(supports)))
                layer = _below_the_last(layer, host, placed)
                placed.append(_asked_about(layer, over, host.width, host.height))
            else:
                share = _share(copy, piece.count, len(faces))
                layer = _on_face(piece, faces[copy % len(faces)], *share)
                layer = _below_the_last(layer, None, placed)
                layer = replace(layer, level=_level(layer, placed))
                placed.append(_asked_about(layer, over, layer.face.width, layer.face.height))
    return placed


def _asked_about(layer: Placed, passed: int | None, wide: int, high: int) -> Placed:
    """Marked as too large for a layer, unless it is a strip or as wide or as high as what it lies on."""
    left, top, right, bottom = layer.own_box
    runs = (right - left == wide) != (bottom - top == high)
    if passed is None or layer.piece.role == "strip" or runs:
        return layer
    return replace(layer, passed=passed)


def _below_the_last(layer: Placed, host: Placed | None, placed: Sequence[Placed]) -> Placed:
    """Moved to below what was put on the same layer or face before it, if its line says so."""
    piece = layer.piece
    if piece.place.after is None:
        return layer
    beside = [
        other
        for other in placed
        if (other.under, other.face.key) == (layer.under, layer.face.key)
        and other.piece is not piece
        and other.level < 90
    ]
    if not beside:
        return layer
    last = beside[-1]
    below = last.local[1] + last.height + piece.place.after + layer.copy * (layer.height + piece.place.after)
    x, y = (layer.face.x + layer.local[0], layer.face.y + below)
    if host:
        x, y = _turned(host, layer.local[0], below, layer.width, layer.height)
    return replace(layer, x=x, y=y, local=(layer.local[0], below))


def _from_below(pieces: Sequence[CutPiece], folded: Folded) -> Sequence[CutPiece]:
    """The pieces in the order they are laid down: the list's, but for those that are said to lie behind others."""
    if not any(piece.place.behind for piece in pieces):
        return pieces
    ordered: list[CutPiece] = []
    for piece in pieces:
        at = len(ordered)
        if piece.place.behind == "all":
            face = face_of(piece, pieces, folded)
            alike = (
                k for k, other in enumerate(ordered) if face_of(other, pieces, folded) == face and other.role != "base"
            )
            at = next(alike, at)
        elif piece.place.behind:
            at = next((k for k, other in enumerate(ordered) if f"#{other.number}" == piece.place.behind), at)
        ordered.insert(at, piece)
    return ordered


def _level(layer: Placed, placed: Sequence[Placed]) -> int:
    """How high a piece lies that is glued to a face and over what is there already."""
    left, top, right, bottom = layer.box
    highest = 0
    for other in placed:
        if highest < other.level < 90 and other.face.key == layer.face.key and other.piece is not layer.piece:
            near, above, far, below = other.box
            if left < far and near < right and top < below and above < bottom:
                highest = other.level
    return 1 + highest


def _over_the_fold(piece: CutPiece, folded: Folded) -> list[Placed]:
    """Half of a piece on the front and half on the back, both at the fold."""
    out = []
    for key in ("front", "back"):
        face = folded.faces[key]
        across = face.fold in ("left", "right", "")
        width = piece.shown_width // 2 if across else piece.shown_width
        height = piece.shown_height if across else piece.shown_height // 2
        x = face.width - width if face.fold == "right" else 0 if across else (face.width - width) // 2
        y = face.height - height if face.fold == "bottom" else (face.height - height) // 2 if across else 0
        out.append(
            Placed(
                piece=piece,
                face=face,
                x=face.x + x,
                y=face.y + y,
                width=width,
                height=height,
                under=None,
                level=1,
                local=(x, y),
            )
        )
    return out


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
    near, above = _corner(piece, host.width, host.height, host.face.fold, number, of)
    lift = host.lift + piece.raised
    width, height = piece.shown_width, piece.shown_height
    x, y = _turned(host, near, above, width, height)
    return Placed(
        piece=piece,
        face=host.face,
        x=x,
        y=y,
        width=width,
        height=height,
        under=at,
        level=host.level + 1,
        local=(near, above),
        host_tilt=host.tilt,
        copy=copy,
        lift=lift,
    )


def _turned(host: Placed, near: int, above: int, width: int, height: int) -> tuple[int, int]:
    """Where the corner of a piece comes to be when what it sits on is turned about its middle."""
    if not host.tilt:
        return host.x + near, host.y + above
    angle = math.radians(host.tilt / 10)
    across, down = near + width / 2 - host.width / 2, above + height / 2 - host.height / 2
    middle_x = host.x + host.width / 2 + across * math.cos(angle) - down * math.sin(angle)
    middle_y = host.y + host.height / 2 + across * math.sin(angle) + down * math.cos(angle)
    return round(middle_x - width / 2), round(middle_y - height / 2)


def _on_face(piece: CutPiece, face: Face, number: int, of: int, copy: int) -> Placed:
    near, above = _corner(piece, face.width, face.height, face.fold, number, of, face.key)
    return Placed(
        piece=piece,
        face=face,
        x=face.x + near,
        y=face.y + above,
        local=(near, above),
        width=piece.shown_width,
        height=piece.shown_height,
        under=None,
        level=1,
        copy=copy,
        lift=piece.raised,
    )


def _corner(
    piece: CutPiece, width: int, height: int, fold: str, number: int, of: int, face: str = ""
) -> tuple[int, int]:
    """The left and upper edge of one of ``of`` copies on a host, from its corner.

    Copies spread evenly over the side they leave most room on, or that is said; with a gap they stand together in the
    middle; where that side's place is written, they follow each other from it with the gap or a small one. Two whose
    left and right are written go one to each. What is called left or right lies in that half.
    """
    place = piece.place
    left, top, right, bottom = place.left, place.top, place.right, place.bottom
    if place.fold is not None:
        left = place.fold if fold == "left" else left
        right = place.fold if fold == "right" else right
        top = place.fold if fold == "top" else top
        bottom = place.fold if fold == "bottom" else bottom
    wide, high = piece.shown_width, piece.shown_height
    across = {"row": True, "column": False}.get(place.line)
    if across is None:
        across = _in_a_row((width, height), (wide, high), ((left, right), (top, bottom)), of, place.gap)
    if place.spots:
        across = (fold if place.spots_from == "fold" else place.spots_from) in ("left", "right")
    elif of == 2 and left is not None and right is not None:
        across = True
    elif of == 2 and top is not None and bottom is not None:
        across = False
    half = _half_of(piece, face)
    if half and left is None and right is None and 2 * wide <= width and of == 1:
        left = (width // 2 - wide) // 2 + (width // 2 if half == "right" else 0)
    x = _along(width, wide, (left, right), (number, of) if across else (0, 1), place)
    y = _along(height, high, (top, bottom), (0, 1) if across else (number, of), place)
    return x, y


def _in_a_row(
    room: tuple[int, int],
    size: tuple[int, int],
    said: tuple[tuple[int | None, int | None], tuple[int | None, int | None]],
    of: int,
    gap: int | None,
) -> bool:
    """Whether copies spread across where no line says: where they leave most room, if they fit there.

    Where the place is written the one way they are spread the other way: three ½ from the bottom are a row. They follow
    each other from it only where they fit so, and beside each other not.
    """
    needed = [of * side + (of - 1) * (gap or 0) for side in size]
    across, down = (each != (None, None) for each in said)
    if across != down:
        far = max(each or 0 for each in said[0 if across else 1])
        here, there = (0, 1) if across else (1, 0)
        followed = needed[here] + (of - 1) * (BETWEEN_COPIES if gap is None else 0) + far <= room[here]
        beside = needed[there] <= room[there]
        if beside or followed or _overlap(room[there], size[there], of):
            return (beside or not followed) != across
    fits = [each <= all_room for each, all_room in zip(needed, room, strict=True)]
    roomier = room[0] - size[0] >= room[1] - size[1]
    return roomier if fits[0] == fits[1] else fits[0]


def _overlap(room: int, size: int, of: int) -> bool:
    """Whether copies that do not fit beside each other lie on each other by less than half, from edge to edge."""
    return of > 1 and 2 * (room - size) >= size * (of - 1)


def _half_of(piece: CutPiece, face: str) -> str:
    """The half that a piece is called after, unless a face or a door is."""
    words = piece.name.casefold().split()
    if face.startswith(("left", "right", "inside left", "inside right")) or {"door", "doors", "inside"} & set(words):
        return ""
    return next((word for word in words if word in ("left", "right")), "")


def _along(room: int, size: int, said: tuple[int | None, int | None], copies: tuple[int, int], place: Place) -> int:
    (near, far), (number, of) = said, copies
    gap = BETWEEN_COPIES if place.gap is None else place.gap
    if number and place.spots and (near is not None or far is not None):
        spot = place.spots[min(number, len(place.spots)) - 1]
        return spot if near is not None else room - spot - size
    if near is not None and far is not None and of == 2:
        return near if number == 0 else room - far - size
    if near is not None:
        return near + number * (size + gap)
    if far is not None:
        return room - far - size - number * (size + gap)
    return _in_between(room, size, copies, place.gap)


def _in_between(room: int, size: int, copies: tuple[int, int], gap: int | None) -> int:
    """Where a copy begins that no edge is written for: in the middle, or all of them spread over the room."""
    number, of = copies
    if of == 1:
        return (room - size) // 2
    if gap is not None:
        return (room - of * size - (of - 1) * gap) // 2 + number * (size + gap)
    if of * size > room and _overlap(room, size, of):
        return number * (room - size) // (of - 1)
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
    x = 0 if wrap.across else _along(folded.width, width, (place.left, place.right), (0, 1), place)
    y = _along(folded.height, height, (place.top, place.bottom), (0, 1), place) if wrap.across else 0
    # A band lies over everything on the front.
    return Placed(piece=piece, face=whole, x=x, y=y, width=width, height=height, under=None, level=90)
