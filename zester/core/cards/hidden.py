"""Hidden middles: the part of a layer that others cover, out of which shapes can be cut.

+---------------+   A rim of about ¼ in stays under the covering layer for its glue:
|  +---------+  |   the middle is the cover's size less the rim all round.
|  |. rim ...|  |
|  |.       .|  |
|  |.middle .|  |
|  +---------+  |
+---------------+
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from zester.core.cards.layers import Placed
from zester.core.cards.study import Finding, Study
from zester.core.cutlist.edit import typed_size, with_rule
from zester.core.errors import sure
from zester.core.geometry import Window, goes_in
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, type_length
from zester.core.supports import LAYERS

RIM_INCH, RIM_MM = TICKS_PER_INCH // 4, 6 * TICKS_PER_MM
WORTH_IT = TICKS_PER_INCH * 3 // 2

Box = tuple[int, int, int, int]


def check_middles(study: Study) -> Iterator[Finding]:
    """Middles that are offered, and middles written that would show."""
    told = set()
    for at, placed in enumerate(study.placed):
        piece = placed.piece
        if piece.number in told or placed.tilt:
            continue
        told.add(piece.number)
        if piece.middle:
            yield from _shows(study, at)
        elif _may_have_one(placed) and _wanted(study, at):
            yield from _offer(study, at)


def _may_have_one(placed: Placed) -> bool:
    piece = placed.piece
    plain_layer = piece.role in LAYERS and not (piece.match or piece.from_middle or piece.window or piece.shape)
    return plain_layer and piece.overhang.left == piece.overhang.top == 0


def covers_of(study: Study, at: int) -> list[Placed]:
    """What lies straight on a placed piece and hides all of its own rectangle."""
    return [
        each for each in study.placed
        if each.under == at and not (each.tilt or each.piece.shape or each.piece.window)
        and not (each.piece.paper in study.papers and study.papers[each.piece.paper].clear)
    ]  # fmt: skip


def hidden_middle(study: Study, at: int) -> tuple[Box, Placed] | None:
    """The largest part to be cut out of a layer, and what covers it.

    The part is its left, top, width and height on the piece, all on the ruler's marks.
    """
    placed = study.placed[at]
    rim = RIM_MM if study.unit == "mm" else RIM_INCH
    best = None
    for cover in covers_of(study, at):
        left = study.rounded_up(max(0, cover.x - placed.x) + rim)
        top = study.rounded_up(max(0, cover.y - placed.y) + rim)
        right = (min(placed.width, cover.x + cover.width - placed.x) - rim) // study.step * study.step
        bottom = (min(placed.height, cover.y + cover.height - placed.y) - rim) // study.step * study.step
        box = left, top, right - left, bottom - top
        if min(box[2:]) >= WORTH_IT and (best is None or box[2] * box[3] > best[0][2] * best[0][3]):
            best = box, cover
    return best


def rooms_of(study: Study) -> dict[int, tuple[Window, str]]:
    """The hidden middles that a card's layers could have and do not say, by the number of the piece.

    Each with what its line would say.
    """
    found: dict[int, tuple[Window, str]] = {}
    for at, placed in enumerate(study.placed):
        piece = placed.piece
        as_cut = (placed.width, placed.height) == (piece.width, piece.height)
        if piece.middle or piece.number in found or placed.tilt or not (as_cut and _may_have_one(placed)):
            continue
        hidden = hidden_middle(study, at)
        if hidden:
            found[piece.number] = Window(*hidden[0]), _middle_rule(study, placed, hidden[0])
    return found


def _middle_rule(study: Study, placed: Placed, box: Box) -> str:
    """What the line of a layer says of such a part of it."""
    left, top, width, height = box
    rule = f"middle {typed_size(width, height, study.unit)}"
    if (left, top) != ((placed.width - width) // 2, (placed.height - height) // 2):
        rule += f" at {type_length(left, study.unit)}, {type_length(top, study.unit)}"
    return rule


def _wanted(study: Study, at: int) -> bool:
    """Whether the card has another piece of that paper that comes out of such a middle."""
    layer, found = study.placed[at].piece, hidden_middle(study, at)
    box = found[0] if found else (0, 0, 0, 0)
    return any(
        piece.paper == layer.paper
        and piece is not layer
        and not (piece.match or piece.middle or piece.filler)
        and goes_in(piece.width, piece.height, box[2], box[3], turn=piece.turn)
        for piece in study.pieces
    )


def _offer(study: Study, at: int) -> Iterator[Finding]:
    found = hidden_middle(study, at)
    if found is None:
        return
    box, cover = found
    placed = study.placed[at]
    piece, (_, _, width, height) = placed.piece, box
    what = f"{study.size(width, height)} of {piece.name} are hidden under {cover.piece.name}"
    rim = study.length(RIM_MM if study.unit == "mm" else RIM_INCH)
    text = with_rule(study.written(piece), "middle", _middle_rule(study, placed, box))
    yield Finding(
        group="middles",
        what=what,
        why=f"shapes of {study.known.name_of(piece.paper)} may come out of it; a rim of {rim} stays for the glue",
        line=study.line(piece),
        grave=False,
        mends=study.rewrite(piece, "Use the hidden middle", text),
    )


def _shows(study: Study, at: int) -> Iterator[Finding]:
    """A middle that is written but not covered would be a hole in the card."""
    placed = study.placed[at]
    piece, middle = placed.piece, sure(placed.piece.middle)
    x, y = placed.x + middle.x - piece.overhang.left, placed.y + middle.y - piece.overhang.top
    hole = x, y, x + middle.width, y + middle.height
    covers = [cover.box for cover in covers_of(study, at)]
    if covered(hole, covers):
        return
    text = with_rule(study.written(piece), "middle", "")
    mends = study.rewrite(piece, "Keep the middle in", text)
    offered = next(_offer(study, at), None)
    mends = (*offered.mends, *mends) if offered else mends
    yield Finding(
        group="middles",
        what=f"The middle of {piece.name} would show as a hole",
        why="no layer covers all of it",
        line=study.line(piece),
        mends=mends,
    )


def covered(box: Box, covers: Sequence[Box]) -> bool:
    """Whether rectangles (left, top, right, bottom) together cover a box, looked at cell by cell."""
    left, top, right, bottom = box
    xs = sorted({left, right, *(x for cover in covers for x in (cover[0], cover[2]) if left < x < right)})
    ys = sorted({top, bottom, *(y for cover in covers for y in (cover[1], cover[3]) if top < y < bottom)})
    return all(
        any(cover[0] <= x1 and x2 <= cover[2] and cover[1] <= y1 and y2 <= cover[3] for cover in covers)
        for x1, x2 in pairwise(xs)
        for y1, y2 in pairwise(ys)
    )
