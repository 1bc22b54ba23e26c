"""How many of every piece a class needs, and the sum behind it in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.cutlist.pieces import Bit, CutPiece

MOST_PARTICIPANTS = 10_000
MOST_EACH = 100
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


@dataclass(frozen=True)
class CardCount:
    """One card of a class: how many each participant makes, the teacher's samples, and spares."""

    letter: str
    name: str
    each: int
    samples: int
    spares: int
    pieces: tuple[CutPiece, ...]
    bits: tuple[Bit, ...] = ()

    def cards(self, participants: int) -> int:
        """How many of this card are made in all."""
        return participants * self.each + self.samples + self.spares

    def sum_in_words(self, participants: int) -> str:
        """``14 people × 2 + 1 sample + 0 spares = 29 cards``, leaving out what is nothing."""
        terms = [f"{participants} {'person' if participants == 1 else 'people'} × {self.each}"]
        terms += [_some(self.samples, "sample")] if self.samples else []
        terms += [_some(self.spares, "spare")] if self.spares else []
        return f"{' + '.join(terms)} = {_some(self.cards(participants), 'card')}"


@dataclass(frozen=True)
class PieceCount:
    """How many of one piece the class needs; ``why`` is the sum in words, ``each`` one person's share."""

    handle: str
    card: str
    piece: CutPiece
    count: int
    why: str
    each: int = 0


def _some(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


def tally(cards: Sequence[CardCount], participants: int) -> list[PieceCount]:
    """Every piece of every card with its count, in the order of the cards and their lists."""
    counts = []
    for card in cards:
        total = card.cards(participants)
        for piece in card.pieces:
            count = total * piece.count
            why = f"{card.sum_in_words(participants)}; {piece.count} in each card: {total} × {piece.count} = {count}"
            handle = f"{card.letter}{piece.number}"
            counts.append(PieceCount(handle, card.name, piece, count, why, card.each * piece.count))
    return counts


@dataclass(frozen=True)
class BitCount:
    """How much of one bit the class needs, by the count or by the length in ticks; the sum in words."""

    name: str
    count: int
    length: int
    why: str


def tally_bits(cards: Sequence[CardCount], participants: int) -> list[BitCount]:
    """The bits of all cards, those of one name added up, in the order they come up."""
    counts: dict[tuple[str, bool], list[tuple[int, str]]] = {}
    for card in cards:
        total = card.cards(participants)
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
