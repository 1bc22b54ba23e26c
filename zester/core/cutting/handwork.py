"""What is done to a pile after the trimmer: score, emboss, die-cut, punch, stamp, foam, trim.

Which work it is follows from the piece's line; how long one takes is common practice without a source, to plan an
evening by.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from zester.core.lengths import TICKS_PER_INCH, show_size, with_unit
from zester.core.pictures import ANY
from zester.core.pieces import (
    BY_HAND,
    FIRST,
    FOLDED,
    IN_CLASS,
    LAST,
    NOTCH,
    SCORE,
    SHAPE,
    WINDOW,
    CutPiece,
    Outline,
    PieceJob,
    Tool,
)
from zester.core.usual_times import ORDER, USUAL_TIMES, UsualTimes

NO_TOOL = " (the list names no tool)"
TIE_SECONDS, NO_TOOL_SECONDS = 45, 30
# By the word a list uses: what to do, the tool that can hurt, seconds for one piece.
PREPARED = {
    "embossed": ("emboss", "rollers", 20),
    "heat-embossed": ("emboss with heat", "heat", 75),
    "die-cut": ("die-cut", "rollers", 25),
    "punched": ("punch", "punch", 6),
    "stamped": ("stamp", "", 20),
    "tied": ("tie", "", TIE_SECONDS),
    "painted": ("paint", "", 90),
    "washed": ("wash with colour", "", 60),
    "coloured": ("colour", "solvent", 120),
    "inked": ("ink the edges", "", 20),
    "threaded": ("pull the thread through", "", 30),
    "taped": ("attach tape", "", 12),
    "heated": ("heat", "heat", 30),
    "corners snipped": ("snip the corners", "", 10),
    BY_HAND: ("cut out by hand", "knife", 90),
    "corners rounded": ("round the corners", "punch", 12),
}
# How long what has to dry is left alone, about; common practice without a source, paints and papers differ.
DRYING_MINUTES = {"painted": 30, "washed": 20, "coloured": 10, "stamped": 10, "inked": 10}
USUAL_DRYING = 20
CUT_OUT = ("die-cut", "punched", BY_HAND)
# What needs the hole that is made in the piece.
_THROUGH_HOLES = ("threaded", "tied")
WITH_TOOL = ("die-cut", "punched", "embossed")
# Cards are put together in class.
_GLUED = PieceJob(what="", when=IN_CLASS)
FOLDING, FOLD_SECONDS = "fold and burnish", 8
# Common practice without a source: a small hole is made with a hole punch, many to the minute.
LARGEST_PUNCHED = TICKS_PER_INCH // 4
_DIE_CUT = ("die-cut the opening", "rollers", 25)
_PUNCHED = ("punch the hole", "punch", 4)
SCORE_SECONDS, FOAM_SECONDS, HOLE_SECONDS, TRIM_SECONDS = 6, 15, 25, 10


@dataclass(frozen=True, kw_only=True)
class Work:
    """One kind of work on every piece of a pile."""

    what: str
    """What is done, in words."""
    tool: str
    """The tool that can hurt, a key of ``cautions.CAUTIONS``; empty: none."""
    when: str
    """``before`` the class, in ``class``, or at ``home``."""
    by: str
    """Who does it; empty if nobody is named."""
    first: bool
    """Whether it has to dry, and so comes first."""
    last: bool
    """Whether it comes last, on a card that then lies flat to dry."""
    dries: int
    """About how many minutes it then has to dry; 0 if it need not."""
    seconds: int
    """For one piece."""
    said: bool = False
    """Whether its line says how long."""


def handwork(piece: CutPiece, unit: str, tools: Sequence[Tool] = (), usual: UsualTimes = USUAL_TIMES) -> list[Work]:
    """What is done to a piece, what is done earlier first, otherwise in the order written.

    ``usual`` says when that is where its line does not. Foam and trimming belong to putting a card together, see
    ``assembly``.
    """
    done = [_prepared(word, piece, unit, tools, usual) for word in piece.preparations if word not in _THROUGH_HOLES]
    if piece.picture and not set(piece.preparations) & set(CUT_OUT):
        which = f" of {piece.picture}" if piece.picture != ANY else ""
        done.append(_work(usual.job(piece, BY_HAND), f"cut out the picture{which}", "knife", PREPARED[BY_HAND][2]))
    found = done + _of_its_form(piece, unit, usual)
    found += [_prepared(word, piece, unit, tools, usual) for word in piece.preparations if word in _THROUGH_HOLES]
    if any(job.what == FOLDED for job in piece.jobs):
        found.append(_work(usual.job(piece, FOLDED), FOLDING, "", FOLD_SECONDS))
    return sorted(found, key=lambda work: ORDER[work.when])


def _of_its_form(piece: CutPiece, unit: str, usual: UsualTimes) -> list[Work]:
    """What is cut out of it, punched and scored."""
    found = []
    if piece.shape and not set(piece.preparations) & set(CUT_OUT):
        what = f"cut out: {_outline(piece.shape, unit)}{NO_TOOL}"
        found.append(_work(usual.job(piece, SHAPE), what, "knife", NO_TOOL_SECONDS))
    if piece.window:
        how = _PUNCHED if max(piece.window.width, piece.window.height) <= LARGEST_PUNCHED else _DIE_CUT
        found.append(_work(usual.job(piece, WINDOW), f"{how[0]}: {_outline(piece.window, unit)}", *how[1:]))
    if piece.notch:
        what = f"punch the notch: {_outline(piece.notch, unit)}"
        found.append(_work(usual.job(piece, NOTCH), what, "punch", HOLE_SECONDS))
    if piece.score:
        places = (*piece.score.places, *piece.score.cross)
        at = " and ".join(with_unit(place, unit) for place in piece.score.places)
        side = "across the width" if piece.score.axis == "x" else "across the height"
        words = f"score at {at} {side}"
        if piece.score.cross:
            words += f", the other way at {' and '.join(with_unit(place, unit) for place in piece.score.cross)}"
        found.append(_work(usual.job(piece, SCORE), words, "", SCORE_SECONDS * len(places)))
    return found


def assembly(piece: CutPiece, unit: str) -> list[Work]:
    """What is done with a piece when the card is put together and takes something besides glue."""
    found = []
    if piece.raised:
        under = f"under its {piece.raised_at} side" if piece.raised_at else "under it"
        found.append(_work(_GLUED, f"foam {under}, {with_unit(piece.raised, unit)} high", "", FOAM_SECONDS))
    edges = {"left": piece.overhang.left, "top": piece.overhang.top}
    edges |= {"right": piece.overhang.right, "bottom": piece.overhang.bottom}
    long = [f"{with_unit(over, unit)} at the {side}" for side, over in edges.items() if over]
    if long:
        found.append(_work(_GLUED, f"trim flush after gluing: {', '.join(long)}", "knife", TRIM_SECONDS))
    return found


def is_trimmed(piece: CutPiece) -> bool:
    """Whether a piece is trimmed after gluing all the same, so that it may be a little off."""
    over = piece.overhang
    return bool(over.left or over.right) and bool(over.top or over.bottom)


def _prepared(word: str, piece: CutPiece, unit: str, tools: Sequence[Tool], usual: UsualTimes) -> Work:
    what, tool, seconds = PREPARED.get(word, (word, "", 30))
    if piece.shape and word in CUT_OUT:
        what += f": {_outline(piece.shape, unit)}"
    if piece.tool and word in WITH_TOOL:
        what += f", with {piece.tool}{_number(piece, tools)}"
    return _work(usual.job(piece, word), what, tool, seconds)


def _number(piece: CutPiece, tools: Sequence[Tool]) -> str:
    """Which of a nested set it is, counted from the smallest: `` no. 3``; empty if nobody knows."""
    mine = next((each for each in tools if each.name == piece.tool), None)
    size = piece.shape and (piece.shape.width, piece.shape.height)
    return f" no. {mine.sizes.index(size) + 1}" if mine and size in mine.sizes else ""


def _work(job: PieceJob, what: str, tool: str, seconds: int) -> Work:
    return Work(
        what=what,
        tool=tool,
        when=job.when,
        by=job.by,
        first=job.dries == FIRST,
        last=job.dries == LAST,
        dries=DRYING_MINUTES.get(job.what, USUAL_DRYING) if job.dries else 0,
        seconds=job.seconds or seconds,
        said=bool(job.seconds),
    )


def _outline(outline: Outline, unit: str) -> str:
    if outline.width == outline.height:
        return f"{outline.kind} {with_unit(outline.width, unit)}"
    return f"{outline.kind} {show_size(outline.width, outline.height, unit)}"


def marks_data(piece: CutPiece) -> dict[str, Any]:
    """Score lines and what is cut out of a piece, as plain data; lengths in ticks."""
    scores = []
    if piece.score:
        across = "y" if piece.score.axis == "x" else "x"
        scores = [[piece.score.axis, place] for place in piece.score.places]
        scores += [[across, place] for place in piece.score.cross]
    outlines = [[each.kind, each.x, each.y, each.width, each.height] for each in (piece.window, piece.notch) if each]
    if piece.shape:
        left, top = (piece.width - piece.shape.width) // 2, (piece.height - piece.shape.height) // 2
        outlines.append([piece.shape.kind, left, top, piece.shape.width, piece.shape.height])
    return {"scores": scores, "outlines": outlines}
