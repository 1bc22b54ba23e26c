"""A border a sixteenth less: which lettered pieces bear it, and their lists with it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from django.db import transaction

from zester.casting.models import GuideSearch
from zester.classes.models import CardClass
from zester.classes.services import CountedClass, ReadCard, count_class
from zester.core.casting.guide import Guide
from zester.core.casting.nudges import Nudge, smaller
from zester.core.casting.sharing import Size
from zester.core.cutlist.edit import with_size
from zester.core.cutlist.lines import Reading
from zester.core.errors import GuideError
from zester.core.lengths import RULERS
from zester.core.letters import letter_of
from zester.core.pieces import CutPiece, Known
from zester.designs.services import checked, replace_list


def may_shrink(counted: CountedClass, unit: str) -> list[Size]:
    """The sizes of lettered pieces that may be smaller all round without a word from the desk's checks."""
    good: dict[Size, bool] = {}
    for card in counted.designs:
        for size in {(piece.width, piece.height) for _, piece in _lettered(card)}:
            good[size] = good.get(size, True) and _bears(card, size, counted.known, unit)
    return [size for size, may in good.items() if may]


def _bears(card: ReadCard, size: Size, known: Known, unit: str) -> bool:
    """Whether a card's pieces of a size may be smaller: no new finding, and a border left around what lies on them."""
    version, ruler = card.entry.version, card.entry.card.ruler
    then = _rewritten(card, (size,), unit)
    if not then:
        return False
    study, findings = checked(then, known, ruler, version)
    numbers = {piece.number for _, piece in _lettered(card) if (piece.width, piece.height) == size}
    borders = []
    for placed in study.placed:
        mat = study.placed[placed.under].piece if placed.under is not None else None
        if mat and mat.number in numbers:
            borders.append(mat.shown_width - placed.piece.shown_width)
            borders.append(mat.shown_height - placed.piece.shown_height)
    if min(borders, default=2 * study.thinnest_border) < 2 * study.thinnest_border:
        return False
    return len(findings) <= len(checked(card.entry.card.cut_list, known, ruler, version)[1])


def _lettered(card: ReadCard) -> Iterator[tuple[Reading, CutPiece]]:
    """The lines of its lettered pieces."""
    return ((line, line.piece) for line in card.readings if line.piece and letter_of(line.piece.paper))


def _rewritten(card: ReadCard, sizes: tuple[Size, ...], unit: str) -> str:
    """A card's list with pieces of these sizes smaller; empty where a line cannot say that, or nothing is left."""
    lines = card.entry.card.cut_list.split("\n")
    if RULERS[card.entry.card.ruler].unit != unit:
        return ""
    for reading, piece in _lettered(card):
        size = piece.width, piece.height
        if size in sizes:
            less = smaller(size, unit)
            if min(less) <= 0 or not reading.written or piece.shape:
                return ""
            lines[reading.line] = with_size(reading.written, *less, unit)
    return "\n".join(lines)


@transaction.atomic
def make_smaller(card_class: CardClass, nudge: Nudge) -> int:
    """Write a nudge into the lists of a class, and say how many are changed; every list before is kept.

    Raises
    ------
    GuideError
        If the class is cut, or a list has changed since.
    """
    counted = count_class(card_class)
    unit = "mm" if card_class.unit == "mm" else "in"
    if card_class.kept_shelf:
        raise GuideError("This class is cut, and keeps its lists", mend="Plan it once more, and look there")
    if not set(nudge.sizes) <= set(may_shrink(counted, unit)):
        raise GuideError("The lists have changed since", mend="Look for it once more")
    cards = {card.entry.card_id: card for card in counted.designs}.values()
    texts = [(card.entry.card, _rewritten(card, nudge.sizes, unit)) for card in cards]
    changed = [(card, text) for card, text in texts if text and text != card.cut_list]
    for card, text in changed:
        replace_list(card, text, "", f"before {card_class.title}"[:60])
    return len(changed)


def kept_nudges(search: GuideSearch) -> list[Nudge]:
    """What a search proposes."""
    return [Nudge(tuple((wide, high) for wide, high in each["sizes"]), each["sheets"]) for each in search.nudges]


def cards_with(guide: Guide, sizes: Sequence[Size]) -> list[int]:
    """The numbers of the cards that have pieces of these sizes."""
    pieces = (piece for sheet in guide.letters for piece in sheet.pieces)
    return sorted({piece.card for piece in pieces if (piece.width, piece.height) in sizes})
