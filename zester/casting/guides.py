"""Guides: typed, taken from plans, brought in as files, used in classes and laid out in their plans."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from functools import lru_cache

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import QuerySet

from zester.casting.models import ClassGuide, Guide
from zester.classes.castings import cast_of
from zester.classes.models import CardClass
from zester.classes.services import CountedClass, recount
from zester.core.casting.casting import Casting as Cast
from zester.core.casting.casting import Face, PadSheet, Slot, Stage, slots_of
from zester.core.casting.guide import Guide as Drawn
from zester.core.casting.guide import (
    GuidePiece,
    GuideReading,
    LetterGuide,
    load_guide,
    read_guide,
    typed_guide,
    write_guide,
)
from zester.core.casting.layouts import guide_layouts
from zester.core.errors import GuideError, PlanError
from zester.core.fitting.jobs.plan import Layout, Named
from zester.core.lengths import RULERS
from zester.core.letters import LETTERS
from zester.core.tally import KIT, MARK, PieceCount
from zester.plans.kept import read_made
from zester.plans.models import PaperFit
from zester.shelf.models import Paper
from zester.site.prepared import prepared

LARGEST_FILE = 400_000


def ruler_of(unit: str) -> str:
    """The key of the ruler that guides in this unit are typed with."""
    return "mm" if unit == "mm" else "in16"


@lru_cache(maxsize=64)
def reading_of(text: str, width: int, height: int, unit: str) -> GuideReading:
    """The lines read; once for the same lines."""
    return read_guide(text, width, height, RULERS[ruler_of(unit)])


@lru_cache(maxsize=64)
def drawn(made: str) -> Drawn | None:
    """A guide as it is kept; None if there is none."""
    return load_guide(made) if made else None


@transaction.atomic
def keep_guide(guide: Guide) -> GuideReading:
    """Store a guide with what can be used of its lines."""
    reading = reading_of(guide.lines, guide.width, guide.height, guide.unit)
    guide.made = write_guide(reading.guide)
    guide.save()
    return reading


@transaction.atomic
def bring_in(user: AbstractBaseUser, name: str, text: bytes) -> Guide:
    """A guide from its open file.

    Raises
    ------
    PlanError
        If it is none, or does not hold what it says.
    """
    if len(text) > LARGEST_FILE:
        raise PlanError("the file is too large for a guide", "guide")
    found = load_guide(text)
    if not found.letters:
        raise PlanError("the file holds no sheets", "guide")
    return keep_drawn(user, name, found)


def keep_drawn(user: AbstractBaseUser, name: str, found: Drawn) -> Guide:
    """A guide that was not typed, put into the library with lines that read as it."""
    about = {"name": name[:60], "unit": found.unit, "width": found.width, "height": found.height}
    return Guide.objects.create(owner=user, lines=typed_guide(found), made=write_guide(found), **about)


@transaction.atomic
def taken_from(card_class: CardClass) -> tuple[Guide, list[str]]:
    """A guide made of the sheets that are planned for a class: one letter for every layout of its patterned papers.

    What it is made of is the size that most of those sheets have; papers of another size are told.

    Raises
    ------
    GuideError
        If there is no plan of a patterned paper.
    """
    fits = PaperFit.objects.filter(class_paper__card_class=card_class).exclude(shown=None).order_by("pk")
    fits = [fit for fit in fits.select_related("class_paper__paper", "shown") if fit.paper.kind != Paper.Kind.CARD]
    sizes = Counter((fit.paper.width, fit.paper.height) for fit in fits)
    if not sizes:
        raise GuideError("No patterned paper of this class has a plan yet", mend="Fit it first")
    (width, height), _ = sizes.most_common(1)[0]
    numbers = _numbers(card_class)
    sheets: list[LetterGuide] = []
    for fit in fits:
        if (fit.paper.width, fit.paper.height) == (width, height):
            sheets += _sheets_of(fit, numbers, LETTERS[len(sheets) :])
    if not sheets:
        raise GuideError("Nothing of these plans is cut from whole sheets here", mend="Fit it for common sheets first")
    others = [fit.name for fit in fits if (fit.paper.width, fit.paper.height) != (width, height)]
    found = Drawn("mm" if card_class.unit == "mm" else "in", width, height, tuple(sheets))
    return keep_drawn(card_class.owner, f"{card_class.title}, as planned", found), others


def _numbers(card_class: CardClass) -> dict[str, int]:
    letters = card_class.class_cards.there().exclude(letter=KIT).order_by("letter").values_list("letter", flat=True)
    return {letter: number for number, letter in enumerate(letters, 1)}


def _sheets_of(fit: PaperFit, numbers: dict[str, int], letters: str) -> Iterable[LetterGuide]:
    """Every layout of a plan that is cut from whole sheets, as a lettered sheet."""
    made = read_made(fit.shown)
    sizes = {piece.id: piece for piece in made.paper.pieces}
    whole = {
        sheet.id for sheet in made.paper.sheets if (sheet.width, sheet.height) == (fit.paper.width, fit.paper.height)
    }
    layouts = [layout for layout in made.plan.layouts if layout.source == "sheet" and layout.sheet in whole]
    for letter, layout in zip(letters, layouts, strict=False):
        pieces, parts = [], []
        for number, part in enumerate(layout.parts, 1):
            if part.portion or part.piece not in sizes:
                continue
            piece, about = sizes[part.piece], fit.pieces.get(part.piece, {})
            card = numbers.get(part.piece.rstrip("0123456789" + MARK), 0)
            sides = {"width": piece.width, "height": piece.height}
            pieces.append(GuidePiece(id=f"{number}", card=card, name=about.get("name", "Piece")[:60], **sides))
            parts.append(Named(part=part.part, piece=f"{number}", turned=part.turned, up=part.up))
        cut = Layout(sheet="sheet", copies=1, cuts=layout.cuts, parts=tuple(parts))
        if pieces:
            yield LetterGuide(letter, cut, tuple(pieces))


@prepared
def _uses(card_class: int) -> QuerySet[ClassGuide]:
    return ClassGuide.objects.filter(card_class=card_class).select_related("pad")


def use_of(card_class: int) -> ClassGuide:
    """The guide and pad of the class with this key; an empty one, not stored, if it has none."""
    found = _uses(card_class)
    return found[0] if found else ClassGuide(card_class_id=card_class)


@transaction.atomic
def use_guide(card_class: CardClass, guide: Guide | None) -> None:
    """Cut a class by a guide from now on, or freely."""
    kept = {"guide": guide, "name": guide.name if guide else "", "made": guide.made if guide else ""}
    ClassGuide.objects.update_or_create(card_class=card_class, defaults=kept)
    recount(card_class.pk)


def copy_use(card_class: CardClass, new: CardClass) -> None:
    """A class that is planned once more is cut by the same guide, from the same pad, with her marks."""
    for use in ClassGuide.objects.filter(card_class=card_class):
        use.pk, use.card_class = None, new
        use.save()


def cards_of(counted: CountedClass) -> list[tuple[str, tuple]]:
    """The cards of a class as guides number them: letter and pieces as they are written."""
    return [(card.entry.letter, card.written) for card in counted.designs]


def handles_of(counted: CountedClass, slots: Sequence[Slot], cast: Cast) -> dict[str, PieceCount]:
    """By a slot's handle the counted piece that a casting makes of it, where the class makes any."""
    by_handle: dict[str, list[PieceCount]] = {}
    for entry in counted.counts:
        by_handle.setdefault(entry.handle.rstrip(MARK), []).append(entry)
    found = {}
    for slot in slots:
        mine = (cast.paper(slot), cast.side(slot))
        for entry in by_handle.get(slot.handle, ()):
            if entry.count and (entry.piece.paper, entry.piece.side) == mine:
                found[slot.handle] = entry
    return found


