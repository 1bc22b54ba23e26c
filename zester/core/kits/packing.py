"""What goes into what: pieces and bits into bags, bags into kits, kits to people.

kits of the class (``demand.kits_of``)  x  the cards' lists  ->  for every kit its bags and what lies beside them

Everything that is cut and counted out lies in a kit, or is the teacher's own (samples, spare cards, spare pieces), so
that all kits and the teacher's own add up to the tally, piece by piece and bit by bit.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from zester.core.class_job import sharing
from zester.core.fitting.jobs.job import AT_HOME
from zester.core.kits.demand import (
    PERSON,
    ClassNeeds,
    KitsAlike,
    Picked,
    everybodys_papers,
    kits_of,
    picked_letters,
    pools_of,
)
from zester.core.pieces import Bit, CutPiece
from zester.core.tally import (
    KIT,
    MARK,
    NO_SPARE,
    TOGETHER,
    WITHOUT,
    CardPieces,
    PieceCount,
    Spare,
    bit_for,
    card_of,
    paper_and_side,
    taken_for,
)

# How many bags a kit has.
BY_CARD, BY_DESIGN, BY_KIT = "card", "design", "kit"
BAGGINGS = {
    BY_CARD: "a bag for every card",
    BY_DESIGN: "a bag for every design",
    BY_KIT: "everything of a kit in one bag",
}
PIECE, BIT, OPEN_CHOICE = "piece", "bit", "choice"
# A piece that is cut only where it costs nothing is put in as far as there are any.
IF_ANY = "if any"
ALL = "all"
ENVELOPE = "envelope"


@dataclass(frozen=True, order=True)
class Item:
    """So many of one thing."""

    kind: str
    """``piece``, ``bit``, or ``choice``: a paper that somebody has still to choose."""
    key: str
    """Of a piece its handle, of a bit its name, of a choice the offer's key."""
    count: int
    """How many."""
    length: int = 0
    """Of a bit that goes by the length what each of them measures, ticks."""
    how: str = TOGETHER
    """How a piece gets there: cut, as a portion or a whole sheet that is cut up at home, or only if there are any."""

    @property
    def at_home(self) -> bool:
        """Whether it is still part of a portion or a whole sheet."""
        return self.how in AT_HOME

    @property
    def is_counted(self) -> bool:
        """Whether it is taken from a pile: not what is still part of a sheet, or comes only if there is any."""
        return not self.at_home and self.how != IF_ANY and self.kind != OPEN_CHOICE


@dataclass(frozen=True, kw_only=True)
class Bag:
    """A bag of a kit."""

    key: str
    """What it is known by: the kit's key, and what the bag is for."""
    letter: str
    """The letter of its card; ``all`` if it holds those of all cards."""
    cards: int
    """How many cards can be made from it."""
    items: tuple[Item, ...]
    """What goes into it."""
    number: int = 0
    """Which of several bags of its card it is; 0 if there is one."""

    @property
    def name(self) -> str:
        """What is written on it: ``A``, ``A 2``."""
        return f"{self.letter} {self.number}" if self.number else self.letter


@dataclass(frozen=True, kw_only=True)
class Kit:
    """What one person gets of one order."""

    key: str
    """What it is known by: it stays the same as long as the order does."""
    offer: str
    """The key of what was ordered; empty if nothing can be."""
    what: str
    """What that is called, or why the kit is made."""
    person: str
    """The key of the person; empty if nobody with a name gets it."""
    origin: str
    """Whose it is, see ``demand``."""
    number: int
    """Which of the person's kits of that order it is, from 1; of those without a person, in all."""
    of: int
    """How many there are of them."""
    bags: tuple[Bag, ...]
    """Its bags."""
    beside: tuple[Item, ...]
    """What lies beside the bags: envelopes, what comes once a kit, portions and whole sheets, papers chosen."""

    @property
    def is_empty(self) -> bool:
        """Whether nothing is packed for it."""
        return not (self.bags or self.beside)

    @property
    def items(self) -> tuple[Item, ...]:
        """All that it holds."""
        return (*(item for bag in self.bags for item in bag.items), *self.beside)


@dataclass(frozen=True, kw_only=True)
class Stack:
    """Bags of one card that hold the same."""

    letter: str
    """The card's letter, or ``all``."""
    items: tuple[Item, ...]
    """What goes into each."""
    bags: tuple[tuple[Kit, Bag], ...]
    """The bags and whose they are, in the order of the kits."""


