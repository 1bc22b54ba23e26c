"""How many sets of lettered sheets a pad makes, and which of its sheets go into which.

A set of L letters takes L sheets of different patterns, so that no pattern lies on a card twice. Of a pad with ``c_i``
sheets of pattern i, k sets come out if, and only if, ``sum(min(c_i, k)) >= k * L``: no set takes a pattern twice, so k
sets use at most k of each; and handing the sheets out in turn, pattern after pattern, gives none of the sets one twice.
(The case of equal rows of the theorem of Gale and Ryser, 1957; common practice: a pad of 24, two of each pattern, makes
four sets of six.)
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class PadSets:
    """The sets that a pad makes."""

    sets: tuple[tuple[str, ...], ...]
    """For each the keys of its patterns."""
    over: Mapping[str, int]
    """By key how many sheets are left."""

    @property
    def left(self) -> int:
        """How many sheets are over."""
        return sum(self.over.values())


def most_sets(counts: Mapping[str, int], letters: int) -> int:
    """How many sets of so many different patterns come out of a pad with these sheets."""
    if letters < 1:
        return 0
    sets = 0
    while sum(min(count, sets + 1) for count in counts.values()) >= letters * (sets + 1):
        sets += 1
    return sets


def pad_sets(counts: Mapping[str, int], letters: int, wanted: int | None = None) -> PadSets:
    """The sets of a pad, alike in how rare their patterns are: patterns there are most of are handed out first.

    ``wanted``: no more than so many; None: as many as come out.
    """
    most = most_sets(counts, letters)
    number = most if wanted is None else min(most, wanted)
    if not number:
        return PadSets((), {key: count for key, count in counts.items() if count})
    order = sorted(counts, key=lambda key: -counts[key])
    sheets = [key for key in order for _ in range(min(counts[key], number))][: number * letters]
    # In turn: two of one pattern are never further apart than there are sets.
    sets: list[list[str]] = [[] for _ in range(number)]
    for at, key in enumerate(sheets):
        sets[at % number].append(key)
    used = Counter(sheets)
    over = {key: count - used[key] for key, count in counts.items() if count > used[key]}
    return PadSets(tuple(map(tuple, sets)), over)
