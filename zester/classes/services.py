"""A class added up: its cards read, its pieces counted, the facts that lists show stored."""

from __future__ import annotations

import datetime
import logging
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from zester.classes.castings import cast_of, castings_of, faces_of, instead_of
from zester.classes.kept_shelf import as_kept
from zester.classes.models import (
    SOME,
    CardClass,
    Casting,
    ClassCard,
    ClassPaper,
    Order,
    Participant,
    Substitution,
    Trimmer,
)
from zester.classes.models import Offer as OfferRow
from zester.classes.signals import class_counted
from zester.core.cards.study import versions_of
from zester.core.casting.casting import Casting as Cast
from zester.core.casting.casting import cast_piece
from zester.core.cutlist.lines import Reading
from zester.core.cutlist.notation import read_list
from zester.core.errors import ZesterError
from zester.core.fitting.jobs.job import AT_HOME
from zester.core.kits.bit_words import ENVELOPE, kind_of
from zester.core.kits.demand import (
    ClassNeeds,
    Counts,
    Instead,
    Picked,
    demands_of,
    everybodys_papers,
    picked,
    picked_cards,
    seats_taken,
)
from zester.core.kits.goods import is_sheets, split_sheets
from zester.core.kits.offers import Choice, Offer, Person
from zester.core.kits.packing import Packed, bags_made, pack
from zester.core.kits.supplies import Supply, read_supplies, together
from zester.core.lengths import RULERS
from zester.core.letters import LETTER_NAMES, letter_of
from zester.core.pieces import Bit, CutPiece, Known
from zester.core.tally import (
    BIT_SIGN,
    KIT,
    LEFT_OUT,
    LETTERS,
    NO_SPARE,
    BitCount,
    CardPieces,
    Demand,
    PieceCount,
    Spare,
    bit_key_of,
    cards_made,
    cards_of,
    sum_in_words,
    tally,
    tally_bits,
)
from zester.core.usual_times import UsualTimes
from zester.designs.models import Card
from zester.designs.services import Holdings, copy_card, faults_in, holdings_by, read_card
from zester.shelf.models import Paper
from zester.site.owned import mine_or_404
from zester.site.prepared import prepared
from zester.site.regions import current

log = logging.getLogger(__name__)
_FACTS = ("n_uncast", "n_cards", "n_lines", "n_wrong", "n_faults", "n_pieces", "n_bags", "n_people", "bits")


