"""What a piece sits on: the face of the card, and the earlier piece of the list that is under it.

Reading a list needs it for borders (a border is measured around what is under the mat), drawing a card for places.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from zester.core.folds import Folded
from zester.core.pieces import FACE_WORDS, CutPiece

LAYERS = ("mat", "panel", "inside panel")


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


def support_of(piece: CutPiece, earlier: Sequence[CutPiece], folded: Folded) -> tuple[str, CutPiece | None]:
    """The face a piece is on, in words, and the earlier piece it sits on, if any."""
    on, face = piece.place.on, face_of(piece, earlier, folded)
    if on.startswith("#"):
        under = next((other for other in earlier if other.number == int(on[1:])), None)
        return face, under if under and under.role != "base" else None
    if on.startswith("="):
        return face, None
    if face == "around" and piece.role != "band":
        return face, next((other for other in reversed(earlier) if other.role == "band"), None)
    if piece.role in ("base", "band"):
        return face, None
    for other in reversed(earlier):
        layer = _is_layer(other, earlier) and not other.filler and _same_version(piece, other)
        if layer and face_of(other, earlier, folded) == face:
            return face, other
    return face, None


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
