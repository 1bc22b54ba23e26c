"""Which pieces share a sheet: pieces of two sheets shared out anew between them, until every card's letters are apart.

    two sheets --thrown together--> every way to share their pieces out --fewest faults first--> one that comes out

A local search with a large neighbourhood (Shaw 1998): two sheets hold a dozen pieces, so all ways can be looked at.
"""

from __future__ import annotations

import random
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from typing import Protocol, TypeVar

from zester.core.tally import some

# A card's number and the letter its list says: what of it comes out of one sheet.
Unit = tuple[int, str]
Size = tuple[int, int]
# Of two sheets so many pieces may go to the other one at a time: 4096 ways.
MOVING = 13
# So many ways of a pair are tried on the sheet before another pair is taken.
TRIED = 80
# After so many pairs without fewer faults another number of sheets is worth more.
STANDING = 400
# Of so many pieces all boxes are still found in a moment.
MOST = 10


class Shared(Protocol):
    """A piece that comes out of some sheet."""

    @property
    def unit(self) -> Unit:
        """Whose it is."""

    @property
    def size(self) -> Size:
        """Width and height, ticks."""


P = TypeVar("P", bound=Shared)


@lru_cache(maxsize=1 << 17)
def boxes(sizes: tuple[Size, ...], width: int, height: int, turn: bool) -> tuple[Size, ...]:
    """The smallest boxes, width and height in ticks, out of which these pieces come with cuts from edge to edge.

    Only those that a sheet of ``width`` x ``height`` holds. ``sizes`` are in order; ``turn``: pieces may be turned.
    """
    if len(sizes) == 1:
        stands = (sizes[0], sizes[0][::-1]) if turn else sizes
        return _least({size for size in stands if size[0] <= width and size[1] <= height})
    found: set[Size] = set()
    for one, other in _halves(sizes):
        # Most halves that cannot be are seen at the smaller one.
        mine = boxes(one, width, height, turn)
        for w, h in mine and boxes(other, width, height, turn):
            for wide, high in mine:
                if w + wide <= width:
                    found.add((w + wide, max(h, high)))
                if h + high <= height:
                    found.add((max(w, wide), h + high))
    return _least(found)


def _halves(sizes: tuple[Size, ...]) -> set[tuple[tuple[Size, ...], tuple[Size, ...]]]:
    """Every way to part pieces in two, the first among the first, alike ones once."""
    first, rest = sizes[:1], sizes[1:]
    found = set()
    for mask in range((1 << len(rest)) - 1):
        one = first + tuple(size for at, size in enumerate(rest) if mask >> at & 1)
        found.add((one, tuple(size for at, size in enumerate(rest) if not mask >> at & 1)))
    return found


def _least(found: set[Size]) -> tuple[Size, ...]:
    """Without those that hold another one."""
    kept: list[Size] = []
    for wide, high in sorted(found):
        if not kept or high < kept[-1][1]:
            kept.append((wide, high))
    return tuple(kept)


def comes_out(sizes: Iterable[Size], width: int, height: int, *, turn: bool = True) -> bool | None:
    """Whether pieces of these sizes come out of one sheet; None where they are too many to know at once."""
    sizes = tuple(sorted(sizes))
    if sum(wide * high for wide, high in sizes) > width * height:
        return False
    if len(sizes) > MOST:
        return None
    return not sizes or bool(boxes(sizes, width, height, turn))


def faults(sheets: Sequence[Sequence[Shared]]) -> int:
    """How often a unit lies on one sheet more, or a card has one unit more on one sheet."""
    lies = Counter(unit for sheet in sheets for unit in {each.unit for each in sheet})
    return sum(lies.values()) - len(lies) + sum(_crowded(sheet) for sheet in sheets)


def _crowded(sheet: Sequence[Shared]) -> int:
    units = {each.unit for each in sheet}
    return len(units) - len({card for card, _ in units})


def share_out(
    sheets: list[list[P]], width: int, height: int, chance: random.Random, end: float, tell: Callable[[str], None]
) -> list[list[P]] | None:
    """As many sheets without a fault, whatever the pieces on them are now; None if none was found by ``end``."""
    best, standing = faults(sheets), 0
    # With one sheet there is nobody to share with.
    while best and len(sheets) > 1 and standing < STANDING and time.monotonic() < end:
        tell(f"{len(sheets)} sheets, {some(best, 'piece')} on a sheet where it cannot be")
        wrong = [at for at in range(len(sheets)) if _at_fault(sheets, at)]
        one = chance.choice(wrong)
        other = chance.choice([at for at in range(len(sheets)) if at != one])
        pair = next(_ways(sheets[one], sheets[other], width, height, chance), None)
        if pair:
            sheets[one], sheets[other] = pair
        now = faults(sheets)
        best, standing = min(best, now), 0 if now < best else standing + 1
    return None if best else [sheet for sheet in sheets if sheet]


def _at_fault(sheets: Sequence[Sequence[Shared]], at: int) -> bool:
    mine = {each.unit for each in sheets[at]}
    elsewhere = {each.unit for other, sheet in enumerate(sheets) if other != at for each in sheet}
    return bool(mine & elsewhere) or _crowded(sheets[at]) > 0


def _ways(
    one: list[P], other: list[P], width: int, height: int, chance: random.Random
) -> Iterator[tuple[list[P], list[P]]]:
    """Ways to share two sheets' pieces out anew that have no more faults than now, the fewest first."""
    pool = [*one, *other]
    moving = chance.sample(pool, min(MOVING, len(pool)))
    stay = [[each for each in mine if each not in moving] for mine in (one, other)]
    room, areas = width * height, [each.size[0] * each.size[1] for each in moving]
    stays = [sum(each.size[0] * each.size[1] for each in mine) for mine in stay]
    there, now = {frozenset(one), frozenset(other)}, faults([one, other])
    ranked = []
    # The last one moving is not shared about: a way and its mirror are one, where nothing stays.
    for mask in range(1 << len(moving) - (not any(stay))):
        area = sum(mine for at, mine in enumerate(areas) if mask >> at & 1)
        if stays[0] + area > room or stays[1] + sum(areas) - area > room:
            continue
        pair = _pair(moving, mask, stay)
        count = faults(pair)
        if count <= now and frozenset(pair[0]) not in there:
            ranked.append((count, chance.random(), pair))
    for _, _, pair in sorted(ranked, key=lambda each: each[:2])[:TRIED]:
        if all(comes_out((each.size for each in mine), width, height) for mine in pair):
            yield pair


def _pair(moving: Sequence[P], mask: int, stay: Sequence[list[P]]) -> tuple[list[P], list[P]]:
    mine = [each for at, each in enumerate(moving) if mask >> at & 1]
    return [*stay[0], *mine], [*stay[1], *(each for at, each in enumerate(moving) if not mask >> at & 1)]