@dataclass(frozen=True, kw_only=True)
class Packed:
    """A whole class, packed."""

    kits: tuple[Kit, ...]
    """Every kit, in the order of the people's list."""
    own: tuple[Bag, ...]
    """What the teacher keeps: a bag for the samples of a card, one for its spare cards; it belongs to no kit."""
    spare: tuple[Item, ...]
    """Pieces beyond need."""

    @property
    def kits_in_all(self) -> int:
        """How many kits there are that hold anything."""
        return sum(not kit.is_empty for kit in self.kits)

    @property
    def bags_in_all(self) -> int:
        """How many bags the kits have."""
        return sum(len(kit.bags) for kit in self.kits)

    @property
    def pieces_in_bags(self) -> int:
        """How many pieces are counted into them."""
        bags = (bag for kit in self.kits for bag in kit.bags)
        return sum(item.count for bag in bags for item in bag.items if item.kind == PIECE and item.is_counted)

    @cached_property
    def by_key(self) -> dict[str, Kit]:
        """The kits by key."""
        return {kit.key: kit for kit in self.kits}

    @cached_property
    def bags(self) -> dict[str, tuple[Kit, Bag]]:
        """The bags by key, each with its kit."""
        return {bag.key: (kit, bag) for kit in self.kits for bag in kit.bags}

    @cached_property
    def stacks(self) -> tuple[Stack, ...]:
        """The bags design by design; those of one card that hold something else stand after its most usual ones."""
        found: dict[tuple[str, tuple[Item, ...]], list[tuple[Kit, Bag]]] = {}
        letters: dict[str, None] = {}
        for kit in self.kits:
            for bag in kit.bags:
                letters[bag.letter] = None
                found.setdefault((bag.letter, bag.items), []).append((kit, bag))
        order = {letter: place for place, letter in enumerate(sorted(letters))}
        rows = sorted(found.items(), key=lambda entry: (order[entry[0][0]], -len(entry[1])))
        return tuple(Stack(letter=letter, items=items, bags=tuple(bags)) for (letter, items), bags in rows)

    @cached_property
    def in_all(self) -> Counter[tuple[str, str, bool]]:
        """Everything added up: by kind, key and whether it goes by the length; lengths in ticks."""
        found: Counter[tuple[str, str, bool]] = Counter()
        bags = [bag for kit in self.kits for bag in kit.bags]
        for item in (
            *(item for bag in (*bags, *self.own) for item in bag.items),
            *(item for kit in self.kits for item in kit.beside),
            *self.spare,
        ):
            found[item.kind, item.key, bool(item.length)] += item.count * (item.length or 1)
        return found


def pack(
    needs: ClassNeeds,
    cards: Sequence[CardPieces],
    counts: Sequence[PieceCount],
    chosen: Sequence[Picked] = (),
    *,
    spare: Spare = NO_SPARE,
    bagging: str = BY_DESIGN,
) -> Packed:
    """Every kit of a class with what is in it.

    Parameters
    ----------
    needs
        All that decides how much is made.
    cards
        What each card, and the kit list, is made of.
    counts
        The tally of the same: it gives pieces their handles, and says how each paper is handed out.
    chosen
        The papers that may be chosen, as ``demand.picked`` gives them.
    spare
        What is cut beyond need of every piece.
    bagging
        ``card``, ``design`` or ``kit``.
    """
    packer = _Packer(needs, cards, counts, chosen, bagging)
    kits = packer.kits()
    own = packer.own()
    return Packed(kits=tuple(kits), own=tuple(own), spare=tuple(packer.spare(kits, own, spare)))


def bags_made(
    needs: ClassNeeds,
    cards: Sequence[CardPieces],
    counts: Sequence[PieceCount],
    chosen: Sequence[Picked] = (),
    *,
    bagging: str = BY_DESIGN,
) -> int:
    """How many bags there are in all kits; takes what ``pack`` takes."""
    return _Packer(needs, cards, counts, chosen, bagging).bags_made()


