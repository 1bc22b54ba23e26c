"""Guides as they are drawn: on the screen beside their lines, and on paper true to size."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from zester.core.casting.guide import Guide, LetterGuide, left_of
from zester.core.fitting.jobs.check_plan import replay
from zester.core.fitting.jobs.fewest_cuts import fewest_cuts
from zester.core.lengths import show_size
from zester.core.printing.home_guides import HomeGuide, guide_for

BLANK = "____________________"


@dataclass(frozen=True, kw_only=True)
class ShownPiece:
    """A piece on a drawn sheet. Lengths are ticks."""

    x: int
    y: int
    width: int
    height: int
    card: int
    words: str
    turned: bool

    @property
    def middle(self) -> tuple[int, int]:
        """Where its card's number stands."""
        return self.x + self.width // 2, self.y + self.height // 2

    @property
    def letter(self) -> int:
        """How high that is written."""
        return min(self.width, self.height) * 45 // 100


@dataclass(frozen=True, kw_only=True)
class ShownSheet:
    """A lettered sheet as it is cut."""

    letter: str
    width: int
    height: int
    pieces: tuple[ShownPiece, ...]
    one_way: bool
    """Whether all its pieces lie the same way, so that a pattern that runs one way can be cast as it."""
    cuts: int
    left: str
    """What is left of it in words; empty if nothing is."""


def shown_sheets(guide: Guide) -> list[ShownSheet]:
    """Every sheet of a guide, to be drawn to one scale."""
    return [_shown(sheet, guide) for sheet in guide.letters]


def _shown(sheet: LetterGuide, guide: Guide) -> ShownSheet:
    boxes = replay(sheet.layout, guide.width, guide.height)
    pieces = {piece.id: piece for piece in sheet.pieces}
    shown = []
    for part in sheet.layout.parts:
        piece, (x, y, width, height) = pieces[part.piece], boxes[part.part]
        whose = f"card {piece.card}" if piece.card else "filler"
        words = f"{piece.name}, {show_size(piece.width, piece.height, guide.unit)}, {whose}"
        at = {"x": x, "y": y, "width": width, "height": height}
        shown.append(ShownPiece(**at, card=piece.card, words=words, turned=part.turned))
    left = left_of(sheet, guide.width, guide.height)
    return ShownSheet(
        letter=sheet.letter,
        width=guide.width,
        height=guide.height,
        pieces=tuple(shown),
        one_way=len(sheet.edges) == 1,
        cuts=len(sheet.layout.cuts),
        left=" and ".join(show_size(*sides, guide.unit) for sides in left),
    )


def guide_pages(guide: Guide | None, cast: Mapping[str, str]) -> list[HomeGuide]:
    """A page for every sheet, with numbered cuts; ``cast``: by letter what it is, where that is to be told."""
    return [_page(sheet, guide, cast) for sheet in guide.letters] if guide else []


def _page(sheet: LetterGuide, guide: Guide, cast: Mapping[str, str]) -> HomeGuide:
    # On the drawing a piece is known by its card's number.
    marks = {piece.id: f"{piece.card}" if piece.card else "–" for piece in sheet.pieces}
    layout = fewest_cuts(sheet.layout, guide.width, guide.height)
    layout = replace(layout, parts=tuple(replace(part, piece=_mark(part.piece, marks)) for part in layout.parts))
    names = {_mark(piece.id, marks): piece.name for piece in sheet.pieces}
    title = f"Sheet {sheet.letter} = {cast.get(sheet.letter, BLANK)}"
    found = guide_for(title, (guide.width, guide.height), layout, names, guide.unit)
    parts = tuple(replace(part, piece=part.piece.partition("\N{ZERO WIDTH SPACE}")[0]) for part in found.parts)
    return replace(found, parts=parts, true_size=True)


def _mark(piece: str, marks: Mapping[str, str]) -> str:
    """A piece's mark, told apart from others of its card."""
    return f"{marks[piece]}\N{ZERO WIDTH SPACE}{piece}"
