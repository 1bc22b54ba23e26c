"""Moving a piece on the card by marks of the ruler, and what its line says afterwards."""

from __future__ import annotations

from zester.core.cards.study import Study
from zester.core.cutlist.edit import with_place
from zester.core.errors import CutListError, sure
from zester.core.lengths import TICKS_PER_MM
from zester.core.pieces import CutPiece


def mark_of(study: Study) -> int:
    """How far one press of an arrow key moves: a mark of the ruler, half a millimetre on a metric card."""
    return TICKS_PER_MM // 2 if study.unit == "mm" else study.ruler.step


def moved(study: Study, number: int, across: int, down: int) -> tuple[int, str]:
    """The line of a piece after moving it so many marks to the right and down; and that line's number.

    It does not leave what it sits on. A place measured from the right or the lower edge or the fold is still measured
    from there; one that comes to the middle is centred again. Raises CutListError if the piece is not on the card.
    """
    placed = next((each for each in study.placed if each.piece.number == number), None)
    if placed is None or (placed.piece.role == "band" and placed.under is None):
        raise CutListError("This piece cannot be moved on the card", mend="Write where it sits")
    host = study.placed[placed.under] if placed.under is not None else placed.face
    if placed.piece.place.over_fold:
        raise CutListError("This piece goes over the fold", mend="Write where it sits")
    if placed.piece.place.spots or _at_both_sides(placed.piece):
        raise CutListError("Every copy of this piece has a place of its own", mend="Write their places in the line")
    mark, place = mark_of(study), placed.piece.place
    fold = placed.face.fold if place.fold is not None else ""
    from_right, from_bottom = place.right is not None or fold == "right", place.bottom is not None or fold == "bottom"
    x = _along(placed.local[0], across, host.width - placed.width, mark, from_right)
    y = _along(placed.local[1], down, host.height - placed.height, mark, from_bottom)
    places: dict[str, int] = {}
    if across or place.left is not None or place.right is not None or fold in ("left", "right"):
        places |= _said("left", "right", x, host.width - placed.width, place.right is not None, fold)
    if down or place.top is not None or place.bottom is not None or fold in ("top", "bottom"):
        places |= _said("top", "bottom", y, host.height - placed.height, place.bottom is not None, fold)
    reading = study.reading(placed.piece)
    # What lay below another lies where it was put from now on.
    free = {"after": ""} if down and place.after is not None else {}
    return reading.line, with_place(sure(reading.written), places, study.unit, free)


def _at_both_sides(piece: CutPiece) -> bool:
    place = piece.place
    sides = (place.left, place.right), (place.top, place.bottom)
    return piece.count == 2 and any(None not in pair for pair in sides)


def _along(now: int, marks: int, room: int, mark: int, from_far: bool) -> int:
    """The new distance from the near edge: on a mark from the edge it is measured from, within the room there is."""
    if not marks:
        return now
    if from_far and 0 <= now <= room:
        return room - _along(room - now, -marks, room, mark, False)
    wanted = (now // mark if marks > 0 else -(-now // mark)) * mark + marks * mark
    return min(max(0, wanted), max(0, room // mark * mark))


def _said(near: str, far: str, at: int, room: int, from_far: bool, fold: str) -> dict[str, int]:
    if 2 * at in (room, room - 1):
        return {}
    if fold == near:
        return {"fold": at}
    if at > room or not (from_far or fold == far):
        # There is no distance to measure from the far edge of what is too small for the piece.
        return {near: at}
    return {"fold" if fold == far else far: room - at}