class _Packer:
    def __init__(
        self,
        needs: ClassNeeds,
        cards: Sequence[CardPieces],
        counts: Sequence[PieceCount],
        chosen: Sequence[Picked],
        bagging: str,
    ):
        self.needs, self.bagging, self.counts = needs, bagging, counts
        self.cards = {card.letter: card for card in cards}
        self.handles = {
            (card_of(each.handle).rstrip(MARK), each.piece.number, each.piece.paper, each.piece.side): each.handle
            for each in counts
        }
        letters = zip(picked_letters(len(chosen)), chosen, strict=True)
        self.picks = {each.key: letter for letter, each in letters}
        self.people = {person.key: person for person in needs.people}
        by_paper: dict[str, list[PieceCount]] = {}
        for each in counts:
            by_paper.setdefault(each.piece.paper, []).append(each)
        self.shared = {paper: sharing(rows) for paper, rows in by_paper.items()}
        # Kits that are alike hold the same: worked out once.
        self.known: dict[tuple[Any, ...], tuple[tuple[Bag, ...], tuple[Item, ...]]] = {}

    def kits(self) -> list[Kit]:
        """Every kit, in order."""
        rows = kits_of(self.needs)
        of: Counter[str] = Counter()
        for row in rows:
            of[_whose(row)] += row.count
        so_far: Counter[str] = Counter()
        found = []
        for row in rows:
            for _ in range(row.count):
                whose = _whose(row)
                so_far[whose] += 1
                found.append(self._kit(row, so_far[whose], of[whose]))
        return found

    def bags_made(self) -> int:
        """How many bags they have."""
        return sum(row.count * len(self._contents(row)[0]) for row in kits_of(self.needs))

    def _kit(self, row: KitsAlike, number: int, of: int) -> Kit:
        key = f"{_whose(row)}-{number}"
        bags, beside = self._contents(row)
        return Kit(
            key=key,
            offer=row.offer.key,
            what=row.offer.name or row.why,
            person=row.person,
            origin=row.origin,
            number=number,
            of=of,
            bags=tuple(_of_kit(bag, key) for bag in bags),
            beside=(*beside, *self._choices(row)),
        )

    def _contents(self, row: KitsAlike) -> tuple[tuple[Bag, ...], tuple[Item, ...]]:
        known = row.offer.key, row.instead
        if known not in self.known:
            self.known[known] = self._worked_out(row)
        return self.known[known]

    def _worked_out(self, row: KitsAlike) -> tuple[tuple[Bag, ...], tuple[Item, ...]]:
        """The bags, without the kit in their keys, and what lies beside them but for papers that are chosen."""
        pools, instead = pools_of(row.offer, self.needs), dict(row.instead)
        home = self._home(row, pools, instead)
        bags: list[Bag] = []
        beside: list[Item] = []
        for counts in self.needs.cards:
            each = counts.each if row.offer.cards is None else row.offer.cards.get(counts.letter, 0)
            many = each * row.offer.sets
            card = self.cards.get(counts.letter)
            if not many or card is None:
                continue
            pieces = self._pieces(card, 1, pools, instead, home)
            beside += _times([item for item in pieces if item.at_home], many)
            one = [item for item in pieces if not item.at_home]
            mine = [bit_for(instead, bit) for bit in card.bits if row.offer.bits]
            bits = [(self._goes_in(bit) and bool(one), bit) for bit in mine]
            bags += self._bags(counts.letter, [*one, *(_bit(bit, 1) for inside, bit in bits if inside)], many)
            beside += [_bit(bit, many) for inside, bit in bits if not inside]
        if self.bagging == BY_KIT and bags:
            items = _added_up(item for bag in bags for item in bag.items)
            bags = [Bag(key=ALL, letter=ALL, cards=sum(bag.cards for bag in bags), items=items)]
        beside += self._once(row, pools, instead, home)
        return tuple(bags), _added_up(beside)

    def _goes_in(self, bit: Bit) -> bool:
        """Whether a bit goes into its card's bag: an envelope does where a bag is for a design, or for all."""
        return self.bagging != BY_CARD or ENVELOPE not in bit.name.casefold()

    def _bags(self, letter: str, one: list[Item], many: int) -> list[Bag]:
        if not one:
            return []
        if self.bagging == BY_CARD:
            items = _added_up(one)
            several = many > 1
            return [
                Bag(key=f"{letter}{n}" if several else letter, letter=letter, cards=1, items=items, number=n * several)
                for n in range(1, many + 1)
            ]
        return [Bag(key=letter, letter=letter, cards=many, items=_added_up(_times(one, many)))]

    def _once(self, row: KitsAlike, pools: Mapping[str, Any], instead: Mapping[str, Any], home: set[str]) -> list[Item]:
        """What comes once a kit: the kit list, and what the order brings along."""
        found = []
        if self.needs.has_kit_list and row.offer.kit_list and KIT in self.cards:
            card = self.cards[KIT]
            found += self._pieces(card, 1, pools, instead, home)
            found += [_bit(bit_for(instead, bit), 1) for bit in card.bits]
        return [*found, *(_bit(bit_for(instead, bit), 1) for bit in row.offer.extras)]

    def _choices(self, row: KitsAlike) -> tuple[Item, ...]:
        """Papers that whoever gets the kit chose, or has still to choose; sheets that come along."""
        choice = row.offer.choice
        along = [
            Item(PIECE, f"{self.picks[row.offer.key, goods.paper, True]}1", goods.count)
            for goods in row.offer.goods
            if (row.offer.key, goods.paper, True) in self.picks
        ]
        if choice is None:
            return _added_up(along)
        person = self.people.get(row.person)
        chosen = person.chosen if person else ()
        mine = choice.of(chosen)
        keys = [(row.offer.key, paper, False) for paper in mine]
        found = [*along, *(Item(PIECE, f"{self.picks[key]}1", 1) for key in keys if key in self.picks)]
        if choice.open(chosen):
            found.append(Item(OPEN_CHOICE, row.offer.key, choice.open(chosen)))
        return _added_up(found)

    def _pieces(
        self, card: CardPieces, many: int, pools: Mapping[str, str], instead: Mapping[str, str], home: set[str]
    ) -> list[Item]:
        found = []
        for piece in card.pieces:
            if pools.get(piece.paper, TOGETHER) == WITHOUT:
                continue
            paper, handle = self._taken(card.letter, piece, instead)
            if handle:
                how = _how(piece, self.shared[paper].pool if paper in home else TOGETHER)
                found.append(Item(PIECE, handle, piece.count * many, how=how))
        return found

    def _taken(self, letter: str, piece: CutPiece, instead: Mapping[str, str]) -> tuple[str, str]:
        """The paper a piece is cut from for such a kit, and its handle there; empty if it is left out."""
        paper, side = paper_and_side(taken_for(instead, f"{letter}{piece.number}", piece.paper))
        return paper, self.handles.get((letter, piece.number, paper, side or piece.side), "")

    def _home(self, row: KitsAlike, pools: Mapping[str, str], instead: Mapping[str, str]) -> set[str]:
        """The papers whose pieces such a kit gets as portions or whole sheets: it holds what those are made for."""
        mine: Counter[str] = Counter()
        pool_of: dict[str, str] = {}
        lists = [(counts.letter, counts.each) for counts in self.needs.cards]
        if self.needs.has_kit_list and row.offer.kit_list:
            lists.append((KIT, 1))
        for letter, usual in lists:
            each = usual if row.offer.cards is None or letter == KIT else row.offer.cards.get(letter, 0)
            each *= 1 if letter == KIT else row.offer.sets
            for piece in self.cards[letter].pieces if letter in self.cards and each else ():
                paper, handle = self._taken(letter, piece, instead)
                if pools.get(piece.paper, TOGETHER) != WITHOUT:
                    mine[handle] += piece.count * each
                    pool_of[paper] = pools.get(paper, TOGETHER)
        return {
            paper
            for paper, pool in pool_of.items()
            if pool in AT_HOME
            and self.shared[paper].pool == pool
            and all(mine[handle] == each for handle, each in self.shared[paper].each.items())
        }

    def own(self) -> list[Bag]:
        """What is made beside the kits: samples and spare cards."""
        instead = everybodys_papers(self.needs.instead)
        found = []
        for counts in self.needs.cards:
            for what, many in (("samples", counts.samples), ("spares", counts.spares)):
                if many and counts.letter in self.cards:
                    card = self.cards[counts.letter]
                    items = [
                        *self._pieces(card, many, {}, instead, set()),
                        *(_bit(bit_for(instead, bit), many) for bit in card.bits),
                    ]
                    key = f"{what}-{counts.letter}"
                    found.append(Bag(key=key, letter=counts.letter, cards=many, items=_added_up(items)))
        return found

    def spare(self, kits: Sequence[Kit], own: Sequence[Bag], spare: Spare) -> list[Item]:
        """Pieces beyond need, and papers that are cut for those who have not chosen."""
        needed: Counter[str] = Counter()
        held = (*(kit.items for kit in kits), *(bag.items for bag in own))
        for item in (item for items in held for item in items):
            if item.kind == PIECE:
                needed[item.key] += item.count
        found = []
        for each in self.counts:
            more = 0 if each.piece.filler else spare.of(needed[each.handle])
            if card_of(each.handle) in self.picks.values():
                more = each.count - needed[each.handle]
            if more:
                found.append(Item(PIECE, each.handle, more))
        return found


