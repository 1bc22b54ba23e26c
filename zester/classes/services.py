"""A class added up: its cards read, its pieces counted, its five stations."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from zester.classes.models import CardClass, ClassCard
from zester.core.cards.study import versions_of
from zester.core.cutlist.lines import Reading
from zester.core.cutlist.pieces import Bit, Known
from zester.core.errors import ZesterError
from zester.core.tally import LETTERS, BitCount, CardCount, PieceCount, tally, tally_bits
from zester.designs.models import Card
from zester.designs.services import known_to, read_card


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
        """The pieces that can, of the version that is made."""
        found = (reading.piece for reading in self.readings if reading.piece)
        return tuple(piece for piece in found if piece.only in ("", self.entry.version))

    @property
    def versions(self) -> list[str]:
        """The versions its list names."""
        return versions_of(self.readings)

    @property
    def bits(self) -> tuple[Bit, ...]:
        """The bits of the version that is made."""
        found = (reading.bit for reading in self.readings if reading.bit)
        return tuple(bit for bit in found if bit.only in ("", self.entry.version))

    @property
    def count(self) -> CardCount:
        """The card as the tally takes it."""
        entry = self.entry
        return CardCount(entry.letter, entry.card.name, entry.each, entry.samples, entry.spares, self.pieces, self.bits)


@dataclass(frozen=True)
class ClassSheet:
    """A class with all its lists read and its pieces counted."""

    card_class: CardClass
    cards: tuple[ReadCard, ...]
    counts: tuple[PieceCount, ...]
    bits: tuple[BitCount, ...] = ()

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
    return list(card_class.class_cards.filter(removed_at=None, card__removed_at=None).select_related("card"))


def read_class(card_class: CardClass, known: Known | None = None) -> ClassSheet:
    """Read every list of the class and count its pieces; ``known`` spares asking what its owner has once more."""
    known = known or known_to(card_class.owner)
    cards = tuple(ReadCard(entry, tuple(read_card(entry.card, known))) for entry in entries(card_class))
    counts = tally([card.count for card in cards], card_class.participants)
    bits = tally_bits([card.count for card in cards], card_class.participants)
    return ClassSheet(card_class, cards, tuple(counts), tuple(bits))


@transaction.atomic
def add_card(card_class: CardClass, name: str) -> ClassCard:
    """Put a new, empty card into a class; it gets the next free letter. Raises ZesterError when all 26 are taken."""
    return use_card(card_class, Card(owner=card_class.owner, name=name, ruler=card_class.ruler))


@transaction.atomic
def use_card(card_class: CardClass, card: Card) -> ClassCard:
    """Put a card into a class, new or from the library; one that is or was there keeps its letter and counts.

    Raises ZesterError when all 26 letters are taken.
    """
    there = card_class.class_cards.filter(card=card).first() if card.pk else None
    if there:
        there.take_out(None)
        return there
    taken = set(card_class.class_cards.values_list("letter", flat=True))
    free = [letter for letter in LETTERS if letter not in taken]
    if not free:
        raise ZesterError("A class holds 26 cards", mend="Make a second class of the rest")
    card.save()
    before = next(iter(entries(card_class)), None)
    each = before.each if before else 1
    return ClassCard.objects.create(card_class=card_class, card=card, letter=free[0], each=each)


def entries_of(card: Card) -> list[ClassCard]:
    """Where a card is used: its entries in classes that are not removed."""
    return list(card.class_cards.used().select_related("card_class"))


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
