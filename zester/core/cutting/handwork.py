"""What is done to a pile after the trimmer: score, emboss, die-cut, punch, stamp, foam, trim.

Which work it is follows from the piece's line; how long one takes is common practice without a source, to plan an
evening by.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.lengths import show_length
from zester.core.pieces import CutPiece, Outline, Tool

BEFORE, IN_CLASS, OPEN = "before", "class", ""
# By the word a list uses: the tool that can hurt, seconds for one piece.
PREPARED = {
    "embossed": ("rollers", 20),
    "heat-embossed": ("heat", 75),
    "die-cut": ("rollers", 25),
    "punched": ("punch", 6),
    "stamped": ("", 20),
    "painted": ("", 90),
    "washed": ("", 60),
    "coloured": ("solvent", 120),
    "inked": ("", 20),
    "cut out by hand": ("knife", 90),
    "corners rounded": ("punch", 12),
}
SCORE_SECONDS, FOAM_SECONDS, HOLE_SECONDS, TRIM_SECONDS = 6, 15, 25, 10


@dataclass(frozen=True, kw_only=True)
class Work:
    """One kind of work on every piece of a pile."""

    what: str
    """What is done, in words."""
    tool: str
    """The tool that can hurt, a key of ``cautions.CAUTIONS``; empty: none."""
    when: str
    """``before`` the class, in ``class``, or empty: nobody said."""
    by: str
    """Who does it; empty if nobody is named."""
    first: bool
    """Whether it has to dry, and so comes first."""
    seconds: int
    """For one piece."""


def handwork(piece: CutPiece, unit: str, tools: Sequence[Tool] = ()) -> list[Work]:
    """What is done to a piece, in the order in which it is done. Foam and trimming belong to putting a card together."""
    found = [_prepared(word, piece, unit, tools) for word in piece.preparations]
    done = {work.what.split(" ", 1)[0] for work in found}
    if piece.shape and not done & {"die-cut", "punch", "cut"}:
        found.append(_work(piece, f"cut out: {_outline(piece.shape, unit)}", "knife", PREPARED["cut out by hand"][1]))
    if piece.window:
        found.append(_work(piece, f"die-cut the opening: {_outline(piece.window, unit)}", "rollers", HOLE_SECONDS))
    if piece.notch:
        found.append(_work(piece, f"punch the notch: {_outline(piece.notch, unit)}", "punch", HOLE_SECONDS))
    if piece.score:
        places = (*piece.score.places, *piece.score.cross)
        at = " and ".join(show_length(place, unit) for place in piece.score.places)
        side = "across the width" if piece.score.axis == "x" else "across the height"
        words = f"score at {at} {side}"
        if piece.score.cross:
            words += f", the other way at {' and '.join(show_length(place, unit) for place in piece.score.cross)}"
        found.append(_work(piece, words, "", SCORE_SECONDS * len(places)))
    return found


def assembly(piece: CutPiece, unit: str) -> list[Work]:
    """What is done with a piece when the card is put together and takes something besides glue."""
    found = []
    if piece.raised:
        found.append(_work(piece, f"foam under it, {show_length(piece.raised, unit)} high", "", FOAM_SECONDS))
    edges = {"left": piece.overhang.left, "top": piece.overhang.top}
    edges |= {"right": piece.overhang.right, "bottom": piece.overhang.bottom}
    long = [f"{show_length(over, unit)} at the {side}" for side, over in edges.items() if over]
    if long:
        found.append(_work(piece, f"trim flush after gluing: {', '.join(long)}", "knife", TRIM_SECONDS))
    return found


def is_trimmed(piece: CutPiece) -> bool:
    """Whether a piece is trimmed after gluing all the same, so that it may be a little off."""
    over = piece.overhang
    return bool(over.left or over.right) and bool(over.top or over.bottom)


def _prepared(word: str, piece: CutPiece, unit: str, tools: Sequence[Tool]) -> Work:
    tool, seconds = PREPARED.get(word, ("", 30))
    verb = {"die-cut": "die-cut", "punched": "punch", "cut out by hand": "cut out by hand"}.get(word)
    if verb is None:
        verb = {"embossed": "emboss", "heat-embossed": "emboss with heat", "stamped": "stamp", "painted": "paint"}.get(
            word,
            {
                "washed": "wash",
                "coloured": "colour",
                "inked": "ink the edges",
                "corners rounded": "round the corners",
            }.get(word, word),
        )
    if piece.shape and word in ("die-cut", "punched", "cut out by hand"):
        verb += f": {_outline(piece.shape, unit)}"
    mine = next((each for each in tools if each.name == piece.tool), None)
    if piece.tool and word in ("die-cut", "punched", "embossed"):
        verb += f", with {piece.tool}"
        if mine and piece.shape and (piece.shape.width, piece.shape.height) in mine.sizes:
            verb += f" no. {mine.sizes.index((piece.shape.width, piece.shape.height)) + 1}"
    return _work(piece, verb, tool, seconds)


def _work(piece: CutPiece, what: str, tool: str, seconds: int) -> Work:
    when = BEFORE if piece.before_class else IN_CLASS if piece.in_class else OPEN
    return Work(what=what, tool=tool, when=when, by=piece.by, first=piece.first, seconds=seconds)


def _outline(outline: Outline, unit: str) -> str:
    if outline.width == outline.height:
        return f"{outline.kind} {show_length(outline.width, unit)}"
    return f"{outline.kind} {show_length(outline.width, unit)} × {show_length(outline.height, unit)}"
