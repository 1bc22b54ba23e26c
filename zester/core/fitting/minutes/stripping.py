"""Sheets cut in alike strips, one size a strip: what somebody would do who cuts a few sheets by hand.

    +-----+-----+------+
    |  1  |  1  |      |    two strips of the first size, cut off at one setting and across at one more;
    +-----+-----+  3   |    at the ends of both the same of another size, if any fits;
    |  1  |  1  |      |    what is left beside them is a part like any other
    +--+--+--+--+------+
    |2 |  |2 |  | left |
    +--+--+--+--+------+

Which size, how it lies and along which side the strips are cut is chosen by how much they hold, with some chance.
"""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from zester.core.fitting.parts import Part, beside
from zester.core.fitting.patterns.problem import Problem, Stock

# What a choice is worth: its area to this power, changed so far by chance.
POWER, CHANCE = 0.5, (0.5, 1.5)


class _Strips(NamedTuple):
    """Alike strips of one size."""

    size: int
    width: int
    """Of a piece as it lies, ticks."""
    height: int
    axis: str
    """The side along which the strips are cut off."""
    strips: int
    pieces: int
    """In every strip."""


def strip_tree(problem: Problem, stock: Stock, most: Sequence[int], dice: random.Random) -> Part:
    """A cut tree of a sheet that makes no more than ``most`` of every size."""
    return _Stripping(problem, stock, most, dice).part(stock.width, stock.height, 1)


class _Stripping:
    def __init__(self, problem: Problem, stock: Stock, most: Sequence[int], dice: random.Random):
        self.problem, self.stock, self.left, self.dice = problem, stock, list(most), dice

    def part(self, width: int, height: int, alike: int) -> Part:
        """One of so many alike parts; what all of them make is taken from what is left."""
        chosen = max(self._choices(width, height, alike), key=self._worth, default=None)
        if chosen is None:
            return Part(width=width, height=height)
        self.left[chosen.size] -= chosen.strips * chosen.pieces * alike
        along_x = chosen.axis == "x"
        wide, high = (chosen.width, height) if along_x else (width, chosen.height)
        end = (wide, high - chosen.pieces * chosen.height) if along_x else (wide - chosen.pieces * chosen.width, high)
        strip = self._row(chosen, wide, high, self.part(*end, alike * chosen.strips) if all(end) else None)
        left = (width - chosen.strips * wide, height) if along_x else (width, height - chosen.strips * high)
        return _in_a_row(strip, chosen.strips, self.part(*left, alike) if all(left) else None, chosen.axis)

    def _row(self, chosen: _Strips, wide: int, high: int, end: Part | None) -> Part:
        piece = Part(width=chosen.width, height=chosen.height, size=chosen.size)
        return _in_a_row(piece, chosen.pieces, end, "y" if chosen.axis == "x" else "x")

    def _choices(self, width: int, height: int, alike: int) -> Iterator[_Strips]:
        for index, size in enumerate(self.problem.sizes):
            there = self.left[index] // alike
            if not there or not self.stock.allowed[index]:
                continue
            for wide, high in size.ways:
                across, down = width // wide, height // high
                if not across or not down:
                    continue
                for axis, most, row in (("x", across, down), ("y", down, across)):
                    strips = min(most, -(-there // row))
                    yield _Strips(index, wide, high, axis, strips, min(row, there // strips))
                    strips = self.dice.randint(1, strips)
                    yield _Strips(index, wide, high, axis, strips, self.dice.randint(1, min(row, there // strips)))

    def _worth(self, strips: _Strips) -> float:
        area = strips.width * strips.height * strips.strips * strips.pieces
        return float(area**POWER * self.dice.uniform(*CHANCE))


def _in_a_row(part: Part, count: int, end: Part | None, axis: str) -> Part:
    """So many alike parts one after the other, and what is at their end, if there is anything."""
    row = part if end is None else beside(part, end, axis)
    for _ in range(count - 1):
        row = beside(part, row, axis)
    return row