@dataclass(frozen=True)
class ReadCard:
    """A card of a class with its list read."""

    entry: ClassCard
    """The card's place in the class."""
    readings: tuple[Reading, ...]
    """Its list, line by line."""
    envelope_of: str = ""
    """The letter of the card in whose envelope it goes; empty: it has its own."""
    cast: Cast | None = None
    """Which paper is which lettered sheet; None if nothing is cast."""
    faces: Mapping[tuple[str, str], str] = field(default_factory=dict)
    """By a paper's key and its side how pieces that show it may lie."""

    @cached_property
    def errors(self) -> list[Reading]:
        """The lines that cannot be read."""
        return [reading for reading in self.readings if reading.error]

    def faults(self, known: Known) -> int:
        """How much on it would spoil the card."""
        return faults_in(self.entry.card.cut_list, known, self.entry.card.ruler, self.entry.version)

    @cached_property
    def written(self) -> tuple[CutPiece, ...]:
        """The pieces that can, of the version that is made, as the list has them."""
        found = (reading.piece for reading in self.readings if reading.piece)
        return tuple(piece for piece in found if piece.only in ("", self.entry.version))

    @cached_property
    def pieces(self) -> tuple[CutPiece, ...]:
        """The same as they are cast: of the papers they are cut from, without those that are left out."""
        if self.cast is None:
            return self.written
        cast = (cast_piece(self.entry.letter, piece, self.cast, self.faces) for piece in self.written)
        return tuple(piece for piece in cast if piece)

    @cached_property
    def shown(self) -> dict[int, tuple[str, str] | None]:
        """By the number of a cast piece its paper and the side that shows, None if it is left out: for drawings."""
        now = {piece.number: piece for piece in self.pieces}
        return {
            piece.number: (now[piece.number].paper, now[piece.number].side) if piece.number in now else None
            for piece in self.written
            if letter_of(piece.paper) or now[piece.number].paper != piece.paper
        }

    @property
    def versions(self) -> list[str]:
        """The versions its list names."""
        return versions_of(self.readings)

    @cached_property
    def bits(self) -> tuple[Bit, ...]:
        """The bits of the version that is made, without an envelope where it goes into that of another card."""
        mine = tuple(bit for bit in self.written_bits if bit.only in ("", self.entry.version))
        return tuple(bit for bit in mine if kind_of(bit.name) != ENVELOPE) if self.envelope_of else mine

    @property
    def written_bits(self) -> tuple[Bit, ...]:
        """The bits as the list has them."""
        return tuple(reading.bit for reading in self.readings if reading.bit)

    @property
    def has_envelope(self) -> bool:
        """Whether its list has one."""
        return any(kind_of(bit.name) == ENVELOPE for bit in self.written_bits)

    @property
    def made_of(self) -> CardPieces:
        """The card as the tally takes it: without what is cut out of something else that is on it."""
        cut = [piece for piece in self.pieces if not piece.out_of]
        # What is left out here may be there in the kits of another casting.
        out = [number for number, shown in self.shown.items() if shown is None] if self.cast else []
        cut += [replace(piece, paper=LEFT_OUT) for piece in self.written if piece.number in out]
        return CardPieces(self.entry.letter, self.entry.card.name, tuple(sorted(cut, key=_number)), self.bits)


