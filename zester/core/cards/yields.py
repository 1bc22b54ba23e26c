"""How many of one piece come out of one sheet by edge-to-edge cuts, and the nearest smaller size that gives more."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zester.core.fitting.patterns.knapsack import GuillotineTable, Item, TooManyPositions
from zester.core.fitting.patterns.positions import normal_positions
from zester.core.lengths import TICKS_PER_INCH
from zester.core.pieces import CutPiece, KnownPaper

SMALLER_BY = TICKS_PER_INCH // 8


@dataclass(frozen=True)
class Nearer:
    """A size a little smaller that gives more."""

    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int
    """How many of it come from a sheet."""


@lru_cache(maxsize=8192)
def most_of_one(width: int, height: int, sheet_width: int, sheet_height: int, turn: bool) -> int | None:
    """The most pieces of one size that a sheet gives, exactly; None where there are too many to tell quickly.

    By the same dynamic program as the fitting (Gilmore & Gomory 1966), every piece worth one.
    """
    ways = {(width, height), (height, width)} if turn else {(width, height)}
    xs = _positions({w for w, _ in ways}, sheet_width)
    ys = _positions({h for _, h in ways}, sheet_height)
    if len(xs) * len(ys) > 20_000:
        return None
    items = [Item(0, w, h) for w, h in ways if w <= sheet_width and h <= sheet_height]
    if not items:
        return 0
    try:
        table = GuillotineTable(xs, ys, items)
    except TooManyPositions:
        return None
    table.fill([1])
    return table.best(sheet_width, sheet_height)


def _positions(lengths: set[int], limit: int) -> np.ndarray:
    return normal_positions([(length, limit // length) for length in lengths], limit)


def from_sheet(piece: CutPiece, paper: KnownPaper) -> int | None:
    """How many of the piece come from a sheet of its paper."""
    return most_of_one(piece.width, piece.height, paper.width, paper.height, piece.turn)


def nearest_with_more(piece: CutPiece, paper: KnownPaper, step: int) -> Nearer | None:
    """The size that gives more from a sheet with the least taken off one side, at most an eighth of an inch.

    Only sizes at which so many sides just fill the sheet can give more, so only those are tried, nearest first.
    """
    now = from_sheet(piece, paper)
    if now is None:
        return None
    width, height = piece.width, piece.height
    if width == height:
        # A square, and the blank of a square or round die, stays one.
        sides = _just_filling(width, height, piece, paper, "x", step)
        sides |= _just_filling(height, width, piece, paper, "y", step)
        tries = [(width - side, side, side) for side in sides]
    else:
        tries = [(width - w, w, height) for w in _just_filling(width, height, piece, paper, "x", step)]
        tries += [(height - h, width, h) for h in _just_filling(height, width, piece, paper, "y", step)]
    for _, w, h in sorted(tries):
        # More than fill its area cannot come from the sheet; most sizes need no other look.
        if paper.width * paper.height // (w * h) <= now:
            continue
        more = most_of_one(w, h, paper.width, paper.height, piece.turn)
        if more is not None and more > now:
            return Nearer(w, h, more)
    return None


def _just_filling(side: int, other: int, piece: CutPiece, paper: KnownPaper, axis: str, step: int) -> set[int]:
    """Lengths a little under ``side`` at which some of them, and some of the other side, fill the sheet."""
    along, across = (paper.width, paper.height) if axis == "x" else (paper.height, paper.width)
    found = set()
    for room in {along, across} if piece.turn else {along}:
        most_others = room // other if piece.turn else 0
        for others in range(min(most_others, 12) + 1):
            rest = room - others * other
            times = rest // side + 1
            near = rest // times // step * step if rest > 0 else 0
            if max(step, side - SMALLER_BY) <= near < side:
                found.add(near)
    return found
