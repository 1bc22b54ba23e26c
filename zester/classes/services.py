"""A class added up: its cards read, its pieces counted, its five stations."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from zester.classes.models import CardClass, ClassCard
from zester.core.cutlist.pieces import Reading
from zester.core.errors import ZesterError
from zester.core.tally import LETTERS, CardCount, PieceCount, tally
from zester.designs.models import Card
from zester.designs.services import read_card, stocks_of


@dataclass(frozen=True)
class ReadCard:
    """A card of a class with its list read."""

    entry: ClassCard
    readings: tuple[Reading, ...]

    @property
    def errors(self) -> list[Reading]:
        """The lines that cannot be read."""
        return [reading for reading in self.readings if reading.error]

    @property
    def pieces(self) -> tuple:
        """The pieces that can."""
        return tuple(reading.piece for reading in self.readings if reading.piece)

    @property
    def count(self) -> CardCount:
        """The card as the tally takes it."""
        entry = self.entry
        return CardCount(entry.letter, entry.card.name, entry.each, entry.samples, entry.spares, self.pieces)


@dataclass(frozen=True)
class ClassSheet:
    """A class with all its lists read and its pieces counted."""

    card_class: CardClass
    cards: tuple[ReadCard, ...]
    counts: tuple[PieceCount, ...]

    @property
    def errors(self) -> int:
        """How many lines wait to be mended."""
        return sum(len(card.errors) for card in self.cards)

    @property
    def lines(self) -> int:
        """How many pieces are written."""
        return sum(len(card.pieces) for card in self.cards)

    @property
    def all_cards(self) -> int:
        """How many cards will be made."""
        return sum(card.count.cards(self.card_class.participants) for card in self.cards)

    @property
    def all_pieces(self) -> int:
        """How many pieces will be cut."""
        return sum(entry.count for entry in self.counts)


def entries(card_class: CardClass) -> list[ClassCard]:
    """The cards of a class that are not removed, in the order of their letters."""
    return list(card_class.class_cards.filter(card__removed_at=None).select_related("card"))


def read_class(card_class: CardClass) -> ClassSheet:
    """Read every list of the class and count its pieces."""
    known = stocks_of(card_class.owner)
    cards = tuple(ReadCard(entry, tuple(read_card(entry.card, known))) for entry in entries(card_class))
    counts = tally([card.count for card in cards], card_class.participants)
    return ClassSheet(card_class, cards, tuple(counts))


@transaction.atomic
def add_card(card_class: CardClass, name: str) -> ClassCard:
    """Put a new, empty card into a class; it gets the next free letter. Raises ZesterError when all 26 are taken."""
    taken = set(card_class.class_cards.values_list("letter", flat=True))
    free = [letter for letter in LETTERS if letter not in taken]
    if not free:
        raise ZesterError("A class holds 26 cards", mend="Make a second class of the rest")
    card = Card.objects.create(owner=card_class.owner, name=name, ruler=card_class.ruler)
    before = card_class.class_cards.filter(card__removed_at=None).first()
    each = before.each if before else 1
    return ClassCard.objects.create(card_class=card_class, card=card, letter=free[0], each=each)


def classes_of(user: AbstractBaseUser) -> list[CardClass]:
    """The user's classes, newest first."""
    return list(CardClass.objects.of(user))


def follow_paper_name(user: AbstractBaseUser, old_name: str, new_name: str) -> None:
    """After a paper was renamed, keep what the user's classes say of its pooling and its pinned layouts."""
    for card_class in CardClass.objects.of(user):
        for kept in (card_class.pools, card_class.pins):
            if old_name in kept:
                kept[new_name] = kept.pop(old_name)
        card_class.save(update_fields=["pools", "pins"])