def _number(piece: CutPiece) -> int:
    return piece.number


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
    needs: ClassNeeds
    """All that decides how much is made."""
    castings: tuple[Casting, ...] = ()
    """Its castings, the one for everybody first; none if no list has a lettered sheet."""

    @property
    def known(self) -> Known:
        """The same as lists name them."""
        return self.held.known

    @cached_property
    def picked(self) -> list[Picked]:
        """The papers that may be chosen, with how many of each are planned."""
        return [each for each in picked(self.needs) if each.paper in self.names]

    @cached_property
    def counts(self) -> list[PieceCount]:
        """Every piece with its count: of the cards, of the kit list, and the papers that are chosen."""
        directions = {paper.key: paper.direction for paper in self.known.papers}
        directions |= {f"{paper.key}|{side}": paper.runs(side) for paper in self.known.papers for side in "ab"}
        more, lines = picked_cards(self.picked, directions)
        made = [card.made_of for card in self.cards]
        known = {card.letter for card in made}
        demands = [demand for demand in self.demands if demand.card in known]
        return tally([*made, *more], [*demands, *lines], self.spare, directions)

    @cached_property
    def bits(self) -> list[BitCount]:
        """Every bit with its count: of the cards, of the kit list, and what offers bring along."""
        extras = [CardPieces(f"+{each.key}", each.name, (), each.extras) for each in self.needs.offers if each.extras]
        made = [*(card.made_of for card in self.cards), *extras]
        return tally_bits(made, [demand for demand in self.demands if demand.card in {each.letter for each in made}])

    @property
    def spare(self) -> Spare:
        """What is cut beyond need of every piece."""
        return _spare(self.card_class) if self.card_class.spare_by == CardClass.SpareBy.PIECE else NO_SPARE

    @cached_property
    def usual(self) -> UsualTimes:
        """When what is done that no line says."""
        at_home = frozenset(paper for paper, pool in self.needs.pools.items() if pool in AT_HOME)
        return UsualTimes(before=frozenset(self.card_class.beforehand), by_people=at_home)

    @property
    def people(self) -> int:
        """How many come."""
        return seats_taken(self.needs)

    @property
    def designs(self) -> list[ReadCard]:
        """Its cards without the kit list."""
        return [card for card in self.cards if card.entry.letter != KIT]

    @cached_property
    def numbers(self) -> dict[str, int]:
        """By a card's letter its number in guides; none where nothing is cast."""
        return {card.entry.letter: at for at, card in enumerate(self.designs, 1)} if self.castings else {}

    @property
    def kit(self) -> ReadCard | None:
        """The kit list, if there is one."""
        return next((card for card in self.cards if card.entry.letter == KIT), None)

    @cached_property
    def names(self) -> dict[str, str]:
        """What the papers are called, by key."""
        return LETTER_NAMES | _names(self.held)

    @cached_property
    def instead(self) -> Mapping[str, str]:
        """By the key of a paper the one that everybody gets in its place."""
        return everybodys_papers(self.needs.instead)

    @property
    def errors(self) -> int:
        """How many lines wait to be mended."""
        return sum(len(card.errors) for card in self.cards)

    @property
    def faults(self) -> int:
        """How much on its designs would spoil a card."""
        return sum(card.faults(self.known) for card in self.designs)

    @property
    def lines(self) -> int:
        """How many pieces are written."""
        return sum(len(card.pieces) for card in self.cards)

    @property
    def all_cards(self) -> int:
        """How many cards will be made of what is cut here."""
        return sum(cards_made(card.made_of, self.demands) for card in self.designs)

    @property
    def brought_cards(self) -> int:
        """How many more are made of paper that people bring themselves."""
        return sum(self.cards_of(card.entry.letter) for card in self.designs) - self.all_cards

    @property
    def all_pieces(self) -> int:
        """How many pieces will be cut."""
        return sum(entry.count for entry in self.counts)

    def cards_of(self, letter: str) -> int:
        """How many of a card will be made."""
        return cards_of(letter, self.demands)

    @cached_property
    def packed(self) -> Packed:
        """Every kit with its bags, and what the teacher keeps."""
        return pack(
            self.needs,
            [card.made_of for card in self.cards],
            self.counts,
            self.picked,
            spare=self.spare,
            bagging=self.card_class.bagging,
        )

    @property
    def all_bags(self) -> int:
        """How many bags are packed."""
        made = [card.made_of for card in self.cards]
        return bags_made(self.needs, made, self.counts, self.picked, bagging=self.card_class.bagging)

    def why(self, letter: str) -> str:
        """The sum behind it in words."""
        return sum_in_words(letter, self.demands)


def entries(card_class: CardClass) -> list[ClassCard]:
    """The cards of a class that are not removed, as the class has them, in the order of their letters."""
    found = _cards_there(card_class.pk)
    for each in found:
        each.card_class = card_class
    return [each.as_held() for each in found]


@prepared
def _cards_there(card_class: int) -> QuerySet[ClassCard]:
    return ClassCard.objects.there().filter(card_class=card_class).select_related("card")


def count_class(card_class: CardClass, held: Holdings | None = None) -> CountedClass:
    """Read every list of the class and count its pieces; ``held`` spares asking what its owner has once more."""
    held = as_kept(held or holdings_by(card_class.owner_id), card_class.kept_shelf, card_class.owner_id)
    there = entries(card_class)
    # The one whose envelope it is has its own.
    own = {entry.letter for entry in there if not entry.envelope_of}
    cards = tuple(
        ReadCard(entry, tuple(read_card(entry.card, held.known)), entry.envelope_of if entry.envelope_of in own else "")
        for entry in there
    )
    needs = needs_of(card_class, [card.entry for card in cards], held)
    castings: tuple[Casting, ...] = ()
    if any(letter_of(piece.paper) for card in cards for piece in card.written):
        castings = tuple(castings_of(card_class.pk))
        cards = tuple(_cast(card, castings, held) for card in cards)
        more = instead_of(castings, [(card.entry.letter, card.written) for card in cards], _names(held))
        # What has run out has run out for every casting.
        needs = replace(needs, instead=(*more, *needs.instead))
    return CountedClass(card_class, cards, tuple(demands_of(needs)), held, needs, castings)


