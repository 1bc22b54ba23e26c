"""A pile that runs out: what that means, and for whom."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from zester.core.kits.demand import GIFT, SPARE
from zester.core.kits.packing import Bag, Item, Kit, Packed


@dataclass(frozen=True, kw_only=True)
class Lack:
    """Who goes without, in the order in which something is done without: the spare first, somebody's kit last."""

    spare: int = 0
    """How many of the missing are made good by what was cut beyond need."""
    own: tuple[tuple[Bag, int], ...] = ()
    """Spare cards and samples of the teacher's that go without, and how many each."""
    kits: tuple[tuple[Kit, Bag | None, int], ...] = ()
    """Kits that lack something: the bag, or None for what lies beside the bags, and how many."""
    unknown: int = 0
    """How many more are said to be missing than there should be."""


def wanted_of(packed: Packed, key: str) -> int:
    """How many of a piece or bit lie in its pile before anything is packed: for kits, the teacher's own, and spares."""
    items = tuple(item for kit in packed.kits for item in kit.items)
    own = tuple(item for bag in packed.own for item in bag.items)
    return _count((*items, *own, *packed.spare), key)


def lack_of(packed: Packed, key: str, missing: int, done: Collection[str] = ()) -> Lack:
    """Who goes without if so many of a piece or bit are missing.

    Spare pieces go first, then the teacher's spare cards and samples, spare kits and those to give away, then people
    from the end of the list. Of those what is not packed yet (its key not in ``done``) goes before what is.
    """
    left = missing
    spare = min(left, _count(packed.spare, key))
    left -= spare
    own: list[tuple[Bag, int]] = []
    for bag in sorted(packed.own, key=lambda bag: not bag.key.startswith("spares")):
        much = min(left, _count(bag.items, key))
        if much:
            own.append((bag, much))
            left -= much
    kits: list[tuple[Kit, Bag | None, int]] = []
    for kit, inside, count in _holders(packed, key, done):
        much = min(left, count)
        if much:
            kits.append((kit, inside, much))
            left -= much
    return Lack(spare=spare, own=tuple(own), kits=tuple(kits), unknown=left)


def _holders(packed: Packed, key: str, done: Collection[str]) -> list[tuple[Kit, Bag | None, int]]:
    """Who holds it, those who can do without it first."""
    found = []
    for place, kit in enumerate(packed.kits):
        handed = kit.origin not in (GIFT, SPARE)
        parts: list[tuple[Bag | None, tuple[Item, ...], str]] = [(bag, bag.items, bag.key) for bag in kit.bags]
        for bag, items, name in (*parts, (None, kit.beside, kit.key)):
            count = _count(items, key)
            if count:
                found.append(((name in done or kit.key in done, handed, -place), kit, bag, count))
    return [(kit, bag, count) for _, kit, bag, count in sorted(found, key=lambda row: row[0])]


def _count(items: tuple[Item, ...], key: str) -> int:
    return sum(item.count for item in items if item.key == key and item.is_counted)
