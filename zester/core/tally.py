"""How many of every piece a class needs, and the sum behind it in words.

demand lines (so many of a card, for a reason)  x  the card's list  ->  pieces and bits with their sums
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from zester.core.errors import ZesterError
from zester.core.pieces import Bit, CutPiece

MOST_PARTICIPANTS = 10_000
MOST_EACH = 100
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


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
    """How many of them every participant gets."""


@dataclass(frozen=True, kw_only=True)
class PieceCount:
    """How many of one piece the class needs."""

    handle: str
    """The card's letter and the piece's number."""
    card: str
    """The card's name."""
    piece: CutPiece
    """The piece itself."""
    count: int
    """How many in all."""
    why: str
    """The sum in words."""
    each: int = 0
    """One person's share."""


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


def usual_demands(letter: str, *, people: int, each: int, samples: int = 0, spares: int = 0) -> list[Demand]:
    """The demand lines of a class in which everybody makes as many of a card."""
    lines = [Demand(letter, people * each, f"{people:,} {'person' if people == 1 else 'people'} × {each}", each)]
    lines += [Demand(letter, samples, _some(samples, "sample"))] if samples else []
    lines += [Demand(letter, spares, _some(spares, "spare"))] if spares else []
    return lines


def cards_of(letter: str, demands: Iterable[Demand]) -> int:
    """How many of the card are made in all."""
    return sum(demand.count for demand in demands if demand.card == letter)


def sum_in_words(letter: str, demands: Iterable[Demand]) -> str:
    """``14 people × 2 + 1 sample = 29 cards``."""
    mine = [demand for demand in demands if demand.card == letter]
    total = sum(demand.count for demand in mine)
    return f"{' + '.join(demand.why for demand in mine) or 'nobody'} = {_some(total, 'card')}"


def _some(number: int, word: str) -> str:
    return f"{number:,} {word}{'' if number == 1 else 's'}"


def tally(cards: Sequence[CardPieces], demands: Sequence[Demand]) -> list[PieceCount]:
    """Every piece of every card with its count, in the order of the cards and their lists.

    Raises
    ------
    ZesterError
        If a demand is for a card that is not among them, or for less than none.
    """
    _check(cards, demands)
    counts = []
    for card in cards:
        total, words = cards_of(card.letter, demands), sum_in_words(card.letter, demands)
        each = sum(demand.each for demand in demands if demand.card == card.letter)
        for piece in card.pieces:
            count = total * piece.count
            why = f"{words}; {piece.count} in each card: {total:,} × {piece.count} = {count:,}"
            handle = f"{card.letter}{piece.number}"
            counts.append(
                PieceCount(handle=handle, card=card.name, piece=piece, count=count, why=why, each=each * piece.count)
            )
    return counts


def tally_bits(cards: Sequence[CardPieces], demands: Sequence[Demand]) -> list[BitCount]:
    """The bits of all cards, those of one name added up, in the order they come up. Raises as ``tally`` does."""
    _check(cards, demands)
    counts: dict[tuple[str, bool], list[tuple[int, str]]] = {}
    for card in cards:
        total = cards_of(card.letter, demands)
        for bit in card.bits:
            key = bit.name.casefold(), bool(bit.length)
            amount = bit.length or bit.count
            counts.setdefault(key, []).append((total * amount, f"{_some(total, 'card')} of {card.letter}"))
    names = {bit.name.casefold(): bit.name for card in reversed(cards) for bit in card.bits}
    return [
        BitCount(
            names[name],
            0 if by_length else sum(amount for amount, _ in amounts),
            sum(amount for amount, _ in amounts) if by_length else 0,
            " + ".join(words for _, words in amounts),
        )
        for (name, by_length), amounts in counts.items()
    ]


def _check(cards: Sequence[CardPieces], demands: Sequence[Demand]) -> None:
    letters = {card.letter for card in cards}
    for demand in demands:
        if demand.card not in letters:
            raise ZesterError(f"There is no card {demand.card}", mend="Put it into the class, or take the demand away")
        if demand.count < 0 or demand.each < 0:
            raise ZesterError(f"{demand.count} of card {demand.card} cannot be made", mend="Write 0 or more")