def _names(held: Holdings) -> dict[str, str]:
    return {paper.key: paper.name for paper in held.known.papers}


def _cast(card: ReadCard, castings: Sequence[Casting], held: Holdings) -> ReadCard:
    cast = cast_of(castings[0]).of_papers({paper.key for paper in held.papers}) if castings else None
    return replace(card, cast=cast, faces=faces_of(held.known.papers))


def _spare(card_class: CardClass) -> Spare:
    return Spare(card_class.spare_number, card_class.spare_percent)


def needs_of(card_class: CardClass, cards: Sequence[ClassCard], held: Holdings) -> ClassNeeds:
    """All that decides how much a class makes, as the core takes it."""
    by_kit = card_class.spare_by == CardClass.SpareBy.KIT
    names = {paper.pk: paper for paper in held.papers}
    people, offers = people_of(card_class), _offers(card_class.pk)
    return ClassNeeds(
        cards=tuple(
            Counts(letter=each.letter, each=each.each, samples=each.samples, spares=each.spares)
            for each in cards
            if each.letter != KIT
        ),
        unnamed=card_class.participants,
        unnamed_by=tuple((each.key, each.unnamed) for each in offers if each.unnamed),
        people=people,
        offers=tuple(_with_goods(offer, held) for offer in offers),
        give_aways=card_class.give_aways,
        spare_kits=_spare(card_class) if by_kit else NO_SPARE,
        instead=_instead(card_class, names),
        pools=dict(_pools(card_class.pk)),
        kinds={paper.key: "card" if paper.kind == "card" else "patterned" for paper in held.papers},
        has_kit_list=any(each.letter == KIT for each in cards),
    )


@prepared
def _offers(card_class: int) -> QuerySet[OfferRow]:
    return OfferRow.objects.filter(card_class=card_class)


@prepared
def _pools(card_class: int) -> QuerySet:
    return ClassPaper.objects.filter(card_class=card_class).exclude(pool="together").values_list("paper__key", "pool")


@prepared
def _people(card_class: int) -> QuerySet:
    mine = Participant.objects.filter(card_class=card_class)
    columns = ("pk", "name", "state", "chosen", "ordered_on", "sets", "amount", "goods", "member", "sent", "from_shelf")
    return mine.values_list(*columns)


@prepared
def _orders(card_class: int) -> QuerySet:
    mine = Order.objects.filter(participant__card_class=card_class).order_by("pk")
    return mine.values_list("participant_id", "offer_id", "count")


@prepared
def _substitutions(card_class: int) -> QuerySet[Substitution]:
    return Substitution.objects.filter(card_class=card_class)


def people_of(card_class: CardClass) -> tuple[Person, ...]:
    """Those with a name, in their order, as the core takes them."""
    rows = _people(card_class.pk)
    orders: dict[int, list[tuple[str, int]]] = {}
    if rows:
        for person, offer, count in _orders(card_class.pk):
            orders.setdefault(person, []).append((str(offer), count))
    return tuple(
        Person(
            key=str(pk),
            name=name,
            state=state,
            # Nothing ordered is one of everything, as the core has it.
            orders=tuple(orders.get(pk, ())) or ((("", sets),) if sets > 1 else ()),
            chosen=tuple(chosen),
            ordered_on=ordered_on,
            amount=amount,
            goods=goods,
            member=member,
            sent=sent,
            from_shelf=from_shelf,
        )
        for pk, name, state, chosen, ordered_on, sets, amount, goods, member, sent, from_shelf in rows
    )


