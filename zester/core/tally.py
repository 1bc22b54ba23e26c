"""How many of every piece a class needs, and the sum behind it in words.

demand lines (so many of a card, for a reason)  x  the card's list  ->  pieces and bits with their sums
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from zester.core.errors import ZesterError
from zester.core.letters import with_paper
from zester.core.pieces import Bit, CutPiece

MOST_PARTICIPANTS = 10_000
MOST_EACH = 100
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# What stands before the numbers of pieces that come once a person and belong to no card.
KIT = "Kit"
# How a kit gets a paper's pieces: cut from common sheets, from its own sheets, as portions, or not at all.
TOGETHER, OWN, PORTIONS, WITHOUT = "together", "own", "portions", "none"
# What marks a piece in whose place another paper is taken.
MARK = "′"
# What is taken in place of a piece that is left out.
LEFT_OUT = ""
# What stands before the name of a bit, in small letters, where papers and bits are taken in place of others.
BIT_SIGN = "+"


@dataclass(frozen=True)
class CardPieces:
    """What one card of a class is made of."""

    letter: str
    """Its letter in the class."""
    name: str
    """What people call it."""
    pieces: tuple[CutPiece, ...]
    """What is cut for one card."""
    bits: tuple[Bit, ...] = ()
    """What else one card takes."""


@dataclass(frozen=True)
class Demand:
    """So many of one card, for one reason."""

    card: str
    """The card's letter."""
    count: int
    """How many, 0 or more."""
    why: str
    """The reason as a term of a sum: ``14 people × 2``, ``1 sample``."""
    each: int = 0
    """How many of them every kit gets."""
    kits: int = 0
    """How many kits that is; 0 where nothing of it is handed out in kits."""
    pools: Mapping[str, str] = field(default_factory=dict)
    """By a paper's key how the kits get its pieces, where that is not from common sheets."""
    instead: Mapping[str, str] = field(default_factory=dict)
    """By a paper's key, a piece's handle or a bit's sign what is taken in its place; see ``taken_for``, ``bit_for``."""
    group: int = 0
    """Which kits: lines of one group are for the same kits."""
    bits: bool = True
    """Whether the card's bits are handed out with it."""


@dataclass(frozen=True)
class Share:
    """What so many kits get of a piece, handed out the same way."""

    pool: str
    """From common sheets, their own, or as portions."""
    kits: int
    """How many kits."""
    each: int
    """How many of the piece each of them gets."""
    group: int
    """Kits of one group get the same of every piece."""


@dataclass(frozen=True, kw_only=True)
class PieceCount:
    """How many of one piece the class needs."""

    handle: str
    """The card's letter and the piece's number; with a mark if another paper is taken in place of the written one."""
    card: str
    """The card's name."""
    piece: CutPiece
    """The piece itself, of the paper it is cut from."""
    count: int
    """How many in all."""
    why: str
    """The sum in words."""
    shares: tuple[Share, ...] = ()
    """What kits get of it."""
    written: str = ""
    """The key of the paper that its list says, if that is another."""

    @property
    def each(self) -> int:
        """What one kit gets, where all get the same."""
        return max((share.each for share in self.shares), default=0)


@dataclass(frozen=True)
class BitCount:
    """How much of one bit the class needs, by the count or by the length."""

    name: str
    """What it is."""
    count: int
    """How many; 0 where it goes by the length."""
    length: int
    """Ticks; 0 where it goes by the count."""
    why: str
    """The sum in words."""


