"""Checks of what lies on what: too large, hanging over, borders uneven or too thin, strips cut exact, text covered."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from zester.core.cards.layers import Placed
from zester.core.cards.study import Finding, Mend, Study
from zester.core.cutlist.edit import with_place, with_rule
from zester.core.errors import sure
from zester.core.lengths import TICKS_PER_INCH, type_length
from zester.core.pieces import CENTRED, NO_EDGES, CutPiece

WITH_BORDERS = ("mat", "panel", "inside panel")
WIDE_BORDER = TICKS_PER_INCH // 2
SLIP = TICKS_PER_INCH // 8
WORDS = {"sentiment", "greeting", "words", "text", "message"}


@dataclass(frozen=True, kw_only=True)
class _Sitting:
    """A placed piece and what it sits on: the box of its paper or shape, the host's box, the four distances.

    ``alone``: no other copy of the piece shares that place with it.
    """

    placed: Placed
    alone: bool
    host: tuple[int, int, int, int]
    on: str
    width: int
    height: int
    left: int
    top: int
    right: int
    bottom: int

    @property
    def room(self) -> tuple[int, int]:
        return self.host[2] - self.host[0], self.host[3] - self.host[1]


def check_layers(study: Study) -> Iterator[Finding]:
    """One finding a line and kind: copies of a piece are not told of twice."""
    seen = set()
    for placed in study.placed:
        # What is glued to a band may be wider than the band.
        if placed.piece.role == "band" or placed.face.key == "around":
            continue
        sitting = _sitting(placed, study)
        for finding in _of(sitting, study):
            if (finding.line, finding.group) not in seen:
                seen.add((finding.line, finding.group))
                yield finding
    yield from _covered_words(study)
    yield from _on_each_other(study)


def _on_each_other(study: Study) -> Iterator[Finding]:
    """Strips of one size without a place, which all lie in the middle: told once, at the second of them.

    Figures of one size may be stacked to be thick; strips are not.
    """
    piles: dict[tuple[object, ...], list[CutPiece]] = {}
    for placed in study.placed:
        piece = placed.piece
        if piece.place == CENTRED and piece.count == 1 and piece.role == "strip" and not piece.only:
            where = placed.face.key, placed.under, piece.shown_width, piece.shown_height
            piles.setdefault(where, []).append(piece)
    for pieces in piles.values():
        if len(pieces) > 1:
            yield _piled(pieces, study)


def _piled(pieces: list[CutPiece], study: Study) -> Finding:
    names = ", ".join(piece.name for piece in pieces)
    second = pieces[1]
    gap = type_length(study.usual_border, study.unit)
    below = with_rule(sure(study.reading(second).written), "after", f"{gap} below it")
    return Finding(
        group="layers",
        what=f"{names} lie on each other",
        why="none of them says where, so all are in the middle; give them a place, or write each below the last",
        line=study.line(second),
        mends=study.rewrite(second, f"Put it {study.length(study.usual_border)} below {pieces[0].name}", below),
    )


def _sitting(placed: Placed, study: Study) -> _Sitting:
    under = study.placed[placed.under] if placed.under is not None else None
    # A tilted stack is judged as it lies on its own lowest layer.
    left, top, right, bottom = placed.own_box
    box = under.seen_at(0, 0) if under else (0, 0, placed.face.width, placed.face.height)
    width, height = right - left, bottom - top
    on = under.piece.name.lower() if under else placed.face.name
    alone = not any(
        other.piece is placed.piece and other.copy != placed.copy and other.under == placed.under
        for other in study.placed
        if other.face.key == placed.face.key
    )
    return _Sitting(
        placed=placed,
        alone=alone,
        host=box,
        on=on,
        width=width,
        height=height,
        left=left - box[0],
        top=top - box[1],
        right=box[2] - right,
        bottom=box[3] - bottom,
    )


def _of(sitting: _Sitting, study: Study) -> Iterator[Finding]:
    piece = sitting.placed.piece
    if sitting.placed.passed is not None:
        yield _larger_than_the_last(sitting, study)
    if sitting.width > sitting.room[0] or sitting.height > sitting.room[1]:
        yield _too_large(sitting, study)
    elif min(sitting.left, sitting.top, sitting.right, sitting.bottom) < 0:
        yield _hangs_over(sitting, study)
    elif not sitting.placed.own_tilt:
        if piece.role == "strip" and piece.paper in study.papers:
            yield from _cut_exact(sitting, study)
        yield from _borders(sitting, study)


def _larger_than_the_last(sitting: _Sitting, study: Study) -> Finding:
    """A piece drawn on what lies below the layer written last, because that layer is smaller."""
    piece, reading = sitting.placed.piece, study.reading(sitting.placed.piece)
    under = next(each for each in study.placed if each.piece.number == sitting.placed.passed)
    layer = under.piece
    hole = (piece.window.width, piece.window.height) if piece.window else (0, 0)
    seen = hole[0] >= layer.shown_width and hole[1] >= layer.shown_height
    hidden = not seen and piece.shown_width >= layer.shown_width and piece.shown_height >= layer.shown_height
    border = 2 * study.usual_border
    smaller = min(piece.shown_width, layer.shown_width - border), min(piece.shown_height, layer.shown_height - border)
    mends = study.make_it(piece, *smaller) if min(smaller) > 0 and not piece.shape else ()
    behind = with_rule(sure(reading.written), "behind", f"behind {layer.name}")
    # A line names what is written above it.
    if hidden and layer.number < piece.number:
        mends = (*mends, *study.rewrite(piece, f"Put it behind the {layer.name}", behind))
    return Finding(
        group="layers",
        what=f"{piece.name} is larger than the {layer.name} above it in the list" + (" and hides it" if hidden else ""),
        why=f"{study.size(piece.shown_width, piece.shown_height)} and "
        f"{study.size(layer.shown_width, layer.shown_height)}; it is drawn on the {sitting.on}",
        line=reading.line,
        grave=hidden or (piece.role in WITH_BORDERS and not (piece.shape or seen)),
        mends=mends,
    )


def _too_large(sitting: _Sitting, study: Study) -> Finding:
    piece, (wide, high) = sitting.placed.piece, sitting.room
    tilted = bool(sitting.placed.own_tilt)
    size = (piece.shown_width, piece.shown_height) if tilted else (sitting.width, sitting.height)
    why = f"{study.size(*size)} on {study.size(wide, high)}{', and tilted' if tilted else ''}"
    mends: tuple[Mend, ...] = ()
    if piece.role == "strip" and not tilted and not (sitting.width > wide and sitting.height > high):
        mends = _trimmed(sitting, study)
    elif not piece.shape and not tilted:
        border = 2 * study.usual_border
        smaller = min(piece.shown_width, wide - border), min(piece.shown_height, high - border)
        mends = (*_over_the_fold(sitting, study), *study.make_it(piece, *smaller))
    what = f"{piece.name} is larger than the {sitting.on} it sits on"
    return Finding(group="layers", what=what, why=why, line=study.line(piece), grave=not tilted, mends=mends)


def _over_the_fold(sitting: _Sitting, study: Study) -> tuple[Mend, ...]:
    """What is as wide as the card and up to twice as high, or the other way, may be meant to go over its fold."""
    placed, piece, (wide, high) = sitting.placed, sitting.placed.piece, sitting.room
    fold = placed.face.fold
    if placed.under is not None or placed.face.key != "front" or not fold or piece.count > 1:
        return ()
    room = (2 * wide, high) if fold in ("left", "right") else (wide, 2 * high)
    fits = piece.shown_width <= room[0] and piece.shown_height <= room[1]
    # A little too large is a slip.
    if not fits or 4 * piece.shown_width * piece.shown_height < 5 * wide * high:
        return ()
    over = with_rule(sure(study.reading(piece).written), "over_fold", "over the fold")
    return study.rewrite(piece, "Put it over the fold", over)


def _trimmed(sitting: _Sitting, study: Study) -> tuple[Mend, ...]:
    """Say of a strip that is longer than what it sits on that the rest is trimmed off."""
    piece, (wide, high) = sitting.placed.piece, sitting.room
    over = (sitting.width - wide) if sitting.width > wide else (sitting.height - high)
    size = (wide, piece.shown_height) if sitting.width > wide else (piece.shown_width, high)
    if piece.overhang != NO_EDGES:
        return study.make_it(piece, *size)
    if over % 2 or not study.on_marks(over // 2, *size):
        return ()
    reading = study.reading(piece)
    sized = study.make_it(piece, *size)
    if not sized:
        return ()
    head, sign, note = sized[0].text.partition("#")
    edges = "left right" if sitting.width > wide else "top bottom"
    rule = f"overhang {type_length(over // 2, study.unit)} {edges}"
    text = f"{head.rstrip()}  {rule}" + (f"  #{note}" if sign else "")
    return (Mend("Say that the rest is trimmed flush", reading.line, text),)


def _hangs_over(sitting: _Sitting, study: Study) -> Finding:
    piece = sitting.placed.piece
    over = -min(sitting.left, sitting.top, sitting.right, sitting.bottom)
    edge = ("left", "top", "right", "bottom")[(sitting.left, sitting.top, sitting.right, sitting.bottom).index(-over)]
    reading = study.reading(piece)
    left, top, right, bottom = sitting.placed.own_box
    # In the middle it lies within only if there is room for it, and if it has that room for itself.
    inside = sitting.alone and right - left <= sitting.room[0] and bottom - top <= sitting.room[1]
    centred = with_place(sure(reading.written), {}, study.unit)
    mends = study.rewrite(piece, "Centre it", centred) if inside else ()
    what = f"{piece.name} hangs over the {edge} edge of the {sitting.on}"
    tilted = bool(piece.place.tilt)
    on_marks = over % study.ruler.marks(study.unit) == 0
    by = study.length(over) if on_marks else f"about {study.length(study.rounded_up(over))}"
    why = "because it is tilted" if tilted else f"by {by}"
    return Finding(group="layers", what=what, why=why, line=reading.line, grave=not tilted, mends=mends)


def _cut_exact(sitting: _Sitting, study: Study) -> Iterator[Finding]:
    piece = sitting.placed.piece
    across = piece.width >= piece.height
    length, room = (piece.width, sitting.room[0]) if across else (piece.height, sitting.room[1])
    if length != room or piece.overhang.left or piece.overhang.top:
        return
    reading = study.reading(piece)
    more = study.usual_border
    text = with_rule(sure(reading.written), "overhang", f"overhang {type_length(more, study.unit)}")
    mends = study.rewrite(piece, f"Cut it {study.length(more)} longer at each end", text)
    yield Finding(
        group="strips",
        what=f"{piece.name} runs from edge to edge and is cut exact",
        why=f"A strip {study.length(study.thinnest_border)} too short cannot be mended; one cut long is trimmed flush "
        "after gluing",
        line=reading.line,
        grave=False,
        mends=mends,
    )


def _borders(sitting: _Sitting, study: Study) -> Iterator[Finding]:
    piece = sitting.placed.piece
    if not sitting.alone:
        return
    borders = sitting.left, sitting.top, sitting.right, sitting.bottom
    bordered = piece.role in WITH_BORDERS and not piece.shape
    if bordered and any(0 < border < study.thinnest_border for border in borders):
        yield _thin(sitting, study)
        return
    place = piece.place
    placed_across = place.left is not None or place.right is not None or place.fold is not None
    placed_down = place.top is not None or place.bottom is not None
    if placed_across and 0 < abs(sitting.left - sitting.right) <= SLIP:
        yield _off_centre(sitting, study, "left", "right", sitting.left, sitting.right)
    elif placed_down and 0 < abs(sitting.top - sitting.bottom) <= SLIP:
        yield _off_centre(sitting, study, "above", "below", sitting.top, sitting.bottom)
    elif bordered and not placed_across and not placed_down:
        yield from _two_borders(sitting, study)


def _thin(sitting: _Sitting, study: Study) -> Finding:
    piece, (wide, high) = sitting.placed.piece, sitting.room
    thinnest = min(b for b in (sitting.left, sitting.top, sitting.right, sitting.bottom) if b > 0)
    width = min(piece.shown_width, wide - 2 * study.thinnest_border) if sitting.left or sitting.right else wide
    height = min(piece.shown_height, high - 2 * study.thinnest_border) if sitting.top or sitting.bottom else high
    what = f"A border of {piece.name} is too thin to be seen"
    why = f"{study.length(thinnest)}; {study.length(study.thinnest_border)} is the least that shows"
    return Finding(
        group="borders", what=what, why=why, line=study.line(piece), mends=study.make_it(piece, width, height)
    )


def _off_centre(sitting: _Sitting, study: Study, near: str, far: str, first: int, second: int) -> Finding:
    piece = sitting.placed.piece
    reading = study.reading(piece)
    edges = ("left", "right", "fold") if near == "left" else ("top", "bottom")
    kept = {
        edge: getattr(piece.place, edge)
        for edge in ("left", "top", "right", "bottom", "fold")
        if edge not in edges and getattr(piece.place, edge) is not None
    }
    mends = study.rewrite(piece, "Centre it", with_place(sure(reading.written), kept, study.unit))
    what = f"{piece.name} sits a little off the middle"
    why = f"{study.length(first) if first else 'nothing'} {near}, {study.length(second) if second else 'nothing'} {far}"
    return Finding(group="borders", what=what, why=why, line=reading.line, grave=False, mends=mends)


def _two_borders(sitting: _Sitting, study: Study) -> Iterator[Finding]:
    """A centred mat with one border at its sides and another above and below, both narrow: was one meant?"""
    sides, ends = sitting.left, sitting.top
    if not (0 < sides <= WIDE_BORDER and 0 < ends <= WIDE_BORDER and 0 < abs(sides - ends) <= 2 * SLIP):
        return
    piece, (wide, high) = sitting.placed.piece, sitting.room
    mends = tuple(
        mend for border in sorted((sides, ends)) for mend in study.make_it(piece, wide - 2 * border, high - 2 * border)
    )
    what = f"{piece.name} has uneven borders on the {sitting.on}"
    why = f"{study.length(sides)} left and right, {study.length(ends)} above and below"
    yield Finding(group="borders", what=what, why=why, line=study.line(piece), mends=mends)


def _covered_words(study: Study) -> Iterator[Finding]:
    """Words that a later layer on the same face lies over."""
    told = set()
    for k, words in enumerate(study.placed):
        # A greeting mat is a mat: what is written lies on it.
        spoken = words.piece.name.casefold().split()
        if not WORDS & set(spoken) or words.piece.role in WITH_BORDERS or words.piece.number in told:
            continue
        over = next((later for later in study.placed[k + 1 :] if _lies_over(later, words)), None)
        if over:
            told.add(words.piece.number)
            yield Finding(
                group="layers",
                what=f"{over.piece.name} lies over {words.piece.name}",
                why="what is written there is covered; move one of them, or write it further down the list",
                line=study.line(over.piece),
                grave=False,
            )


def _lies_over(later: Placed, words: Placed) -> bool:
    if later.piece.number == words.piece.number or later.face.key != words.face.key or later.face.key == "around":
        return False
    left, top, right, bottom = later.box
    other = words.box
    return left < other[2] and other[0] < right and top < other[3] and other[1] < bottom
