"""A card's list looked at as one version of the card: its pieces, its fold, where everything sits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from zester.core.cards.layers import Placed, place_all
from zester.core.cards.thickness import Thickness, thickness_of
from zester.core.cutlist.edit import with_size
from zester.core.cutlist.lines import Reading, Written
from zester.core.errors import sure
from zester.core.folds import Folded, base_of, fold_of
from zester.core.geometry import goes_in
from zester.core.lengths import TICKS_PER_MM, Ruler, show_size, with_unit
from zester.core.letters import letter_of, letter_paper
from zester.core.pieces import CardLine, CutPiece, Known, KnownPaper
from zester.core.usual_times import USUAL_TIMES, UsualTimes


@dataclass(frozen=True)
class Mend:
    """A way to put something right."""

    label: str
    """What its button says."""
    line: int
    """The line of the list, from 0."""
    text: str
    """What that line says then."""
    others: tuple[tuple[int, str], ...] = ()
    """Other lines that are put right with it, and what they say then."""


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What a check found."""

    group: str
    """The check's group."""
    what: str
    """What is so, as a sentence without a full stop."""
    why: str = ""
    """The reason, with its figures."""
    line: int | None = None
    """The line of the list it is about, from 0; None if it is about the card."""
    grave: bool = True
    """Whether it spoils the card; otherwise it is worth a look."""
    mends: tuple[Mend, ...] = ()
    """The ways to mend it."""
    alike: tuple[int, ...] = ()
    """Other lines of which the same is so."""


@dataclass(frozen=True)
class Study:
    """A card's readings looked at as one version of the card."""

    readings: tuple[Reading, ...]
    """The list, line by line."""
    known: Known
    """The papers and tools it was read with."""
    ruler: Ruler
    """The ruler it was read with."""
    version: str = ""
    """The version that is looked at; empty for the lines of all."""
    usual: UsualTimes = USUAL_TIMES
    """When jobs are done that the list gives no time."""

    @cached_property
    def pieces(self) -> tuple[CutPiece, ...]:
        """The pieces of this version."""
        found = (reading.piece for reading in self.readings if reading.piece)
        return tuple(piece for piece in found if piece.only in ("", self.version))

    @cached_property
    def card(self) -> CardLine | None:
        """What the card's own line says; the last one counts."""
        return next((reading.card for reading in reversed(self.readings) if reading.card), None)

    @cached_property
    def base(self) -> CutPiece | None:
        """The card's base."""
        return base_of(self.pieces)

    @cached_property
    def folded(self) -> Folded | None:
        """The card, folded."""
        return fold_of(self.base, self.card)

    @cached_property
    def placed(self) -> tuple[Placed, ...]:
        """Everything on the card."""
        return tuple(place_all(self.pieces, self.folded)) if self.folded else ()

    @cached_property
    def thickness(self) -> Thickness:
        """How thick it gets."""
        return thickness_of(self.base, sure(self.folded), self.placed, self.known.papers)

    @cached_property
    def papers(self) -> dict[str, KnownPaper]:
        """The papers by key."""
        lettered = {piece.paper: letter_paper(piece.paper) for piece in self.pieces if letter_of(piece.paper)}
        return {paper.key: paper for paper in self.known.papers} | lettered

    @cached_property
    def _by_number(self) -> dict[int, Reading]:
        return {reading.piece.number: reading for reading in self.readings if reading.piece}

    @property
    def unit(self) -> str:
        """The unit its lengths are shown in."""
        return self.ruler.unit

    @property
    def usual_border(self) -> int:
        """⅛ in, or 3 mm."""
        return 3 * TICKS_PER_MM if self.unit == "mm" else 1016

    @property
    def thinnest_border(self) -> int:
        """1/16 in, or 1.5 mm."""
        return TICKS_PER_MM * 3 // 2 if self.unit == "mm" else 508

    @property
    def step(self) -> int:
        """The marks that suggested sizes lie on: the ruler's, or whole millimetres."""
        return TICKS_PER_MM if self.unit == "mm" else self.ruler.step

    def reading(self, piece: CutPiece) -> Reading:
        """The line a piece is written on."""
        return self._by_number[piece.number]

    def line(self, piece: CutPiece) -> int:
        """The number of that line, from 0."""
        return self.reading(piece).line

    def length(self, ticks: int) -> str:
        """A length with its unit."""
        return with_unit(ticks, self.unit)

    def size(self, width: int, height: int) -> str:
        """A size with its unit."""
        return show_size(width, height, self.unit)

    def on_marks(self, *lengths: int) -> bool:
        """Whether all of them are above nothing and on the card's ruler."""
        return all(length > 0 and length % self.ruler.marks(self.unit) == 0 for length in lengths)

    def rounded_up(self, ticks: int) -> int:
        """The next mark."""
        return -(-ticks // self.step) * self.step

    def written(self, piece: CutPiece) -> Written:
        """The line of a piece, taken apart."""
        return sure(self.reading(piece).written)

    def make_it(self, piece: CutPiece, width: int, height: int) -> tuple[Mend, ...]:
        """The mend that gives a piece another shown size; none if that is on no ruler or on no sheet of its paper."""
        possible = self.on_marks(width, height) and self._on_a_sheet(piece, width, height)
        if not possible or not self._holds(piece, width, height):
            return ()
        reading = self.reading(piece)
        # “Circle 1½” in place of a size is the shape, which stays.
        text = with_size(self.written(piece), width, height, self.unit, keep=bool(piece.shape and not piece.tool))
        return (Mend(f"Make it {self.size(width, height)}", reading.line, text),)

    def _holds(self, piece: CutPiece, width: int, height: int) -> bool:
        """Whether its shape, its window and its middle would still be within it; a shape that fills it follows it."""
        shape = self.written(piece).rule("shape")
        sized = piece.tool or (shape and shape["size"])
        inner = [piece.shape if sized else None, piece.window, piece.middle]
        return all(part is None or (part.width <= width and part.height <= height) for part in inner)

    def _on_a_sheet(self, piece: CutPiece, width: int, height: int) -> bool:
        paper, over = self.papers.get(piece.paper), piece.overhang
        if paper is None:
            return True
        size = width + over.left + over.right, height + over.top + over.bottom
        return goes_in(*size, paper.width, paper.height, turn=piece.turn)

    def rewrite(self, piece: CutPiece, label: str, text: str) -> tuple[Mend, ...]:
        """The mend that makes the piece's line that text; none if it is that already."""
        reading = self.reading(piece)
        return (Mend(label, reading.line, text),) if text != reading.text else ()


def study(
    readings: Sequence[Reading], known: Known, ruler: Ruler, version: str = "", usual: UsualTimes = USUAL_TIMES
) -> Study:
    """The readings of a list, looked at as a card."""
    return Study(tuple(readings), known, ruler, version, usual)


def versions_of(readings: Sequence[Reading]) -> list[str]:
    """The versions a list names, in the order they come up; empty if every line is in all of them."""
    said = [thing.only for reading in readings for thing in (reading.piece, reading.bit) if thing and thing.only]
    return list(dict.fromkeys(said))
