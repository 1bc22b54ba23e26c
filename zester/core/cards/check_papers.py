"""Checks of the papers: sides they have not, patterns lying on their side, matched strips, sizes that yield more."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from zester.core.cards.layers import wrap_of
from zester.core.cards.study import Finding, Mend, Study
from zester.core.cards.yields import SMALLER_BY, from_sheet, nearest_with_more
from zester.core.cutlist.edit import typed_size, with_rule, with_size
from zester.core.errors import sure
from zester.core.geometry import goes_in
from zester.core.lengths import TICKS_PER_INCH
from zester.core.pieces import CutPiece, KnownPaper, Tool, drops_out

ON_ITS_SIDE = 450
LEAST_MARGIN = TICKS_PER_INCH // 16


def check_papers(study: Study) -> Iterator[Finding]:
    """What a piece and its paper do not agree on."""
    for piece in study.pieces:
        paper = study.papers.get(piece.paper)
        if paper:
            yield from _side(study, piece, paper)
            yield from _one_way(study, piece, paper)
            yield from _yield(study, piece, paper)
        yield from _tool(study, piece)
    yield from _beside_each_other(study)
    yield from _without_a_middle(study)
    yield from _matched(study)
    yield from _nothing_to_write_on(study)


def _without_a_middle(study: Study) -> Iterator[Finding]:
    """What is cut from a middle where no piece of this card has one, but a mat has room: told once.

    In a class it may come out of another card's middle.
    """
    takers = [piece for piece in study.pieces if piece.from_middle]
    for paper in dict.fromkeys(piece.paper for piece in takers):
        mine = [piece for piece in takers if piece.paper == paper]
        if any(drops_out(piece) for piece in study.pieces if piece.paper == paper):
            continue
        first, mends = mine[0], tuple(_middles(study, mine))
        if mends:
            yield Finding(
                group="papers",
                what=f"{first.name} is cut from a middle, and nothing on this card has one",
                why="another card of the class may have; else write it with a mat that has room, like: middle 3 x 4",
                line=study.line(first),
                grave=False,
                mends=mends,
            )


def _middles(study: Study, takers: list[CutPiece]) -> Iterator[Mend]:
    wide, high = takers[0].width, takers[0].height
    rim = study.usual_border
    for piece in study.pieces:
        large = piece.width >= wide + 2 * rim and piece.height >= high + 2 * rim
        plain_mat = piece.paper == takers[0].paper and not (
            piece.from_middle or piece.window or piece.shape or piece.match
        )
        if large and plain_mat and piece.role == "mat":
            text = with_rule(study.written(piece), "middle", f"middle {typed_size(wide, high, study.unit)}")
            yield from study.rewrite(piece, f"Cut it out of {piece.name}", text)


def _nothing_to_write_on(study: Study) -> Iterator[Finding]:
    """Ink is not seen on dark paper: such a card wants a light panel inside."""
    base, folded = study.base, study.folded
    paper = study.papers.get(base.paper) if base else None
    if base is None or paper is None or not paper.dark or folded is None or folded.fold == "none":
        return
    inside = [each for each in study.placed if not each.face.closed]
    light = any(not study.papers[each.piece.paper].dark for each in inside if each.piece.paper in study.papers)
    if not light:
        yield Finding(
            group="inside",
            what=f"{base.name} is dark and has nothing to write on inside",
            why="a light panel inside takes the ink; write one like: Inside panel, its size and a light paper",
            line=study.line(base),
            grave=False,
        )


def _side(study: Study, piece: CutPiece, paper: KnownPaper) -> Iterator[Finding]:
    if piece.side == "b" and not paper.two_sided:
        text = with_rule(study.written(piece), "side", "")
        mends = study.rewrite(piece, "Take side A", text)
        yield Finding(
            group="papers",
            what=f"{paper.name} has no side B",
            why="it is on the shelf as printed on one side",
            line=study.line(piece),
            mends=mends,
        )


def _one_way(study: Study, piece: CutPiece, paper: KnownPaper) -> Iterator[Finding]:
    if paper.runs(piece.side) == "free" and not piece.upright:
        return
    written, why = study.written(piece), ""
    mends: tuple[Mend, ...] = ()
    if abs(piece.place.tilt) >= ON_ITS_SIDE:
        why = "it is tilted so far"
        mends = study.rewrite(piece, "Stand it upright", with_rule(written, "tilt", ""))
    elif piece.role == "band" and study.folded and wrap_of(piece, study.folded).turned:
        why = "the band goes round the other way than it is written"
        turned = with_size(written, piece.shown_height, piece.shown_width, study.unit)
        square = piece.shown_width == piece.shown_height
        mends = () if square else (Mend("Write it as it lies on the card", study.line(piece), turned),)
    elif _upside_down(study, piece) and paper.runs(piece.side) == "upright":
        why = (
            "that half of the open card is upside down while the card is closed; it is upright when the card lies open"
        )
        yield Finding(
            group="papers",
            what=f"{piece.name} hangs on the inside of the front",
            why=why,
            line=study.line(piece),
            grave=False,
        )
        return
    if why:
        yield Finding(
            group="papers",
            what=f"The pattern of {piece.name} lies on its side",
            why=why,
            line=study.line(piece),
            mends=mends,
        )


def _upside_down(study: Study, piece: CutPiece) -> bool:
    return any(placed.piece is piece and placed.face.upside_down for placed in study.placed)


def _may_be_smaller(piece: CutPiece) -> bool:
    """Whether a sixteenth less of a piece would only be that."""
    bound = piece.match or piece.out_of or piece.picture or piece.filler or piece.from_middle or piece.role == "base"
    return not (bound or piece.overhang.left or piece.overhang.top)


def _yield(study: Study, piece: CutPiece, paper: KnownPaper) -> Iterator[Finding]:
    """A size just too large: so little smaller, so many more."""
    if not _may_be_smaller(piece):
        return
    least = (piece.shape.width + 2 * LEAST_MARGIN, piece.shape.height + 2 * LEAST_MARGIN) if piece.shape else (0, 0)
    more = nearest_with_more(piece, paper, study.step)
    if more and (more.width < least[0] or more.height < least[1]):
        return
    now = from_sheet(piece, paper)
    if not more or now is None or more.count < now + max(1, now // 4):
        return
    if more.width < piece.width:
        off, side = piece.width - more.width, "smaller" if more.height < piece.height else "narrower"
    else:
        off, side = piece.height - more.height, "shorter"
    what = f"{piece.name} cut {study.length(off)} {side} gives {more.count} from a sheet in place of {now}"
    why = f"{study.size(more.width, more.height)} from {paper.name}, {study.size(paper.width, paper.height)}"
    yield Finding(
        group="yield",
        what=what,
        why=why,
        line=study.line(piece),
        grave=False,
        mends=study.make_it(piece, more.width, more.height),
    )


def _beside_each_other(study: Study) -> Iterator[Finding]:
    """Two pieces of a paper, each more than half a sheet, that lie beside each other but for a sixteenth or two."""
    plain = [piece for piece in study.pieces if _may_be_smaller(piece) and piece.paper in study.papers]
    told = set()
    for first, second in combinations(plain, 2):
        paper = study.papers[first.paper]
        key = first.paper, *sorted([(first.width, first.height), (second.width, second.height)])
        if second.paper != first.paper or key in told or (first.width, first.height) == (second.width, second.height):
            continue
        found = _just_too_wide(first, second, paper)
        if found:
            told.add(key)
            yield _for_want_of(study, first, second, paper, *found)


def _just_too_wide(first: CutPiece, second: CutPiece, paper: KnownPaper) -> tuple[int, int, int] | None:
    """How much two pieces are too long for a sheet together, and their sides along it; None if it is not just so."""
    found = []
    for room, across in ((paper.width, paper.height), (paper.height, paper.width)):
        straight = room == paper.width
        for a, a_other in _ways(first, straight):
            for b, b_other in _ways(second, straight):
                over = a + b - room
                if over <= 0 and max(a_other, b_other) <= across:
                    return None
                if 0 < over <= SMALLER_BY and max(a_other, b_other) <= across and min(2 * a, 2 * b) > room - SMALLER_BY:
                    found.append((over, a, b))
    return min(found, default=None)


def _ways(piece: CutPiece, straight: bool) -> list[tuple[int, int]]:
    """The sides of a piece along and across a side of the sheet."""
    lying = (piece.width, piece.height) if straight else (piece.height, piece.width)
    return [lying, (lying[1], lying[0])] if piece.turn else [lying]


def _for_want_of(
    study: Study, first: CutPiece, second: CutPiece, paper: KnownPaper, over: int, one: int, other: int
) -> Finding:
    mends: list[Mend] = []
    for piece, side in ((first, one), (second, other)):
        width, height = (side - over, piece.height) if piece.width == side else (piece.width, side - over)
        mends += (replace(mend, label=f"{mend.label}: {piece.name}") for mend in study.make_it(piece, width, height))
    return Finding(
        group="yield",
        what=f"{first.name} and {second.name} do not lie beside each other on a sheet for want of {study.length(over)}",
        why=f"{study.length(one)} + {study.length(other)} on {paper.name}, {study.size(paper.width, paper.height)}",
        line=study.line(second),
        grave=False,
        mends=tuple(mends),
    )


def _tool(study: Study, piece: CutPiece) -> Iterator[Finding]:
    tool = next((tool for tool in study.known.tools if tool.name == piece.tool), None)
    if tool is None:
        return
    size, how = _as_it_goes_in(study, piece)
    if tool.kind == "folder" and tool.largest and not goes_in(*size, *tool.largest, turn=True):
        yield Finding(
            group="papers",
            what=f"{piece.name} is too large for {tool.name}",
            why=f"{study.size(*size)}{how}; the folder takes {study.size(*tool.largest)}",
            line=study.line(piece),
        )
    if tool.kind == "die" and piece.shape:
        yield from _margin(study, piece)
    if tool.kind == "punch" and tool.reach and piece.shape:
        yield from _reach(study, piece, tool)


def _as_it_goes_in(study: Study, piece: CutPiece) -> tuple[tuple[int, int], str]:
    """How large a piece is when it goes into a folder: a base goes in closed."""
    if piece is study.base and study.folded and study.folded.fold != "none":
        return (study.folded.width, study.folded.height), " closed"
    return (piece.width, piece.height), ""


def _margin(study: Study, piece: CutPiece) -> Iterator[Finding]:
    """A die's blade lies outside its shape; without a margin round it the shape comes out with a straight side."""
    shape = sure(piece.shape)
    margin = min(piece.width - shape.width, piece.height - shape.height) // 2
    if margin < LEAST_MARGIN:
        wanted = 2 * study.usual_border
        size = max(piece.width, shape.width + wanted), max(piece.height, shape.height + wanted)
        yield Finding(
            group="papers",
            what=f"{piece.name} leaves no margin round its die",
            why=f"the {shape.kind} is {study.size(shape.width, shape.height)}, its blank "
            f"{study.size(piece.width, piece.height)}",
            line=study.line(piece),
            mends=study.make_it(piece, *size),
        )


