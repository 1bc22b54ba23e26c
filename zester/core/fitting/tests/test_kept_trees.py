"""Cut trees drawn in a line, against what is kept beside it: peeled, filled, turned, tightened, in margins.

``x6(0[6x4] -[4x4])`` is cut at x = 6 into a piece of size 0, 6 × 4, and a rest of 4 × 4.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

from zester.core.fitting.jobs.job import Margins
from zester.core.fitting.parts import (
    ANY_CUT,
    CutLimits,
    Part,
    along,
    beside,
    cut_part,
    grid_tree,
    left_beside,
    peel,
    rotate,
    tighten,
    with_margins,
)

KEPT = Path(__file__).parent / "data" / "trees.txt"
LIMITS = (ANY_CUT, CutLimits(12), CutLimits(10))


def leaf(width: int, height: int, size: int | None = None) -> Part:
    return Part(width=width, height=height, size=size)


def drawn(tree: Part) -> str:
    """A tree in a line."""
    if not tree.axis:
        return f"{'-' if tree.size is None else tree.size}[{tree.width}x{tree.height}]"
    first, second = tree.halves
    return f"{tree.axis}{tree.at}({drawn(first)} {drawn(second)})"


ROW = cut_part(10, 4, "x", 6, leaf(6, 4, 0), leaf(4, 4))
COLUMN = cut_part(4, 10, "y", 6, leaf(4, 6, 0), leaf(4, 4, 1))
LONG = cut_part(20, 4, "x", 6, leaf(6, 4, 0), leaf(14, 4, 1))
BOTH = cut_part(10, 8, "x", 4, cut_part(4, 8, "y", 3, leaf(4, 3, 0), leaf(4, 5)), leaf(6, 8, 1))
LOOSE = (
    leaf(4, 4, 0),
    leaf(2, 4, 0),
    leaf(3, 2, 0),
    BOTH,
    cut_part(10, 8, "x", 4, leaf(4, 8, 0), leaf(6, 8, 1)),
    cut_part(10, 8, "y", 3, leaf(10, 3, 0), leaf(10, 5, 1)),
    cut_part(12, 8, "x", 4, COLUMN.halves[0], cut_part(8, 8, "y", 3, leaf(8, 3, 2), leaf(8, 5, 1))),
    cut_part(10, 8, "x", 4, leaf(4, 8), leaf(6, 8, 1)),
    cut_part(10, 8, "y", 4, leaf(10, 4, 1), leaf(10, 4)),
    cut_part(9, 9, "x", 4, leaf(4, 9, 0), cut_part(5, 9, "y", 4, leaf(5, 4, 1), leaf(5, 5, 1))),
)
PEELED = ((2, 8, 10, 20), (8, 2, 20, 10), (4, 4, 10, 10), (10, 4, 10, 10), (4, 10, 10, 10), (10, 10, 10, 10),
          (6, 5, 12, 10), (6, 5, 10, 12), (18, 2, 20, 10), (2, 18, 10, 20), (3, 4, 12, 13), (3, 4, 13, 12))  # fmt: skip
SIDES = ((0, 0, 0, 0), (1, 0, 0, 0), (0, 2, 0, 0), (0, 0, 3, 0), (0, 0, 0, 4), (1, 2, 3, 4))


def told() -> Iterator[str]:
    """What becomes of each."""
    for wide, high, width, height in PEELED:
        for limits in LIMITS:
            tree = peel(width, height, leaf(wide, high, 0), limits)
            yield f"peel {wide}x{high} off {width}x{height}, longest {limits.longest}: {drawn(tree)}"
    for grid in ((17, 9, 0, 4, 3), (8, 6, 1, 4, 3), (4, 3, 0, 4, 3), (9, 3, 0, 4, 3), (4, 7, 0, 4, 3)):
        yield f"grid {grid}: {drawn(grid_tree(*grid))}"
    for name, tree in (("row", ROW), ("column", COLUMN), ("long", LONG), ("one", leaf(5, 4, 0))):
        for sides in SIDES:
            for limits in LIMITS:
                whole = with_margins(tree, Margins(*sides), limits)
                yield f"{name} in margins {sides}, longest {limits.longest}: {drawn(whole)}"
    for turns in range(5):
        yield f"turned {turns}: {drawn(rotate(BOTH, turns))}"
    for tree in LOOSE:
        yield f"{drawn(tree)} tightened: {drawn(tighten(tree, [(3, 2), (5, 4), (2, 6)]))}"


class KeptTreesTests(TestCase):
    maxDiff = None

    def test_trees_are_as_kept(self):
        self.assertEqual("\n".join(told()) + "\n", KEPT.read_text(encoding="utf-8"))

    def test_beside_each_other(self):
        self.assertEqual(drawn(beside(leaf(2, 3, 0), leaf(4, 3, 1), "x")), "x2(0[2x3] 1[4x3])")
        self.assertEqual(drawn(beside(leaf(3, 2, 0), leaf(3, 4, 1), "y")), "y2(0[3x2] 1[3x4])")
        self.assertEqual([drawn(left_beside(leaf(2, 3), 5, axis)) for axis in "xy"], ["-[5x3]", "-[2x5]"])
        self.assertEqual([along(leaf(2, 3), axis) for axis in "xy"], [2, 3])


if __name__ == "__main__":
    KEPT.parent.mkdir(exist_ok=True)
    KEPT.write_text("\n".join(told()) + "\n", encoding="utf-8")
