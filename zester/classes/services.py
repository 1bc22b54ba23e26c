"""A class added up: its cards read, its pieces counted, the facts that lists show stored."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from functools import cached_property

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from zester.classes.models import CardClass, ClassCard, ClassPaper
from zester.classes.signals import class_counted
from zester.core.cards.study import versions_of
from zester.core.cutlist.lines import Reading
from zester.core.errors import ZesterError
from zester.core.pieces import Bit, Known
from zester.core.tally import (
    LETTERS,
    BitCount,
    CardPieces,
    Demand,
    PieceCount,
    cards_of,
    sum_in_words,
    tally,
    tally_bits,
    usual_demands,
)
from zester.designs.models import Card
from zester.designs.services import Holdings, holdings_of, read_card


@dataclass(frozen=True)
class ReadCard:
    """A card of a class with its list read."""

    entry: ClassCard
    """The card's place in the class."""
    readings: tuple[Reading, ...]
    """Its list, line by line."""

    @cached_property
    def errors(self) -> list[Reading]:
        """The lines that cannot be read."""
        return [reading for reading in self.readings if reading.error]

    @cached_property
    def pieces(self) -> tuple:
        """The pieces that can, of the version that is made."""
        found = (reading.piece for reading in self.readings if reading.piece)
        return tuple(piece for piece in found if piece.only in ("", self.entry.version))

    @property
    def versions(self) -> list[str]:
        """The versions its list names."""
        return versions_of(self.readings)

    @cached_property
    def bits(self) -> tuple[Bit, ...]:
        """The bits of the version that is made."""
        found = (reading.bit for reading in self.readings if reading.bit)
        return tuple(bit for bit in found if bit.only in ("", self.entry.version))

    @property
    def made_of(self) -> CardPieces:
        """The card as the tally takes it."""
        return CardPieces(self.entry.letter, self.entry.card.name, self.pieces, self.bits)


@dataclass(frozen=True)
class CountedClass:
    """A class with all its lists read and its pieces counted."""

    card_class: CardClass
    """The class."""
    cards: tuple[ReadCard, ...]
    """Its cards in the order of their letters."""
    demands: tuple[Demand, ...]
    """How many of each card, for which reason."""
    held: Holdings
    """The papers and tools the lists were read with."""

    @property
    def known(self) -> Known:
        """The same as lists name them."""
        return self.held.known

    @cached_property
    def counts(self) -> list[PieceCount]:
        """Every piece with its count."""
        return tally([card.made_of for card in self.cards], self.demands)

    @cached_property
    def bits(self) -> list[BitCount]:
        """Every bit with its count."""
        return tally_bits([card.made_of for card in self.cards], self.demands)

    @cached_property
    def names(self) -> dict[str, str]:
        """What the papers are called, by key."""
        return {paper.key: paper.name for paper in self.known.papers}

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
        return sum(demand.count for demand in self.demands)

    @property
    def all_pieces(self) -> int:
        """How many pieces will be cut."""
        return sum(entry.count for entry in self.counts)

    def cards_of(self, letter: str) -> int:
        """How many of a card will be made."""
        return cards_of(letter, self.demands)

    def why(self, letter: str) -> str:
        """The sum behind it in words."""
        return sum_in_words(letter, self.demands)


def entries(card_class: CardClass) -> list[ClassCard]:
    """The cards of a class that are not removed, in the order of their letters."""
    return list(card_class.class_cards.filter(removed_at=None, card__removed_at=None).select_related("card"))


def count_class(card_class: CardClass, held: Holdings | None = None) -> CountedClass:
    """Read every list of the class and count its pieces; ``held`` spares asking what its owner has once more."""
    held = held or holdings_of(card_class.owner)
    cards = tuple(ReadCard(entry, tuple(read_card(entry.card, held.known))) for entry in entries(card_class))
    demands = tuple(line for card in cards for line in _demands(card.entry, card_class.participants))
    return CountedClass(card_class, cards, demands, held)


def _demands(entry: ClassCard, people: int) -> list[Demand]:
    return usual_demands(entry.letter, people=people, each=entry.each, samples=entry.samples, spares=entry.spares)


@transaction.atomic
def recount(pk: int, held: Holdings | None = None, papers: set[str] | None = None) -> CountedClass | None:
    """Count a class anew, store the facts that lists show, and tell those who build on it; None if it is not there.

    Called whenever anything has changed that a class is made of: never when a page is only read. ``papers`` are the
    keys of those that what has changed is about, where that is known; what is needed of others is as it was.
    """
    card_class = CardClass.objects.select_for_update(of=("self",)).filter(pk=pk, removed_at=None).first()
    if card_class is None:
        return None
    if card_class.n_wrong or card_class.counted_at is None:
        # While lines could not be read nobody noted what was needed.
        papers = None
    counted = count_class(card_class, held)
    card_class.n_cards, card_class.n_lines, card_class.n_wrong = len(counted.cards), counted.lines, counted.errors
    card_class.n_pieces, card_class.n_bags = counted.all_pieces, counted.all_cards
    card_class.counted_at = timezone.now()
    card_class.save(update_fields=["n_cards", "n_lines", "n_wrong", "n_pieces", "n_bags", "counted_at"])
    class_counted.send(CardClass, counted=counted, papers=papers)
    return counted


def uncounted() -> list[int]:
    """The keys of classes whose counts are not stored, or not those of now."""
    return list(CardClass.objects.filter(counted_at=None, removed_at=None).values_list("pk", flat=True))


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
        move_card(there, None)
        return there
    taken = set(card_class.class_cards.values_list("letter", flat=True))
    free = [letter for letter in LETTERS if letter not in taken]
    if not free:
        raise ZesterError("A class holds 26 cards", mend="Make a second class of the rest")
    card.save()
    before = next(iter(entries(card_class)), None)
    each = before.each if before else 1
    entry = ClassCard.objects.create(card_class=card_class, card=card, letter=free[0], each=each)
    recount(card_class.pk)
    return entry


@transaction.atomic
def move_card(entry: ClassCard, out_at: datetime.datetime | None) -> None:
    """Take a card out of its class, or with None put it back; the design stays in the library."""
    entry.removed_at = out_at
    entry.save(update_fields=["removed_at"])
    recount(entry.card_class_id)


@transaction.atomic
def bring_class_back(card_class: CardClass) -> None:
    """Undo the removal of a class, with everything that has changed since."""
    card_class.restore()
    recount(card_class.pk)


def paper_of(card_class: CardClass, paper_pk: int) -> ClassPaper:
    """What the class wishes of a paper; made at the first wish."""
    return ClassPaper.objects.get_or_create(card_class=card_class, paper_id=paper_pk)[0]


def classes_of(user: AbstractBaseUser) -> list[CardClass]:
    """The user's classes, newest first."""
    return list(CardClass.objects.of(user))
