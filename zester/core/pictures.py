"""Sheets of pictures that are cut apart: how many there are of each, and how many sheets give what is wanted.

3 x 4                       three across, four down, all alike to the plan
3 x 4: 4 owl, 4 moon, 4 star
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from zester.core.errors import ZesterError

MOST_PICTURES = 100
ANY = "*"
_WRITTEN = re.compile(
    r"\s*(?P<across>\d{1,2})\s*(?:x|×|\*|by)\s*(?P<down>\d{1,2})\s*(?::\s*(?P<each>.*))?", re.IGNORECASE
)
_EACH = re.compile(r"\s*(?:(?P<count>\d{1,3})\s+)?(?P<name>[^\W\d_][\w-]*)\s*", re.IGNORECASE)


@dataclass(frozen=True)
class Pictures:
    """What a sheet carries."""

    across: int
    """How many beside each other."""
    down: int
    """How many below each other."""
    each: tuple[tuple[str, int], ...] = ()
    """How many of each by its name; empty: nobody tells them apart."""

    @property
    def count(self) -> int:
        """How many in all."""
        return self.across * self.down

    def cell(self, width: int, height: int) -> tuple[int, int]:
        """The part of a sheet of this size that carries one, ticks."""
        return width // self.across, height // self.down

    def sheets(self, wanted: Mapping[str, int]) -> int:
        """The fewest sheets that give so many of each; ``*`` are those of which any will do.

        Of what is named a sheet gives only so many; any will do of what is left over.
        """
        named = dict(self.each)
        most = -(-sum(wanted.values()) // self.count)
        return max([most, *(-(-count // named[name]) for name, count in wanted.items() if name in named)])


@lru_cache(maxsize=512)
def read_pictures(text: str) -> Pictures | None:
    """What was written of a sheet's pictures; None if it has none.

    Raises
    ------
    ZesterError
        If it cannot be read, or the names are more than there is room for.
    """
    if not text.strip():
        return None
    found = _WRITTEN.fullmatch(text)
    if not found or not int(found["across"]) or not int(found["down"]):
        raise ZesterError("How do the pictures lie?", mend="Write how many across and down: 3 x 4: 4 owl, 8 moon")
    pictures = Pictures(int(found["across"]), int(found["down"]), _each(found["each"] or ""))
    told = sum(count for _, count in pictures.each)
    if pictures.count > MOST_PICTURES or told > pictures.count:
        said = f"{told} pictures are named" if told > pictures.count else f"{pictures.count} pictures"
        raise ZesterError(
            f"{said}, and a sheet has room for {min(pictures.count, MOST_PICTURES)}", mend="Count them again"
        )
    return pictures


def _each(text: str) -> tuple[tuple[str, int], ...]:
    found: dict[str, int] = {}
    for part in filter(str.strip, re.split(r"[,;]", text)):
        one = _EACH.fullmatch(part)
        if not one or not int(one["count"] or 1):
            raise ZesterError(f"“{part.strip()}” names no pictures", mend="Write a number and a word: 4 owl")
        name = one["name"].casefold()
        found[name] = found.get(name, 0) + int(one["count"] or 1)
    return tuple(found.items())
