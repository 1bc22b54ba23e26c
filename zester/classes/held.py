"""What is done stays as it was: from the first cut on a class keeps its own state of each design, and of the shelf.

A class that is cut, packed, handed over or past does not follow its designs; it takes a change only where somebody says
so, and then what is cut stays cut.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

from django.db import transaction
from django.utils import timezone

from zester.classes.kept_shelf import to_keep
from zester.classes.models import HELD, CardClass, ClassCard
from zester.classes.services import count_class, hold_class, recount
from zester.core.lengths import show_size
from zester.core.tally import PieceCount
from zester.designs.models import Card
from zester.designs.services import Clash, Holdings, holdings_of, keep_words, read_card

# Say of a class whether something of it is done: cut, packed.
_DONE: list[Callable[[CardClass], bool]] = []


def register_done(is_done: Callable[[CardClass], bool]) -> None:
    """Be asked whether something of a class is done."""
    _DONE.append(is_done)


@transaction.atomic
def follow_again(card_class: CardClass) -> None:
    """Something was taken back: a class of which nothing is done any more follows its designs again."""
    past = card_class.date is not None and card_class.date < timezone.localdate()
    handed = card_class.people.filter(state__in=("packed", "handed")).exists()
    if past or handed or any(is_done(card_class) for is_done in _DONE):
        return
    mine = CardClass.objects.filter(pk=card_class.pk).exclude(kept_shelf={})
    if card_class.class_cards.exclude(held={}).update(held={}) + mine.update(kept_shelf={}):
        recount(card_class.pk)


@transaction.atomic
def hold_designs(card_class: CardClass, held: Holdings | None = None) -> None:
    """Something of the class is cut, packed or handed over: it keeps its designs as they are now.

    ``held`` spares asking what its owner has once more.
    """
    # Its kit list is the class's own.
    mine = card_class.class_cards.filter(held={}, removed_at=None, card__is_kit=False)
    for entry in mine.select_related("card"):
        hold_design(entry)
    hold_shelf(card_class, held or holdings_of(card_class.owner))


def hold_shelf(card_class: CardClass, held: Holdings) -> None:
    """The class keeps what papers are called and what tools there are, if it does not do so already."""
    if not card_class.kept_shelf:
        card_class.kept_shelf = to_keep(held)
        card_class.save(update_fields=["kept_shelf"])


def hold_design(entry: ClassCard, cut_list: str | None = None) -> None:
    """The class keeps this design as it is now, or with this list."""
    entry.held = {name: getattr(entry.card, name) for name in HELD}
    if cut_list is not None:
        entry.held["cut_list"] = cut_list
    entry.save(update_fields=["held"])


@transaction.atomic
def keep_class_words(entry: ClassCard, sent: Mapping[str, str], seen: Mapping[str, str]) -> list[Clash]:
    """Keep the teacher's words to steps of a card, with the design and with the class if that keeps its own state."""
    clashes = keep_words(entry.card, sent, seen)
    if entry.held:
        told = {clash.key for clash in clashes}
        mine = dict(entry.held["teaching"]) | {key: text for key, text in sent.items() if key not in told}
        entry.held["teaching"] = {key: text for key, text in mine.items() if text}
        entry.save(update_fields=["held"])
    return clashes


def effect_of(entry: ClassCard) -> list[tuple[str, str, int, int]]:
    """What the design as it is in the library would change: piece and size, paper, how many now and how many then."""
    counted = count_class(entry.card_class)
    reading = tuple(read_card(Card.objects.get(pk=entry.card_id), counted.known))
    cards = tuple(replace(card, readings=reading) if card.entry.pk == entry.pk else card for card in counted.cards)
    unit = entry.card_class.unit
    now, then = _by_piece(counted.counts), _by_piece(replace(counted, cards=cards).counts)
    return [
        (
            f"{handle} {name}, {show_size(*size, unit)}",
            counted.names.get(paper, "another paper"),
            now.get(key, 0),
            then.get(key, 0),
        )
        for key in dict.fromkeys((*now, *then))
        if now.get(key, 0) != then.get(key, 0)
        for handle, name, paper, size in [key]
    ]


def _by_piece(counts: Iterable[PieceCount]) -> dict[tuple[str, str, str, tuple[int, int]], int]:
    return {
        (each.handle, each.piece.name, each.piece.paper, (each.piece.width, each.piece.height)): each.count
        for each in counts
        if each.count and not each.piece.filler
    }


@transaction.atomic
def take_design(entry: ClassCard) -> None:
    """The class takes its design as it is in the library now, and keeps that."""
    hold_class(entry.card_class_id)
    hold_design(entry)
    recount(entry.card_class_id)