def core_offer(offer: OfferRow) -> Offer:
    """An offer as the core takes it."""
    choice = None
    if offer.choose and offer.among and offer.choice_width and offer.choice_height:
        sides = {"width": offer.choice_width, "height": offer.choice_height}
        about = {"among": tuple(offer.among), "at_home": offer.choose_at_home}
        choice = Choice(number=min(offer.choose, len(offer.among)), **about, **sides)
    return Offer(
        key=offer.key,
        name=offer.name,
        sets=offer.sets,
        cards=dict(offer.cards) if offer.cards else None,
        pools=dict(offer.pools),
        extras=bits_of(offer.extras),
        kit_list=offer.kit_list,
        bits=offer.bits,
        price=offer.price,
        free_above=offer.free_above,
        free_from=offer.free_from,
        free_until=offer.free_until,
        free_below=offer.free_below,
        closes_on=offer.closes_on,
        limit=offer.limit,
        later_price=offer.later_price,
        later_from=offer.later_from,
        member_price=offer.member_price,
        with_post=offer.with_post,
        choice=choice,
    )


def _with_goods(offer: OfferRow, held: Holdings) -> Offer:
    """An offer with the sheets that come along, which only the shelf knows."""
    made = core_offer(offer)
    if not any(map(is_sheets, offer.extras.splitlines())):
        return made
    goods, others = split_sheets(offer.extras, held.known.papers, usable(held.papers))
    return replace(made, goods=goods, extras=bits_of(others))


def usable(papers: Iterable[Paper]) -> dict[str, tuple[int, int]]:
    """By a paper's key what can be used of its sheet within the margins, ticks."""
    return {
        paper.key: (
            paper.width - paper.margins.left - paper.margins.right,
            paper.height - paper.margins.top - paper.margins.bottom,
        )
        for paper in papers
    }


@lru_cache(maxsize=512)
def bits_of(text: str, ruler: str = "in16") -> tuple[Bit, ...]:
    """What comes with an offer, written like the bits of a list, one a line."""
    lines = "\n".join(f"+ {line.strip().removeprefix('+').strip()}" for line in text.splitlines() if line.strip())
    return tuple(reading.bit for reading in read_list(lines, Known(), RULERS[ruler]) if reading.bit)


def _instead(card_class: CardClass, papers: dict[int, Paper]) -> tuple[Instead, ...]:
    rows = _substitutions(card_class.pk)
    some = [row.pk for row in rows if row.who == SOME]
    people: dict[int, set[str]] = {}
    if some:
        chosen = Substitution.people.through.objects.filter(substitution__in=some)
        for row, person in chosen.values_list("substitution_id", "participant_id"):
            people.setdefault(row, set()).add(str(person))
    found = []
    for row in rows:
        about = {"who": row.who, "people": frozenset(people.get(row.pk, ())), "last": row.last, "since": row.since}
        if row.bit:
            keys = {"paper": bit_key_of(row.bit), "other": f"{BIT_SIGN}{row.other_bit}", "name": row.other_bit}
            found.append(Instead(**keys, **about))
        elif row.paper_id in papers and row.other_id in papers:
            other = papers[row.other_id]
            found.append(Instead(paper=papers[row.paper_id].key, other=other.key, name=other.name, **about))
    return tuple(found)


@prepared
def _class_held(pk: int) -> QuerySet[CardClass]:
    mine = CardClass.objects.select_for_update(of=("self",)).filter(pk=pk, removed_at=None)
    return mine.select_related("trimmer")


@transaction.atomic
def recount(pk: int, held: Holdings | None = None) -> CountedClass | None:
    """Count a class anew, store the facts that lists show, and tell those who build on it; None if it is not there.

    Called whenever anything has changed that a class is made of.
    """
    found = _class_held(pk)
    return _recounted(found[0], held, None) if found else None


