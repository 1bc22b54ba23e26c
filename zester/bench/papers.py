"""What the Cut station prints: cutting cards, true-size guides, pile labels, guides for those who cut at home."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

from zester.bench.runs import cuttings_of, fits_of
from zester.bench.services import PaperSteps, paper_steps
from zester.classes.models import CardClass
from zester.core.cutting.guides import EDGE, PAPER, PROOF, GuidePage, Wanted, guide_pages
from zester.core.cutting.machine_file import MachineFile, Marks, machine_file
from zester.core.fitting.drawing import cut_lines, lay_parts
from zester.core.fitting.job import AT_HOME
from zester.core.fitting.plan import Layout
from zester.core.fitting.summary import source_size
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, show_length, show_size
from zester.fits.models import PaperFit
from zester.fits.plans import Made, read_made
from zester.fits.sheets import names_for
from zester.site.codes import code_svg

INCH, MM = TICKS_PER_INCH, TICKS_PER_MM
# The side of a code on a label: with 45 modules across each is over a third of a millimetre.
CODE_SIDE = 17 * MM
Label = TypeVar("Label")


@dataclass(frozen=True, kw_only=True)
class LabelSheet:
    """A sheet of labels as shops sell them; ticks. Sizes are common practice, no source: measure yours once."""

    name: str
    """What it is called."""
    paper: str
    """``letter`` or ``a4``."""
    columns: int
    """Labels beside each other."""
    rows: int
    """Labels below each other."""
    width: int
    """Of a label."""
    height: int
    """Of a label."""
    left: int
    """From the left edge of the page to the first label."""
    top: int
    """From its upper edge."""
    across: int
    """From the left edge of one label to that of the next."""
    cut_lines: bool = False
    """Whether it is plain paper, with lines to cut along."""

    @property
    def each(self) -> int:
        """Labels on a page."""
        return self.columns * self.rows

    @property
    def code_top(self) -> int:
        """How far below its upper edge a code stands in the middle."""
        return (self.height - CODE_SIDE) // 2

    @property
    def is_tall(self) -> bool:
        """Whether a label has room for what to know of a piece."""
        return self.height >= 30 * MM

    @property
    def page(self) -> tuple[int, int]:
        """Width and height of the page."""
        return PAPER[self.paper]


LABEL_SHEETS = {
    "letter-30": LabelSheet(
        name="letter, 30 labels of 2⅝ × 1 in", paper="letter", columns=3, rows=10, width=21 * INCH // 8, height=INCH,
        left=3 * INCH // 16, top=INCH // 2, across=11 * INCH // 4,
    ),
    "letter-10": LabelSheet(
        name="letter, 10 labels of 4 × 2 in", paper="letter", columns=2, rows=5, width=4 * INCH, height=2 * INCH,
        left=5 * INCH // 32, top=INCH // 2, across=67 * INCH // 16,
    ),
    "a4-24": LabelSheet(
        name="A4, 24 labels of 70 × 37 mm", paper="a4", columns=3, rows=8, width=70 * MM, height=37 * MM,
        left=0, top=MM // 2, across=70 * MM,
    ),
    "a4-21": LabelSheet(
        name="A4, 21 labels of 63.5 × 38.1 mm", paper="a4", columns=3, rows=7, width=635 * MM // 10,
        height=381 * MM // 10, left=72 * MM // 10, top=151 * MM // 10, across=660 * MM // 10,
    ),
    "plain": LabelSheet(
        name="plain letter paper, cut apart", paper="letter", columns=2, rows=6, width=15 * INCH // 4,
        height=13 * INCH // 8, left=INCH // 2, top=5 * INCH // 8, across=15 * INCH // 4, cut_lines=True,
    ),
}  # fmt: skip


def page_of(card_class: CardClass, asked: str) -> str:
    """The page that is printed on: as asked, or as the class measures."""
    return asked if asked in PAPER else "letter" if card_class.unit == "in" else "a4"


def cards_of(card_class: CardClass) -> list[PaperSteps]:
    """A cutting card for every paper that is cut at the trimmer."""
    fits = fits_of(card_class)
    cuttings = cuttings_of(fits)
    return [paper for fit in fits if (paper := paper_steps(fit, cuttings.get(fit.pk))).steps]


def guides_of(card_class: CardClass, page: str) -> list[GuidePage]:
    """True-size guides of all pieces of a class."""
    wanted = []
    for fit in fits_of(card_class):
        names, made = names_for(fit), read_made(fit.shown)
        for piece in made.paper.pieces:
            about = names.get(piece.id, {})
            wanted.append(
                Wanted(
                    handle=piece.id,
                    name=about.get("name", ""),
                    width=piece.width,
                    height=piece.height,
                    marks=marks_of(about),
                )
            )
    return guide_pages(wanted, page, card_class.unit)


def marks_of(about: dict) -> Marks:
    """Score lines and openings of a piece, from what is written down of it."""
    marks = about.get("marks") or {}
    return Marks(
        scores=tuple((axis, place) for axis, place in marks.get("scores", ())),
        outlines=tuple(tuple(each) for each in marks.get("outlines", ())),
    )


def proof_of(page: str, unit: str) -> dict:
    """The measured line: where it begins, how long it is, what it must measure."""
    length = PROOF[page]
    shown = f"{show_length(length, 'in' if page == 'letter' else 'mm')} {'in' if page == 'letter' else 'mm'}"
    return {"x": EDGE, "y": PAPER[page][1] - EDGE - 4 * MM, "length": length, "words": shown, "unit": unit}


@dataclass(frozen=True, kw_only=True)
class PileLabel:
    """A label."""

    handle: str
    """The pile's handle."""
    name: str
    """The piece's name."""
    card: str
    """The card."""
    size: str
    """Its size."""
    paper: str
    """The paper."""
    count: int
    """How many belong to the pile."""
    care: str
    """What to know of it."""
    code: str = ""
    """An address that opens its page, as a code."""