@dataclass(frozen=True)
class Spare:
    """What is cut of every piece beyond need: so many, or a share of the need, rounded up."""

    number: int = 0
    """So many of each piece."""
    percent: int = 0
    """So many per cent of its count."""

    def of(self, count: int) -> int:
        """How many more of a piece of which so many are needed."""
        return self.number + -(-count * self.percent // 100) if count else 0

    def words(self, count: int) -> str:
        """The same as a term of a sum."""
        return f"{self.percent} % spare, rounded up" if self.percent else some(self.of(count), "spare")


NO_SPARE = Spare()


def own_demands(letter: str, *, samples: int, spares: int) -> list[Demand]:
    """What is made of a card beside what is handed out."""
    lines = [Demand(letter, samples, some(samples, "sample"))] if samples else []
    return lines + ([Demand(letter, spares, some(spares, "spare"))] if spares else [])


def cards_of(letter: str, demands: Iterable[Demand]) -> int:
    """How many of the card are made in all."""
    return sum(demand.count for demand in demands if demand.card == letter)


def cards_made(card: CardPieces, demands: Iterable[Demand]) -> int:
    """How many of a card anything is cut for: not those of people who bring all of its paper themselves."""
    papers = {piece.paper for piece in card.pieces}
    return sum(
        demand.count
        for demand in demands
        if demand.card == card.letter
        and not (papers and all(demand.pools.get(paper, TOGETHER) == WITHOUT for paper in papers))
    )


def sum_in_words(letter: str, demands: Iterable[Demand]) -> str:
    """``14 people × 2 + 1 sample = 29 cards``."""
    mine = [demand for demand in demands if demand.card == letter]
    total = sum(demand.count for demand in mine)
    words = " + ".join(demand.why for demand in mine) or "nobody"
    return f"{words} = {some(total, 'kit' if letter == KIT else 'card')}"


def card_of(handle: str) -> str:
    """The card's letter in a piece's handle, with the mark of another paper: of ``A12`` it is ``A``."""
    return f"{handle.rstrip('0123456789' + MARK)}{MARK * handle.count(MARK)}"


def people(count: int) -> str:
    """``1 person``, ``14 people``."""
    return f"{count:,} {'person' if count == 1 else 'people'}"


def some(number: int, word: str) -> str:
    """``1 card``, ``1,200 cards``."""
    return f"{number:,} {word}{'' if number == 1 else 's'}"


def tally(
    cards: Sequence[CardPieces],
    demands: Sequence[Demand],
    spare: Spare = NO_SPARE,
    directions: Mapping[str, str] | None = None,
) -> list[PieceCount]:
    """Every piece of every card with its count, in the order of the cards and their lists.

    Parameters
    ----------
    cards, demands
        What is made, and how many for which reason.
    spare
        What is cut beyond that of every piece that somebody gets.
    directions
        By its key how pieces may lie on a paper, for papers that are taken in place of others.

    Raises
    ------
    ZesterError
        If a demand is for a card that is not among them, or for less than none.
    """
    _check(cards, demands)
    of: dict[str, list[Demand]] = {card.letter: [] for card in cards}
    for demand in demands:
        of[demand.card].append(demand)
    counts = []
    for card in cards:
        for piece in card.pieces:
            counts += _counts(card, piece, of[card.letter], spare, directions or {})
    return counts


def taken_for(instead: Mapping[str, str], handle: str, paper: str) -> str:
    """What a piece of a paper is cut from: ``KEY``, ``KEY|a`` or ``KEY|b``, ``LEFT_OUT`` if it is left out."""
    return instead.get(handle, instead.get(paper, paper))


def bit_key_of(name: str) -> str:
    """What a bit is known by among what is taken in place of others."""
    return f"{BIT_SIGN}{name.casefold()}"


def bit_for(instead: Mapping[str, str], bit: Bit) -> Bit:
    """The bit, or the one that is taken in its place: as many, as long."""
    taken = instead.get(bit_key_of(bit.name))
    return replace(bit, name=taken.removeprefix(BIT_SIGN)) if taken else bit


def paper_and_side(taken: str) -> tuple[str, str]:
    """The paper, and the side that shows; the side is empty where it is the written one."""
    paper, _, side = taken.partition("|")
    return paper, side


def _counts(
    card: CardPieces, piece: CutPiece, lines: list[Demand], spare: Spare, directions: Mapping[str, str]
) -> list[PieceCount]:
    """One piece: as written, and from each paper that is taken in its place."""
    by_paper: dict[str, list[Demand]] = {piece.paper: []}
    handle = f"{card.letter}{piece.number}"
    for demand in lines:
        if demand.pools.get(piece.paper, TOGETHER) != WITHOUT:
            by_paper.setdefault(taken_for(demand.instead, handle, piece.paper), []).append(demand)
    by_paper.pop(LEFT_OUT, None)
    found = []
    for number, (taken, mine) in enumerate(by_paper.items()):
        paper, side = paper_and_side(taken)
        cut = piece if taken == piece.paper else with_paper(piece, paper, directions.get(taken, "free"), side)
        written = "" if paper == piece.paper else piece.paper
        found.append(_count(card, cut, f"{handle}{MARK * number}", mine, spare, written))
    return found


def _count(
    card: CardPieces, piece: CutPiece, handle: str, lines: list[Demand], spare: Spare, written: str
) -> PieceCount:
    total, words = cards_of(card.letter, lines), sum_in_words(card.letter, lines)
    count = total * piece.count
    what = "kit" if card.letter == KIT else "card"
    why = f"{words}; {piece.count} in each {what}: {total:,} × {piece.count} = {count:,}"
    extra = 0 if piece.filler else spare.of(count)
    if extra:
        why += f"; + {spare.words(count)} = {count + extra:,}"
    shares = tuple(
        Share(_pool(demand, piece.paper), demand.kits, demand.each * piece.count, demand.group)
        for demand in lines
        if demand.kits
    )
    return PieceCount(
        handle=handle, card=card.name, piece=piece, count=count + extra, why=why, shares=shares, written=written
    )


def _pool(demand: Demand, paper: str) -> str:
    """How kits get a paper that is cut for them; one they get nothing else of, taken in place of another, is cut."""
    pool = demand.pools.get(paper, TOGETHER)
    return TOGETHER if pool == WITHOUT else pool


def tally_bits(cards: Sequence[CardPieces], demands: Sequence[Demand]) -> list[BitCount]:
    """The bits of all cards, those of one name added up, in the order they come up. Raises as ``tally`` does."""
    _check(cards, demands)
    counts: dict[tuple[str, bool], list[tuple[int, str]]] = {}
    names: dict[str, str] = {}
    for card in cards:
        lines = [demand for demand in demands if demand.bits and demand.card == card.letter]
        for bit in card.bits if cards_of(card.letter, lines) or not card.letter.startswith("+") else ():
            # Where one is taken in place of another both are counted, each for its own kits.
            totals = {bit: 0} if not lines else {}
            for demand in lines:
                taken = bit_for(demand.instead, bit)
                totals[taken] = totals.get(taken, 0) + demand.count
            for taken, total in totals.items():
                names.setdefault(taken.name.casefold(), taken.name)
                key = taken.name.casefold(), bool(taken.length)
                counts.setdefault(key, []).append((total * (taken.length or taken.count), _of_cards(card, total)))
    return [
        BitCount(
            names[name],
            0 if by_length else sum(amount for amount, _ in amounts),
            sum(amount for amount, _ in amounts) if by_length else 0,
            " + ".join(words for _, words in amounts),
        )
        for (name, by_length), amounts in counts.items()
    ]


def _of_cards(card: CardPieces, total: int) -> str:
    """``29 cards of A``, ``14 kits``; what an order brings along is named by it."""
    if card.letter.startswith("+"):
        return f"{total:,} × {card.name}"
    return some(total, "kit") if card.letter == KIT else f"{some(total, 'card')} of {card.letter}"


def _check(cards: Sequence[CardPieces], demands: Sequence[Demand]) -> None:
    letters = {card.letter for card in cards}
    for demand in demands:
        if demand.card not in letters:
            raise ZesterError(f"There is no card {demand.card}", mend="Put it into the class, or take the demand away")
        if demand.count < 0 or demand.each < 0:
            raise ZesterError(f"{demand.count} of card {demand.card} cannot be made", mend="Write 0 or more")