@transaction.atomic
def await_count(pk: int, papers: set[str] | None) -> None:
    """Note that a class is to be counted anew, for these papers or for all, by whoever looks at it next.

    A list that is typed changes with every letter; it is counted when its page asks for the sheets, which it does as
    soon as typing rests. Where no page asks any more a worker finds it.
    """
    found = _class_held(pk)
    waits = found and found[0].counted_at is None
    if not found or (waits and not found[0].touched):
        return
    touched = sorted({*papers, *(found[0].touched if waits else ())}) if papers else []
    CardClass.objects.filter(pk=pk).update(counted_at=None, touched=touched)


@transaction.atomic
def count_awaited(pk: int) -> CountedClass | None:
    """Count a class anew if that is still to be done; None if it is not."""
    found = _class_held(pk)
    if not found or found[0].counted_at is not None:
        return None
    return _recounted(found[0], None, set(found[0].touched) or None)


def class_or_404(user: AbstractBaseUser, pk: int, *related: str) -> CardClass:
    """The user's own class with this key, counted, with what it is read with; 404 if there is none."""
    card_class = mine_or_404(CardClass, user, pk, *related)
    return mine_or_404(CardClass, user, pk, *related) if settle([card_class]) else card_class


def settle(classes: Iterable[CardClass]) -> bool:
    """Count those that wait for it; whether any did. Where that cannot be done they are looked at as they are."""
    waiting = [each.pk for each in classes if each.counted_at is None]
    for pk in waiting:
        try:
            count_awaited(pk)
        except Exception:
            # A full disk, or a fault of ours: no reason to keep anybody from what is there.
            log.exception("class %s could not be counted for its page", pk)
    return bool(waiting)


def _recounted(card_class: CardClass, held: Holdings | None, papers: set[str] | None) -> CountedClass:
    """The same of a class that nobody else has.

    ``papers`` are the keys of those that what has changed is about, where that is known; what is needed of others is
    as it was.
    """
    if card_class.n_wrong or any(map(letter_of, papers or ())):
        # While lines could not be read nobody noted what was needed; a letter may be any paper.
        papers = None
    counted = count_class(card_class, held)
    card_class.n_cards, card_class.n_lines, card_class.n_wrong = len(counted.designs), counted.lines, counted.errors
    card_class.n_faults = counted.faults
    card_class.n_uncast = sum(entry.count for entry in counted.counts if letter_of(entry.piece.paper))
    card_class.n_pieces, card_class.n_bags = counted.all_pieces, counted.all_bags
    card_class.n_people = counted.people
    card_class.bits = [[bit.name, bit.count, bit.length, bit.why] for bit in counted.bits]
    card_class.counted_at, card_class.touched = timezone.now(), []
    card_class.save(update_fields=[*_FACTS, "counted_at", "touched"])
    class_counted.send(CardClass, counted=counted, papers=papers)
    return counted


def usual_trimmer(user: AbstractBaseUser, ruler: str = "in16") -> Trimmer:
    """The trimmer a new class is cut with: that of the newest class, else the first one; made if there is none."""
    mine = Trimmer.objects.of(user)
    newest = CardClass.objects.of(user).filter(trimmer__removed_at=None).exclude(trimmer=None).order_by("-pk").first()
    unit = RULERS[ruler].unit
    found = (newest and newest.trimmer) or mine.first()
    if found is None:
        found = Trimmer.usual(unit, owner=user)
        found.save()
    return found


@transaction.atomic
def open_class(card_class: CardClass, *, ruler: str = "") -> CardClass:
    """Store a new class with what is usual for its owner: the trimmer; ruler and times of the newest class.

    ``ruler`` is the one that was asked for; without it and without another class it is the region's.
    """
    newest = CardClass.objects.of(card_class.owner).order_by("-pk").first()
    card_class.ruler = ruler or (newest.ruler if newest else current().ruler)
    if newest:
        card_class.beforehand = newest.beforehand
    card_class.trimmer = usual_trimmer(card_class.owner, card_class.ruler)
    card_class.save()
    recount(card_class.pk)
    return card_class


