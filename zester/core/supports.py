"""What a piece sits on: the face of the card, and the earlier piece of the list that is under it.

Reading a list needs it for borders (a border is measured around what is under the mat), drawing a card for places.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from zester.core.folds import Face, Folded
from zester.core.pieces import CENTRED, FACE_WORDS, CutPiece

LAYERS = ("mat", "panel", "inside panel")
KINDS = {
    "mat",
    "panel",
    "layer",
    "strip",
    "tag",
    "label",
    "piece",
    "square",
    "circle",
    "left",
    "right",
    "top",
    "bottom",
}
SIDE_WORDS = ("left", "right", "upper", "lower", "top", "bottom")
OPPOSITE = {
    ("left", "right"),
    ("right", "left"),
    ("upper", "lower"),
    ("lower", "upper"),
    ("top", "bottom"),
    ("bottom", "top"),
}


def face_words(piece: CutPiece, folded: Folded) -> str:
    """Which face a piece belongs on if its line names none: by its role and the words of its name."""
    return _face_by_name(piece.name, piece.role, folded.fold, bool(folded.pocket))


@lru_cache(maxsize=4096)
def _face_by_name(name: str, role: str, fold: str, pocket: bool) -> str:
    words = name.casefold().split()
    if role == "band":
        return "around"
    if "inside" in words or role == "inside panel":
        return "inside"
    if fold == "gate":
        if any(word in ("door", "doors") for word in words):
            side = next((word for word in words if word in ("left", "right")), "")
            return f"{side} door" if side else "doors"
        if any(word in ("middle", "centre", "center") for word in words):
            return "inside middle"
    if "pocket" in words and pocket:
        return "pocket"
    return "back" if words[-1:] == ["back"] or words[:1] == ["back"] else "front"


def face_of(piece: CutPiece, earlier: Sequence[CutPiece], folded: Folded) -> str:
    """The face a piece ends up on, in words, also through the piece it is said to sit on."""
    on = piece.place.on.removeprefix("=")
    if on.startswith("#"):
        under = next((other for other in earlier if other.number == int(on[1:]) < piece.number), None)
        return face_of(under, earlier, folded) if under and under.role != "base" else "front"
    face = FACE_WORDS.get(on, on) or face_words(piece, folded)
    return "around" if face == "band" else face


@dataclass(frozen=True)
class Seat:
    """Where a piece sits before its place on it is known."""

    face: str
    """The face, in words."""
    under: CutPiece | None = None
    """The earlier piece it sits on, if any."""
    passed: CutPiece | None = None
    """The layer written last that it would sit on if it were not larger than that."""


def seat_of(piece: CutPiece, earlier: Sequence[CutPiece], folded: Folded) -> Seat:
    """The face and the layer a piece sits on; nothing but the pieces before it counts."""
    on, face = piece.place.on, face_of(piece, earlier, folded)
    if on.startswith("#"):
        under = next((other for other in earlier if other.number == int(on[1:])), None)
        return Seat(face, under if under and under.role != "base" else None)
    if on.startswith("="):
        return Seat(face)
    if face == "around" and piece.role != "band":
        return Seat(face, next((other for other in reversed(earlier) if other.role == "band"), None))
    if piece.role in ("base", "band") or piece.place.behind or piece.place.over_fold:
        return Seat(face)
    return _chosen(piece, earlier, folded, face)


def _layers(piece: CutPiece, earlier: Sequence[CutPiece], folded: Folded, face: str) -> Iterator[CutPiece]:
    """The layers of a face that a piece may lie on unsaid, the last first."""
    for other in reversed(earlier):
        if other.filler or other.loose or not _same_version(piece, other) or not _is_layer(other, earlier):
            continue
        if face_of(other, earlier, folded) == face:
            yield other


def _chosen(piece: CutPiece, earlier: Sequence[CutPiece], folded: Folded, face: str) -> Seat:
    """The last layer that the piece has room on; a small one only for what comes next or shares a word with it."""
    shaped = _shape_below(piece, earlier, folded, face)
    if shaped:
        return Seat(face, shaped)
    found, passed, first = folded.face(face), None, True
    for other in _layers(piece, earlier, folded, face):
        if _beside(piece, other):
            continue
        fits = _has_room(other, piece)
        if first and not fits and not piece.place.on:
            passed = other
        first = False
        if fits and not (found and _is_small(other, found) and not _belongs_to(piece, other, earlier)):
            return Seat(face, other, passed)
    return Seat(face, None, passed)


def _shape_below(piece: CutPiece, earlier: Sequence[CutPiece], folded: Folded, face: str) -> CutPiece | None:
    """The shape that is written right before a smaller one that has no place of its own."""
    other = earlier[-1] if earlier else None
    if other is None or not piece.shape or not other.shape or piece.place != replace(CENTRED, tilt=piece.place.tilt):
        return None
    smaller = piece.shape.width < other.shape.width and piece.shape.height < other.shape.height
    alike = piece.count == other.count and not other.filler and not other.loose and _same_version(piece, other)
    return other if smaller and alike and face_of(other, earlier, folded) == face else None


def _has_room(layer: CutPiece, piece: CutPiece) -> bool:
    """Whether a piece is no larger than a layer; one that is not measured yet is a border on it and so smaller."""
    shape = piece.shape
    width, height = (shape.width, shape.height) if shape else (piece.shown_width, piece.shown_height)
    return width <= layer.shown_width and height <= layer.shown_height


def _is_small(layer: CutPiece, face: Face) -> bool:
    return 0 < 2 * layer.shown_width * layer.shown_height < face.width * face.height


def _belongs_to(piece: CutPiece, layer: CutPiece, earlier: Sequence[CutPiece]) -> bool:
    """Whether it is the line below the layer's, or shares a word with it: “Greeting mat”, “Greeting”."""
    shared = set(piece.name.casefold().split()) & set(layer.name.casefold().split()) - KINDS
    return bool(shared) or earlier[-1] is layer


def _beside(piece: CutPiece, other: CutPiece) -> bool:
    """Whether two pieces lie side by side: one is called left and the other right, or they are alike and say so."""
    sides = _sides_of(piece), _sides_of(other)
    if any((a, b) in OPPOSITE for a in sides[0] for b in sides[1]):
        return True
    alike = (piece.width, piece.height) == (other.width, other.height) and piece.width > 0
    apart = (piece.place.left is not None and other.place.right is not None) or (
        piece.place.right is not None and other.place.left is not None
    )
    return (alike and apart) or bool(piece.match and piece.match == other.match)


def _sides_of(piece: CutPiece) -> set[str]:
    return {word for word in piece.name.casefold().split() if word in SIDE_WORDS}


def _is_layer(piece: CutPiece, pieces: Sequence[CutPiece]) -> bool:
    """Whether what follows may sit on it unsaid: mats and panels of a face, not those of a tag or another shape."""
    if piece.role not in LAYERS:
        return False
    on = piece.place.on
    if not on.startswith("#"):
        return True
    under = next((other for other in pieces if other.number == int(on[1:])), None)
    return under is None or (under is not piece and _is_layer(under, [o for o in pieces if o.number < piece.number]))


def _same_version(piece: CutPiece, other: CutPiece) -> bool:
    return not other.only or other.only == piece.only