def labels_of(card_class: CardClass, address: Callable[[str], str] | None = None) -> list[PileLabel]:
    """A label for every pile, paper by paper; ``address`` gives that of a paper's piles, whole."""
    found = []
    for fit in fits_of(card_class):
        names, made = names_for(fit), read_made(fit.shown)
        code = code_svg(address(fit.paper.key)) if address else ""
        for piece in made.paper.pieces:
            about = names.get(piece.id, {})
            found.append(
                PileLabel(
                    code=code,
                    handle=piece.id,
                    name=about.get("name", ""),
                    card=about.get("card", ""),
                    size=show_size(piece.width, piece.height, card_class.unit),
                    paper=fit.paper.name,
                    count=piece.count,
                    care=about.get("care", ""),
                )
            )
    return found


def label_pages(labels: Sequence[Label], sheet: LabelSheet, start: int) -> list[list[tuple[int, int, Label]]]:
    """Left and top of every label, page by page; the first page begins at label ``start``, counted from 1."""
    pages: list[list[tuple[int, int, Label]]] = []
    for index, label in enumerate(labels, max(0, min(start, sheet.each) - 1)):
        page, place = divmod(index, sheet.each)
        row, column = divmod(place, sheet.columns)
        while len(pages) <= page:
            pages.append([])
        pages[page].append((sheet.left + column * sheet.across, sheet.top + row * sheet.height, label))
    return pages


@dataclass(frozen=True, kw_only=True)
class HomeCut:
    """A numbered cut of a guide for home."""

    number: int
    """From 1, in the order in which it is cut."""
    x1: int
    """Ticks."""
    y1: int
    """Ticks."""
    x2: int
    """Ticks."""
    y2: int
    """Ticks."""
    words: str
    """What is done."""

    @property
    def cx(self) -> str:
        """Where its number stands, millimetres: not in the middle, where cuts cross."""
        return f"{(self.x1 + (self.x2 - self.x1) * 0.38) / MM:.3f}"

    @property
    def cy(self) -> str:
        """The same from above."""
        return f"{(self.y1 + (self.y2 - self.y1) * 0.38) / MM:.3f}"