def same_times_everywhere(card_class: CardClass) -> list[int]:
    """What is done before this class is done before all classes to come; the keys of those that had it otherwise."""
    coming = CardClass.objects.of(card_class.owner).filter(closed_at=None).exclude(pk=card_class.pk)
    coming = coming.filter(Q(date=None) | Q(date__gte=timezone.localdate()))
    others = [each.pk for each in coming if set(each.beforehand) != set(card_class.beforehand)]
    CardClass.objects.filter(pk__in=others).update(beforehand=card_class.beforehand)
    return others


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
    before = next((entry for entry in entries(card_class) if entry.letter != KIT), None)
    return _with_letter(card_class, card, {"each": before.each if before else 1})


@transaction.atomic
def also_make(entry: ClassCard, version: str) -> ClassCard:
    """Another version of a card of a class, with a letter of its own, so that each is ordered by itself.

    Nobody gets it until an offer or the counts say so.

    Raises
    ------
    ZesterError
        If the class makes it already, or all 26 letters are taken.
    """
    made = entry.card_class.class_cards.filter(card=entry.card_id, version=version)
    there = made.filter(removed_at=None).first()
    if there:
        raise ZesterError(f"The class makes that already, as {there.letter}", mend="Set its counts below")
    gone = made.first()
    if gone:
        move_card(gone, None)
        return gone
    more = {"version": version, "each": 0, "samples": 1}
    return _with_letter(entry.card_class, entry.card, more)


def _with_letter(card_class: CardClass, card: Card, counts: Mapping[str, object]) -> ClassCard:
    """A card put into a class under the next free letter."""
    taken = set(card_class.class_cards.values_list("letter", flat=True))
    free = [letter for letter in LETTERS if letter not in taken]
    if not free:
        raise ZesterError("A class holds 26 cards", mend="Make a second class of the rest")
    card.save()
    entry = ClassCard.objects.create(card_class=card_class, card=card, letter=free[0], **counts)
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


def supplies_named(classes: Sequence[CardClass]) -> list[tuple[Supply, tuple[str, ...]]]:
    """What the designs of these classes name as supplies, each once, with the cards it is for."""
    return supplies_in((entry for each in classes for entry in entries(each)), by_letter=len(classes) == 1)


def supplies_in(cards: Iterable[ClassCard], *, by_letter: bool) -> list[tuple[Supply, tuple[str, ...]]]:
    """The same of cards that are read already; they are named by their letters, or with their class, too."""
    lists = []
    for entry in cards:
        where = entry.letter if by_letter else f"{entry.card_class.title} {entry.letter}"
        try:
            lists.append((where, read_supplies(entry.card.supplies)))
        except ZesterError:
            # Written before there were rules for it: the design's form says what is wrong.
            continue
    return together(lists)


def hold_class(pk: int) -> CardClass:
    """The class with this key: nobody else changes it until the transaction ends; whoever counts it holds it, too."""
    return CardClass.objects.select_for_update(of=("self",)).get(pk=pk)


def classes_of(user: AbstractBaseUser) -> list[CardClass]:
    """The user's classes, newest first."""
    return _classes(user.pk)


@prepared
def _classes(owner: int) -> QuerySet[CardClass]:
    return CardClass.objects.filter(owner=owner, removed_at=None)


@transaction.atomic
def begin_kit_list(card_class: CardClass) -> ClassCard:
    """The kit list of a class; an empty one if there was none."""
    there = card_class.class_cards.filter(letter=KIT).first()
    if there:
        if there.removed_at is not None:
            move_card(there, None)
        return there
    card = Card.objects.create(
        owner=card_class.owner, name=f"Kit list of {card_class.title}"[:60], ruler=card_class.ruler, is_kit=True
    )
    entry = ClassCard.objects.create(card_class=card_class, card=card, letter=KIT, each=1, samples=0)
    recount(card_class.pk)
    return entry


