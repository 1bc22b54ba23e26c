"""Greedy packing: piece after piece into the free part where it fits best, opening a sheet when it fits none.

Every free part is a rectangle that edge-to-edge cuts have made; a piece goes into its corner, and two cuts free the
rest, the longer or the shorter way round (best-fit guillotine packing; see Jylänki 2010 for a survey of the choices):

    +-----+-----+     +-----+-----+
    |piece|     |     |piece|     |
    +-----+     |  or +-----+-----+
    |     |     |     |           |
    +-----+-----+     +-----------+

Quick and rough; what it finds is a start for jobs of few pieces, where columns made for many copies serve badly.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

from zester.core.fitting.parts import Part, cut_part

MOST_PIECES = 250


@dataclass
class _Free:
    """A part still free or, once used, cut: the piece's size and its two free rests, or how it is cut in two."""

    width: int
    height: int
    cut: tuple[str, int, _Free, _Free] | None = None
    size: int | None = None

    def tree(self) -> Part:
        if self.cut is None:
            return Part(width=self.width, height=self.height, size=self.size)
        axis, at, first, second = self.cut
        return cut_part(self.width, self.height, axis, at, first.tree(), second.tree())

    def divide(self, axis: str, at: int) -> tuple[_Free, _Free]:
        if axis == "x":
            sides = _Free(at, self.height), _Free(self.width - at, self.height)
        else:
            sides = _Free(self.width, at), _Free(self.width, self.height - at)
        self.cut = (axis, at, *sides)
        return sides


@dataclass(kw_only=True)
class _Packing:
    width: int
    height: int
    longer: bool
    sheets: list[_Free] = field(default_factory=list)
    free: list[_Free] = field(default_factory=list)

    def place(self, size: int, ways: Sequence[tuple[int, int]]) -> None:
        best = None
        for number, part in enumerate(self.free):
            for wide, high in ways:
                if wide <= part.width and high <= part.height:
                    score = min(part.width - wide, part.height - high), part.width * part.height
                    if best is None or score < best[0]:
                        best = score, number, wide, high
        if best is None:
            self.sheets.append(_Free(self.width, self.height))
            self.free.append(self.sheets[-1])
            wide, high = next(way for way in ways if way[0] <= self.width and way[1] <= self.height)
            best = (0, 0), len(self.free) - 1, wide, high
        _, number, wide, high = best
        self._cut_out(self.free.pop(number), size, wide, high)

    def _cut_out(self, part: _Free, size: int, wide: int, high: int) -> None:
        across_first = (part.width - wide >= part.height - high) == self.longer
        for axis in "xy" if across_first else "yx":
            side, at = (part.width, wide) if axis == "x" else (part.height, high)
            if at < side:
                part, rest = part.divide(axis, at)
                self.free.append(rest)
        part.size = size


def greedy_sheets(
    width: int, height: int, sizes: Sequence[tuple[int, int, bool]], demands: Sequence[int], tries: int
) -> Iterator[list[Part]]:
    """Cut trees of sheets that hold everything, one list a try; nothing if there are too many pieces.

    ``sizes`` are (width, height, may turn). The first tries go by area and by the longer side, the next ones by the
    same with some luck, from a fixed seed.
    """
    if sum(demands) > MOST_PIECES:
        return
    dice = random.Random(7)
    pieces = [index for index, demand in enumerate(demands) for _ in range(demand)]
    keys: list[Callable[[int], int]] = [
        lambda k: -sizes[k][0] * sizes[k][1],
        lambda k: -max(sizes[k][:2]),
        lambda k: -min(sizes[k][:2]),
    ]
    for number in range(tries):
        key = keys[number // 2 % len(keys)]
        luck = 0.0 if number < 2 * len(keys) else 0.4
        order = sorted(pieces, key=lambda k: key(k) * (1 + luck * dice.random()))
        packing = _Packing(width=width, height=height, longer=number % 2 == 0)
        for index in order:
            wide, high, turn = sizes[index]
            packing.place(index, ((wide, high), (high, wide)) if turn else ((wide, high),))
        yield [sheet.tree() for sheet in packing.sheets]
