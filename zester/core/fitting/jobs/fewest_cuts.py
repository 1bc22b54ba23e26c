"""A layout once more in as few cuts as its parts allow where they lie: for whoever cuts a single sheet by hand.

    +--+--+-+-+-+-+        The strips end above the lower edge. Cut one after the other each of the six is trimmed by
    |  |  | | | | |        itself: eleven cuts. Trimmed all together first: six.
    +--+--+-+-+-+-+
    +-------------+

Exact, by dynamic programming over the rectangles that the parts' edges make (as for guillotine cutting with fixed
places: Beasley 1985 has the recursion); the parts stay where they are, only what is cut first changes.
"""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from zester.core.fitting.jobs.check_plan import Box, replay
from zester.core.fitting.jobs.plan import Cut, Layout, Named

# Of more parts the recursion would take a while; nobody cuts so many out of one sheet by hand.
MOST_PARTS = 24


def fewest_cuts(layout: Layout, width: int, height: int) -> Layout:
    """The layout of a sheet of this size (ticks) in as few cuts as can be; as it is if it has very many parts."""
    boxes = replay(layout, width, height)
    named = {boxes[part.part]: part for part in layout.parts}
    if not named or len(named) > MOST_PARTS or len(named) < len(layout.parts):
        return layout
    found = _Recut(tuple(named)).layout((0, 0, width, height), named)
    best = replace(layout, cuts=found[0], parts=found[1])
    return best if len(best.cuts) < len(layout.cuts) else layout


class _Recut:
    def __init__(self, boxes: tuple[Box, ...]):
        self.boxes = boxes
        self.best = cache(self._best)

    def _inside(self, region: Box) -> list[Box]:
        x, y, wide, high = region
        return [
            box
            for box in self.boxes
            if x <= box[0] and y <= box[1] and box[0] + box[2] <= x + wide and box[1] + box[3] <= y + high
        ]

    def _best(self, region: Box) -> tuple[int, str, int]:
        """How many cuts a region takes at least, and its first: along which axis, where from its edge."""
        mine = self._inside(region)
        if not mine or mine == [region]:
            return 0, "", 0
        ways = []
        for axis, start, side, length in (("y", 1, 3, region[3]), ("x", 0, 2, region[2])):
            edges = {edge - region[start] for box in mine for edge in (box[start], box[start] + box[side])}
            for at in sorted(edges - {0, length}):
                parts = split(region, axis, at)
                if sum(len(self._inside(part)) for part in parts) == len(mine):
                    ways.append((1 + sum(self.best(part)[0] for part in parts), axis, at))
        return min(ways, key=lambda way: way[0])

    def layout(self, whole: Box, named: dict[Box, Named]) -> tuple[tuple[Cut, ...], tuple[Named, ...]]:
        """The cuts in order, and the parts by their new numbers."""
        cuts: list[Cut] = []
        parts: list[Named] = []
        open_parts, number = [(0, whole)], 1
        while open_parts:
            part, region = open_parts.pop(0)
            _, axis, at = self.best(region)
            if axis:
                cuts.append(Cut(part, axis, at))
                open_parts[:0] = zip((number, number + 1), split(region, axis, at), strict=True)
                number += 2
            elif region in named:
                parts.append(replace(named[region], part=part))
        return tuple(cuts), tuple(sorted(parts, key=lambda each: each.part))


def split(region: Box, axis: str, at: int) -> tuple[Box, Box]:
    """The two parts of a region cut right across, the left or upper one first."""
    x, y, wide, high = region
    if axis == "x":
        return (x, y, at, high), (x + at, y, wide - at, high)
    return (x, y, wide, at), (x, y + at, wide, high - at)