def _reach(study: Study, piece: CutPiece, tool: Tool) -> Iterator[Finding]:
    """A punch reaches the far side of its shape from the nearest edge of the blank."""
    shape = sure(piece.shape)
    margin = min(piece.width - shape.width, piece.height - shape.height) // 2
    far = margin + min(shape.width, shape.height)
    if far <= tool.reach:
        return
    cut = study.rounded_up(2 * (far - tool.reach))
    sized = min(piece.width, piece.height) - cut
    across = piece.width <= piece.height
    size = (sized, piece.height) if across else (piece.width, sized)
    fits = size[0] >= shape.width and size[1] >= shape.height
    yield Finding(
        group="papers",
        what=f"{tool.name} does not reach the middle of {piece.name}",
        why=f"it reaches {study.length(tool.reach)} in from an edge; here it would have to reach {study.length(far)}",
        line=study.line(piece),
        mends=study.make_it(piece, *size) if fits else (),
    )


def _matched(study: Study) -> Iterator[Finding]:
    """Matched pieces come from one strip, which has to fit on the sheet."""
    groups: dict[str, list[CutPiece]] = {}
    for piece in study.pieces:
        if piece.match:
            groups.setdefault(piece.match, []).append(piece)
    for word, pieces in groups.items():
        paper = study.papers.get(pieces[0].paper)
        if not paper:
            continue
        yield from _strip_fits(study, word, pieces, paper)
        yield from _runs_on(study, word, pieces)