_COPIED = ("title", "time", "minutes", "where", "place", "repeats", "capacity", "notes", "participants", "give_aways")
_COPIED += ("spare_by", "spare_number", "spare_percent", "offcuts_first", "ruler", "trimmer", "stack", "keep_short")
_COPIED += ("post_inside", "post_abroad", "costs", "post_rates")
_COPIED += ("keep_long", "longest_cut", "narrowest", "auto_fit", "bagging", "beforehand", "spread")


# What a copy of a class takes over of a card beside its design.
_OF_A_CARD = ("letter", "version", "each", "samples", "spares", "envelope_of")


# What other apps have of a class that is planned once more: given the class and the new one.
_COPIED_TOO: list[Callable[[CardClass, CardClass], None]] = []


def register_copied(copy_more: Callable[[CardClass, CardClass], None]) -> None:
    """Be asked to copy it."""
    _COPIED_TOO.append(copy_more)


@transaction.atomic
def copy_class(card_class: CardClass, *, people: bool = False) -> CardClass:
    """The class once more, at its next date: its cards, offers and wishes, not its plans.

    With ``people`` those who came are asked again. Papers taken in place of others are not copied: they had run out.
    """
    after = next_date(card_class.date, card_class.repeats)
    deadline = card_class.order_by and card_class.date and after and after - (card_class.date - card_class.order_by)
    fields = {name: getattr(card_class, name) for name in _COPIED}
    new = CardClass.objects.create(owner=card_class.owner, date=after, order_by=deadline, **fields)
    for entry in entries(card_class):
        card = copy_card(entry.card, entry.card.name) if entry.letter == KIT else entry.card
        if entry.letter == KIT:
            card.is_kit = True
            card.save(update_fields=["is_kit"])
        counts = {name: getattr(entry, name) for name in _OF_A_CARD}
        ClassCard.objects.create(card_class=new, card=card, **counts)
    offers = {}
    for offer in card_class.offers.all():
        before = offer.pk
        offer.pk, offer.card_class = None, new
        offer.save()
        offers[before] = offer
    for wish in card_class.papers.exclude(pool="together"):
        ClassPaper.objects.create(card_class=new, paper_id=wish.paper_id, pool=wish.pool)
    for row in card_class.castings.all():
        Casting.objects.create(card_class=new, name=row.name, cast=row.cast, last=row.last)
    if people:
        _ask_again(card_class, new, offers)
    for copy_more in _COPIED_TOO:
        copy_more(card_class, new)
    recount(new.pk)
    return new


def _ask_again(card_class: CardClass, new: CardClass, offers: dict[int, OfferRow]) -> None:
    came = card_class.people.exclude(state="cancelled").prefetch_related("orders")
    for person in came:
        fields = {name: getattr(person, name) for name in ("name", "contact", "address", "sets", "member", "sent")}
        again = Participant.objects.create(card_class=new, state="asked", **fields)
        for order in person.orders.all():
            Order.objects.create(participant=again, offer=offers[order.offer_id], count=order.count)


def next_date(date: datetime.date | None, repeats: str) -> datetime.date | None:
    """The next time: a week or two later, or the same weekday of the next month (the second Friday, say)."""
    if date is None:
        return None
    if repeats in (CardClass.Repeats.WEEK, CardClass.Repeats.TWO_WEEKS):
        return date + datetime.timedelta(weeks=1 if repeats == CardClass.Repeats.WEEK else 2)
    which = (date.day - 1) // 7
    first = (date.replace(day=1) + datetime.timedelta(days=32)).replace(day=1)
    found = first + datetime.timedelta(days=(date.weekday() - first.weekday()) % 7 + 7 * which)
    # A fifth Friday is the last one where a month has only four.
    return found if found.month == first.month else found - datetime.timedelta(days=7)