@dataclass(frozen=True, kw_only=True)
class HomePart:
    """Where a piece comes from."""

    piece: str
    """Its handle."""
    name: str
    """What it is called."""
    x: int
    """Ticks."""
    y: int
    """Ticks."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""


@dataclass(frozen=True, kw_only=True)
class HomeGuide:
    """One portion, or whole sheet, that is cut up at home; drawn as large as the page has room for."""

    paper: str
    """The paper."""
    size: str
    """Its size."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    parts: tuple[HomePart, ...]
    """Where each piece goes."""
    cuts: tuple[HomeCut, ...]
    """The cuts."""
    way: str = ""
    """Which of several ways it is, in words; empty if there is one."""

    @property
    def counted(self) -> list[tuple[HomePart, int]]:
        """The pieces, each once with how many of it come out."""
        found: dict[str, list[HomePart]] = {}
        for part in self.parts:
            found.setdefault(part.piece, []).append(part)
        return [(parts[0], len(parts)) for parts in found.values()]

    @property
    def _share(self) -> float:
        """Of its real size, as it is drawn."""
        return min(165 * MM / self.width, 130 * MM / self.height)

    @property
    def shown_width(self) -> str:
        """How wide it is drawn, millimetres."""
        return f"{self.width * self._share / MM:.2f}"

    @property
    def shown_height(self) -> str:
        """How high."""
        return f"{self.height * self._share / MM:.2f}"

    @property
    def box(self) -> str:
        """The view box, millimetres of the paper."""
        rim = 0.3 / self._share
        return f"{-rim:.2f} {-rim:.2f} {self.width / MM + 2 * rim:.3f} {self.height / MM + 2 * rim:.3f}"

    @property
    def line(self) -> str:
        """How thick lines are, so that they come out alike on every page."""
        return f"{0.5 / self._share:.3f}"

    @property
    def letter(self) -> str:
        """How high letters are."""
        return f"{3.6 / self._share:.3f}"

    @property
    def down(self) -> str:
        """How far below the upper edge of a part its handle stands."""
        return f"{5 / self._share:.3f}"

    @property
    def dot(self) -> str:
        """How large the circle round a number is."""
        return f"{2.6 / self._share:.3f}"


def home_guides(card_class: CardClass) -> list[HomeGuide]:
    """The guides for those who cut at home, paper by paper."""
    found = []
    for fit in fits_of(card_class):
        made = read_made(fit.shown)
        if made.paper.pool in AT_HOME or made.plan.portion:
            layouts = [
                layout for layout in made.plan.layouts if layout.source == "portion" or made.paper.pool == "whole"
            ]
            found += [_home(fit, made, layout, card_class.unit) for layout in layouts if layout.source != "window"]
    return found


def _home(fit: PaperFit, made: Made, layout: Layout, unit: str) -> HomeGuide:
    names = {handle: about.get("name", "") for handle, about in names_for(fit).items()}
    return guide_for(fit.paper.name, source_size(made.paper, made.plan, layout), layout, names, unit)


def guide_for(paper: str, size: tuple[int, int], layout: Layout, names: Mapping[str, str], unit: str) -> HomeGuide:
    """The guide to cut up a sheet of this size (ticks) by a layout; ``names`` of the pieces by handle."""
    width, height = size
    parts = tuple(
        HomePart(
            piece=part.piece,
            name=names.get(part.piece, ""),
            x=part.x,
            y=part.y,
            width=part.width,
            height=part.height,
        )
        for part in lay_parts(layout, width, height)
        if not part.offcut
    )
    return HomeGuide(
        paper=paper,
        size=show_size(width, height, unit),
        width=width,
        height=height,
        parts=parts,
        cuts=tuple(_home_cuts(layout, width, height, unit)),
    )


def _home_cuts(layout: Layout, width: int, height: int, unit: str) -> Iterable[HomeCut]:
    for number, line in enumerate(cut_lines(layout, width, height), 1):
        at, edge = show_length(line.cut.at, unit), "left" if line.cut.axis == "x" else "upper"
        words = f"the part of {show_size(*line.box[2:], unit)} at {at} {unit} from its {edge} edge"
        yield HomeCut(number=number, x1=line.start[0], y1=line.start[1], x2=line.end[0], y2=line.end[1], words=words)


def file_of(fit: PaperFit, number: int) -> MachineFile | None:
    """A layout of the shown plan for a cutting machine, counted from 1; None if there is none."""
    made, names = read_made(fit.shown), names_for(fit)
    layouts = [layout for layout in made.plan.layouts if layout.source != "window"]
    if not 1 <= number <= len(layouts):
        return None
    layout = layouts[number - 1]
    width, height = source_size(made.paper, made.plan, layout)
    marks = {handle: marks_of(about) for handle, about in names.items()}
    return machine_file(f"{fit.paper.name}, layout {number}", layout, width, height, marks, made.job.unit)


def files_of(fit: PaperFit) -> list[tuple[int, int, str]]:
    """The layouts that can be had as files: number, copies, the size of the sheet."""
    made = read_made(fit.shown)
    layouts = [layout for layout in made.plan.layouts if layout.source != "window"]
    return [
        (number, layout.copies, show_size(*source_size(made.paper, made.plan, layout), made.job.unit))
        for number, layout in enumerate(layouts, 1)
    ]