def _whose(row: KitsAlike) -> str:
    offer = row.offer.key or "0"
    return f"{PERSON}{row.person}-{offer}" if row.origin == PERSON else f"{row.origin}-{offer}"


def _of_kit(bag: Bag, kit: str) -> Bag:
    return Bag(key=f"{kit}-{bag.key}", letter=bag.letter, cards=bag.cards, items=bag.items, number=bag.number)


def _how(piece: CutPiece, pool: str) -> str:
    if piece.filler:
        return IF_ANY
    return pool if pool in AT_HOME else TOGETHER


def _bit(bit: Bit, many: int) -> Item:
    if bit.length:
        return Item(BIT, bit.name, many, bit.length)
    return Item(BIT, bit.name, bit.count * many)


def _times(items: Iterable[Item], many: int) -> list[Item]:
    return [Item(item.kind, item.key, item.count * many, item.length, item.how) for item in items]


def _added_up(items: Iterable[Item]) -> tuple[Item, ...]:
    """Things of one name together, in the order in which they come up."""
    found: dict[tuple[Any, ...], int] = {}
    for item in items:
        key = item.kind, item.key, item.length, item.how
        found[key] = found.get(key, 0) + item.count
    return tuple(Item(kind, key, count, length, how) for (kind, key, length, how), count in found.items())
