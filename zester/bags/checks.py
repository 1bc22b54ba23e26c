"""Checks that need no counting: weights, what looks alike, sides of matched pieces, the parcel."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from zester.bags.board import Board, ShownStack
from zester.core.kits.alike import looks_alike, sides_of
from zester.core.kits.coverage import bit_key
from zester.core.kits.packing import BIT, PIECE, Item, Kit
from zester.core.kits.weights import (
    Grammage,
    Parcel,
    Weight,
    bit_weight,
    grammage_of,
    in_the_bag,
    parcel_of,
    piece_weight,
    shows,
    weigh,
)
from zester.shelf.models import Bit

PLAIN = Grammage(80, True, 100)


@dataclass(frozen=True)
class Weights:
    """What everything of a class weighs."""

    pieces: dict[str, Weight]
    """By handle."""
    bits: dict
    """By ``coverage.bit_key`` grams of one, or of a metre; None where nobody wrote it."""
    sides: dict[str, tuple[int, int, int]]
    """By handle width, height (ticks) and thickness (micrometres)."""

    def of_bag(self, items: Iterable[Item]) -> Weight:
        """What such a bag weighs, without the bag itself."""
        return weigh(items, self.pieces, self.bits)

    def of_kit(self, kit: Kit) -> Weight:
        """What a kit weighs."""
        return self.of_bag(kit.items)

    def of_item(self, item: Item) -> Weight:
        """What one thing of an item weighs."""
        if item.kind == BIT:
            return bit_weight(item.key, 1, item.length, self.bits.get(bit_key(item.key, bool(item.length))))
        return self.pieces.get(item.key, Weight(0))


def weights_of(board: Board) -> Weights:
    """Worked out from the sizes and the grammage of the papers on the shelf."""
    papers = {paper.key: grammage_of(paper.weight, paper.caliper, paper.kind) for paper in board.counted.held.papers}
    pieces, sides, usual = {}, {}, board.counted.usual
    for each in board.counted.counts:
        piece, paper = each.piece, papers.get(each.piece.paper, PLAIN)
        pieces[each.handle] = piece_weight(piece, paper, middle_out=piece.paper in board.middles_out, usual=usual)
        sides[each.handle] = in_the_bag(piece, paper.caliper, usual)
    rows = Bit.objects.of(board.card_class.owner).values_list("name", "by_length", "grams")
    return Weights(pieces, {bit_key(name, by_length): grams for name, by_length, grams in rows}, sides)


@dataclass(frozen=True, kw_only=True)
class StackCheck:
    """Bags that hold the same, checked."""

    shown: ShownStack
    """The bags."""
    weight: Weight
    """What one weighs."""
    seen: tuple[str, ...]
    """What a scale of 1 g shows if it is missing, with its weight."""
    unseen: tuple[str, ...]
    """What it does not show: look for it."""
    alike: tuple[str, ...]
    """Pieces that are easily mixed up."""
    sides: tuple[str, ...]
    """Matched pieces."""


@dataclass(frozen=True, kw_only=True)
class KitCheck:
    """Kits that hold the same, checked."""

    what: str
    """What was ordered."""
    count: int
    """How many there are."""
    weight: Weight
    """What one weighs."""
    parcel: Parcel
    """Its size as a parcel."""


@dataclass(frozen=True)
class Checks:
    """All of it."""

    stacks: tuple[StackCheck, ...]
    """Bag by bag."""
    kits: tuple[KitCheck, ...]
    """Kit by kit."""
    unknown: tuple[str, ...]
    """Bits whose weight nobody wrote."""
    guessed: tuple[str, ...]
    """Papers whose weight nobody wrote."""


def checks_of(board: Board) -> Checks:
    """The checks of a class."""
    weights = weights_of(board)
    stacks = tuple(_stack(board, weights, shown) for shown in board.stacks)
    kits = tuple(_kits(board, weights))
    unknown = tuple(dict.fromkeys(name for kit in kits for name in kit.weight.unknown))
    used = {each.piece.paper for each in board.counted.counts if each.count}
    guessed = tuple(paper.name for paper in board.counted.held.papers if not paper.weight and paper.key in used)
    return Checks(stacks, kits, unknown, guessed)


def _stack(board: Board, weights: Weights, shown: ShownStack) -> StackCheck:
    whole = weights.of_bag(shown.stack.items)
    seen, unseen = [], []
    for item in shown.stack.items:
        one = weights.of_item(item)
        entry = board.pieces.get(item.key)
        name = f"{item.key} {entry.piece.name}" if entry else item.key
        (seen if shows(one, whole) else unseen).append(f"{name}, {one.grams} g" if one.grams else name)
    alike, sides = hints_of(board, shown)
    return StackCheck(
        shown=shown,
        weight=whole,
        seen=tuple(seen),
        unseen=tuple(unseen),
        alike=alike,
        sides=sides,
    )


def hints_of(board: Board, shown: ShownStack) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What is easily mixed up in such a bag, and which pieces belong to a side."""
    pieces = [(item.key, board.pieces[item.key].piece) for item in shown.stack.items if item.kind == PIECE]
    return tuple(looks_alike(dict(pieces), board.unit)), tuple(sides_of(pieces, board.unit))


def _kits(board: Board, weights: Weights) -> Iterable[KitCheck]:
    alike: dict[tuple, list[Kit]] = {}
    for each in board.kits:
        alike.setdefault((each.kit.what, tuple(sorted(each.kit.items))), []).append(each.kit)
    for (what, items), kits in alike.items():
        parcel = parcel_of(items, weights.sides)
        yield KitCheck(what=what or "kit", count=len(kits), weight=weights.of_kit(kits[0]), parcel=parcel)
