"""The stock ledger: what came and went, what is there, what is promised, what is free.

Entries are only added; an error is corrected by another entry. What is there is their sum.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import takewhile

from zester.core.errors import ZesterError

MOST = 100_000
# Kinds of entries, what people call them, and whether they add or take away; 0: either.
KINDS = {
    "bought": ("bought", 1),
    "left": ("left over", 1),
    "found": ("there already", 1),
    "used": ("used", -1),
    "spoiled": ("spoiled", -1),
    "given": ("given away", -1),
    "counted": ("counted", 0),
    "corrected": ("corrected", 0),
}


def signed(kind: str, number: int) -> int:
    """What an entry of a kind adds to what is there, for a number as people say it: 3 spoiled are −3.

    Raises ZesterError for nothing at all, for what is below nothing where the kind says the sign, and for too much.
    """
    words, sign = KINDS[kind]
    if number == 0 and kind != "counted":
        raise ZesterError("0 sheets are no entry", mend=f"Write how many were {words}")
    if sign and number < 0:
        raise ZesterError(f"{number} were {words}?", mend="Write how many, without a sign")
    if abs(number) > MOST:
        raise ZesterError(f"{abs(number):,} at once", mend=f"Up to {MOST:,}")
    return sign * number if sign else number


def difference(there: int, counted: int) -> int:
    """What a stock-take books: so that the sum is what was counted."""
    if not 0 <= counted <= MOST:
        raise ZesterError(f"{counted:,} on the shelf", mend=f"Count from 0 to {MOST:,}")
    return counted - there


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """So many that somebody has planned to use."""

    who: str
    """What they are known by."""
    count: int
    """How many."""


@dataclass(frozen=True, kw_only=True)
class Held:
    """How one kind of sheet stands."""

    on_hand: int | None
    """How many are there; None: nobody counts, they are bought as needed."""
    reserved: int
    """How many are promised to classes that are planned."""

    @property
    def free(self) -> int | None:
        """What is promised to nobody; below nothing if more is promised than is there."""
        return None if self.on_hand is None else self.on_hand - self.reserved

    @property
    def lacking(self) -> int:
        """How many more are promised than are there."""
        return max(0, -(self.free or 0))


def taken_before(who: str, wants: Iterable[Wanted]) -> int:
    """How many those take who stand before somebody: who stands first is served first."""
    return sum(want.count for want in takewhile(lambda each: each.who != who, wants))


def open_for(who: str, on_hand: int, wants: Iterable[Wanted]) -> int:
    """How many a class may plan with: what is there without what is promised to others."""
    return max(0, on_hand - sum(want.count for want in wants if want.who != who))
