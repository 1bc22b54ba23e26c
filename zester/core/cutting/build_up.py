"""How errors build up: what every piece can be off by when the rail is set a little wrong.

What is measured is off by what the rail is off by, however its part came about. What remains is off by as much as the
part was, and by one setting for every cut that was measured from it:

    |  4 ± e  |  4 ± e  |  what remains: ± 2e  |

Where a part came out too small for the last strip, that strip takes all there is. Worst cases, as intervals; sheets
are taken to be true.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from zester.core.cutting.steps import KEEP, PIECE, PILE, WASTE, Step
from zester.core.errors import sure


@dataclass(frozen=True)
class Spread:
    """The least and the most a side can come out at, ticks."""

    least: int
    """Ticks."""
    most: int
    """Ticks."""

    def off(self, side: int) -> int:
        """How far from the side that is wanted, ticks."""
        return max(side - self.least, self.most - side)

    def joined(self, other: Spread | None) -> Spread:
        """Both together."""
        return self if other is None else Spread(min(self.least, other.least), max(self.most, other.most))


@dataclass(frozen=True, kw_only=True)
class PieceError:
    """What the pieces of a pile can be off by."""

    label: str
    """Whose they are."""
    size: tuple[int, int]
    """Width and height that are wanted, as they lie on the sheet."""
    width: Spread
    """How wide they can come out."""
    height: Spread
    """How high."""
    off: int
    """The larger of the two errors, ticks."""
    remained: bool
    """Whether a side of some of them is what remained."""


def errors_of(steps: Iterable[Step], error: int) -> list[PieceError]:
    """What the pieces of every pile, by how they lay on the sheet, can be off by.

    Each setting of the rail is off by ``error`` ticks at most.
    """
    sides: dict[tuple[Any, ...], tuple[Spread, Spread, bool]] = {}
    for step in steps:
        whole = _known(sides, step) if step.source == PILE else None
        width, height, remained = whole or (exact(step.width), exact(step.height), False)
        along = width if step.axis == "x" else height
        measured, rest = _cut(along, step.at, step.cuts, error)
        for result in step.results:
            side = result.width if step.axis == "x" else result.height
            spread: Spread | None = measured if result.rest < result.count else None
            if result.rest or side != step.at:
                spread = rest.joined(spread)
            mine_off = sure(spread)
            wide, high = (mine_off, height) if step.axis == "x" else (width, mine_off)
            name = (result.kind, result.label)
            key = name if result.kind == PILE else (*name, result.width, result.height)
            before = sides.get(key)
            mine = remained or bool(result.rest)
            sides[key] = (
                wide.joined(before[0] if before else None),
                high.joined(before[1] if before else None),
                mine or bool(before and before[2]),
            )
    return [
        PieceError(
            label=key[1],
            size=key[2:],
            width=wide,
            height=high,
            off=max(wide.off(key[2]), high.off(key[3])),
            remained=remained,
        )
        for key, (wide, high, remained) in sides.items()
        if key[0] == PIECE
    ]


def _known(sides: dict[tuple[Any, ...], tuple[Any, ...]], step: Step) -> tuple[Any, ...] | None:
    """What is known of the parts a step takes: of its pile, or of what was left over in that size."""
    left = [sides.get((kind, "", step.width, step.height)) for kind in (KEEP, WASTE)]
    return sides.get((PILE, step.source_label)) or next((each for each in left if each), None)


def exact(side: int) -> Spread:
    """A side that is true."""
    return Spread(side, side)


def _cut(along: Spread, at: int, cuts: int, error: int) -> tuple[Spread, Spread]:
    """What comes off, of all cuts together, and what remains."""
    measured = None
    for _ in range(cuts):
        strip = Spread(max(0, min(at - error, along.least)), min(at + error, along.most))
        along = Spread(max(0, along.least - at - error), max(0, along.most - at + error))
        measured = strip.joined(measured)
    return sure(measured), along
