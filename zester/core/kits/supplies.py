"""Supplies by name: which stamp of which set, which ink, what glue for what, and where it can be had.

One a line, as it is said; what stands behind a bar is where it can be had, and a link is a link:

    Crescent of the moon stamps, for A6 | Lantern Lane, page 12
    Dark blue ink
    White gel pen, if you have it | https://example.org/pens
    kit: glue dots, 6
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from zester.core.errors import ZesterError

MOST_SUPPLIES, LONGEST_SUPPLY, LONGEST_LINK = 60, 200, 300
_LINK = re.compile(r"https?://[^\s|<>\"']+", re.IGNORECASE)
_ANY_LINK = re.compile(r"(?<![\w@.])(?:[a-z][a-z+.-]*://|www\.|javascript:|data:|mailto:)\S*", re.IGNORECASE)
_IN_KIT = re.compile(r"^\s*(?:in\s+(?:the\s+)?)?kit\s*:\s*|\s*[,(]?\s*\bin\s+the\s+kit\b\s*\)?", re.IGNORECASE)
# Words of a supply that is named, and what is needed in general and need not be said beside it.
_COVERS = {
    r"\bstamps?\b": "stamps and ink",
    r"\bwash\b": "colour for the wash and a brush",
    r"\bink\b": "an ink pad",
    r"\bglue|\badhesive": "glue",
    r"\bfoam\b": "foam squares or tape",
    r"\btape\b": "adhesive tape",
    r"\bmarkers?\b|\bpens?\b|\bpencils?\b": "inks or markers",
    r"\bpaints?\b": "paint and a brush",
    r"\bbone folder\b": "bone folder",
}


@dataclass(frozen=True, kw_only=True)
class Supply:
    """Something that is used and not cut."""

    name: str
    """What it is, as it was said."""
    where: str = ""
    """Where it can be had, in words."""
    link: str = ""
    """The address of a page about it; always http or https."""
    in_kit: bool = False
    """Whether it comes with the kit."""


def read_supplies(text: str) -> list[Supply]:
    """The supplies of a list, one a line.

    Raises
    ------
    ZesterError
        If a line is too long, there are too many, or a link is none that may be opened.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_SUPPLIES:
        raise ZesterError(f"These are {len(lines)} supplies", mend=f"A card has room for {MOST_SUPPLIES}")
    return [_supply(line) for line in lines]


def _supply(line: str) -> Supply:
    if len(line) > LONGEST_SUPPLY + LONGEST_LINK:
        raise ZesterError(f"“{line[:30]}…” is too long", mend=f"A supply holds {LONGEST_SUPPLY} letters and a link")
    links = _LINK.findall(line)
    for other in _ANY_LINK.findall(line):
        if other not in links:
            raise ZesterError(f"“{other[:40]}” is no link", mend="A link begins with https://")
    if len(links) > 1:
        raise ZesterError("Two links in one line", mend="Write one supply a line")
    if links and len(links[0]) > LONGEST_LINK:
        raise ZesterError(f"The link “{links[0][:40]}…” is too long", mend=f"A link has up to {LONGEST_LINK} letters")
    name, _, where = _LINK.sub("", line).partition("|")
    in_kit = bool(_IN_KIT.search(name))
    name = _IN_KIT.sub("", name).strip(" ,;")
    if not any(char.isalpha() for char in name):
        raise ZesterError(f"“{line[:40]}” names nothing", mend="Write what it is in front: dark blue ink | where")
    return Supply(
        name=name,
        where=where.replace("|", ",").strip(" ,;"),
        link=links[0] if links else "",
        in_kit=in_kit,
    )


def to_bring(needed: Iterable[str], named: Iterable[Supply]) -> list[str]:
    """What is needed in general, without what a named supply stands for."""
    words = " ".join(supply.name for supply in named)
    covered = {what for signs, what in _COVERS.items() if re.search(signs, words, re.IGNORECASE)}
    return [each for each in needed if each not in covered]


def together(lists: Iterable[tuple[str, Iterable[Supply]]]) -> list[tuple[Supply, tuple[str, ...]]]:
    """The supplies of several cards, each once, with the cards it is for.

    ``lists`` are pairs of a card's letter and its supplies.
    """
    found: dict[str, tuple[Supply, list[str]]] = {}
    for letter, supplies in lists:
        for supply in supplies:
            key = " ".join(supply.name.casefold().split())
            known, letters = found.setdefault(key, (supply, []))
            if letter not in letters:
                letters.append(letter)
            if not known.link and supply.link:
                found[key] = supply, letters
    return [(supply, tuple(letters)) for supply, letters in found.values()]


def of_tools(names: Iterable[str], known: Mapping[str, tuple[str, str]]) -> list[Supply]:
    """The tools a card is made with, for which somebody wrote where they can be had.

    ``known`` are by the tool's name where it can be had, and its link.
    """
    found = []
    for name in dict.fromkeys(names):
        where, link = known.get(name, ("", ""))
        if where or link:
            found.append(Supply(name=name, where=where, link=link))
    return found