def layouts_for(counted: CountedClass, paper: Paper) -> tuple[Layout, ...]:
    """The sheets of a paper that a class cuts by its guide; none if it has no guide."""
    use = use_of(counted.card_class.pk) if counted.castings else None
    guide = drawn(use.made) if use else None
    # What is handed out whole or as portions is cut at home, and own sheets are laid out for each person.
    if guide is None or paper.key in counted.needs.pools:
        return ()
    slots = slots_of(cards_of(counted))
    left = Counter({entry.handle: entry.count for entry in counted.counts})
    sheet = pad_sheet(paper)
    stage, found = Stage(slots=slots, sheets={paper.key: sheet}, guide=guide), []
    for row in counted.castings:
        if row is counted.castings[0] or row.last:
            cast = cast_of(row)
            handles = {handle: entry.handle for handle, entry in handles_of(counted, slots, cast).items()}
            found += guide_layouts(stage, cast, sheet, left, handles)
    return tuple(found)


def pad_sheet(paper: Paper, count: int | None = None) -> PadSheet:
    """A paper as castings take it; ``count`` in place of the sheets on hand where nobody counts them."""
    busy = {"busy": True, "calm": False}
    a = Face(direction=paper.direction, busy=busy.get(paper.look), colours=paper.main_colours("a"))
    b = Face(
        direction=paper.back_direction or paper.direction,
        busy=busy.get(paper.back_look),
        colours=paper.main_colours("b"),
    )
    return PadSheet(
        key=paper.key,
        name=paper.name,
        width=paper.width,
        height=paper.height,
        count=paper.on_hand if paper.on_hand is not None else count,
        a=a,
        b=None if paper.back == Paper.Back.NONE else b,
    )