def _strip_fits(study: Study, word: str, pieces: list[CutPiece], paper: KnownPaper) -> Iterator[Finding]:
    below = pieces[0].below
    sides = [piece.height if below else piece.width for piece in pieces for _ in range(piece.count)]
    strip = (pieces[0].width, sum(sides)) if below else (sum(sides), pieces[0].height)
    if not goes_in(*strip, paper.width, paper.height, turn=pieces[0].turn):
        total = " + ".join(study.length(side) for side in sides)
        what = f"The pieces matched as “{word}” do not fit side by side on a sheet"
        why = (
            f"{total} = {study.length(sum(sides))}; a sheet of {paper.name} is {study.size(paper.width, paper.height)}"
        )
        yield Finding(group="papers", what=what, why=why, line=study.line(pieces[0]))


def _runs_on(study: Study, word: str, pieces: list[CutPiece]) -> Iterator[Finding]:
    """Matched pieces that stand beside each other on the card stand at one height, or the pattern does not run on."""
    numbers = {piece.number for piece in pieces}
    placed = [each for each in study.placed if each.piece.number in numbers]
    if len(placed) < 2 or len({each.face.closed for each in placed}) > 1 or pieces[0].below:
        return
    if len({each.y for each in placed}) > 1:
        what = f"The pieces matched as “{word}” do not stand at one height"
        yield Finding(
            group="papers",
            what=what,
            why="the pattern does not run on across them",
            line=study.line(pieces[-1]),
            grave=False,
        )
