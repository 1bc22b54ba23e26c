"""Dies and punches as they are called: by the number of the set, the size on the box, or “the smallest”.

    wavy squares 2⅝          the one that cuts 2⅝: no. 5, say
    second smallest circles  no. 2
    circles 2                no. 2, unless another of the set cuts 2 in: that is asked

A line is read with the number in the place of the size, so that a set's name is followed by a number or by nothing.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from zester.core.cutlist.spelled import DIE_NUMBER, FOR_SOMETHING_ELSE, any_of, with_places
from zester.core.errors import Choice, LengthError, Question
from zester.core.lengths import LENGTH, RULERS, parse_length
from zester.core.pieces import Known, Tool

_ORDINALS = ("second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
_RANKS = {"": 0, "very": 0} | {word: at for at, word in enumerate(_ORDINALS, 1)}
_RANKS |= {"2nd": 1, "3rd": 2} | {f"{at + 1}th": at for at in range(3, 10)}
_RANK = rf"(?:the\s+)?(?:(?P<rank>{'|'.join(rank for rank in _RANKS if rank)})[\s-]+)?(?P<end>smallest|largest)"
_BEFORE = re.compile(rf"\b{_RANK}(?:\s+of(?:\s+the)?)?\s+$", re.IGNORECASE)
_SEVERAL = re.compile(r"\b(?:two|three|four|five|six|both|all|\d+)\s+$", re.IGNORECASE)
_AFTER = re.compile(rf"\s*,?\s*{_RANK}(?:\s+(?:one|die|size))?\b", re.IGNORECASE)
_UNIT = r"\s*(?:\"|inch|in\b|mm\b|cm\b)"
_SIZE = re.compile(rf"\s*(?P<length>{LENGTH})(?!{FOR_SOMETHING_ELSE}|[\d/.,]|\s+\d+/|{_UNIT})", re.IGNORECASE)


@dataclass(frozen=True)
class Named:
    """A die of a set that is called otherwise than by its number."""

    start: int
    """Where the words begin that are replaced."""
    end: int
    """Where they end."""
    words: str
    """The set's name with the number."""


def by_number(words: str, places: list[int], known: Known) -> tuple[str, list[int]]:
    """The words with every die by its number, and for each character the place it stands for; see ``Written``."""
    for found in sorted(_named(words, known), key=lambda each: -each.start):
        spot = [places[found.start]] * len(found.words)
        places = [*places[: found.start], *spot, *places[found.end :]]
        words = words[: found.start] + found.words + words[found.end :]
    return words, places


def with_numbers_spelled(line: str, known: Known) -> str:
    """The line with ``circles #4`` as ``circles no. 4``: right behind a set's name the sign begins no remark."""
    for tool in known.tools:
        if "#" in line and len(tool.sizes) > 1 and tool.kind != "folder":
            name = r"\s+".join(re.escape(word) for word in tool.name.split())
            line = re.sub(rf"(?<!\w)({name})\s*#\s?(?=\d{{1,2}}(?![\w/.,]))", r"\1 no. ", line, flags=re.IGNORECASE)
    return line


def ask_which(line: str, known: Known) -> None:
    """A number that is the number of one die of a set and the size of another: which is meant?

    Raises
    ------
    Question
        With a line for each of the two.
    """
    words, places = with_places(line.partition("#")[0])
    for tool, found in _sets(words, known):
        number = DIE_NUMBER.match(words, found.end())
        if not number or not number.group().strip().isdigit() or not _is_number(tool, words, found.end()):
            continue
        at = int(number["number"])
        unit = next((unit for unit in ("in", "mm") if _of_size(tool, number["number"], unit) not in (0, at)), "")
        if unit:
            before, after = line[: places[found.end()]], line[places[number.end()] :]
            ways = (at, _of_size(tool, number["number"], unit))
            lines = [f"{before} no. {way}{after}" for way in ways]
            raise Question(
                f"{tool.name} {at}: no. {at}, or the one that cuts {at} {unit}?",
                choices=tuple(Choice(each, each) for each in lines),
            )


def _sets(words: str, known: Known) -> Iterator[tuple[Tool, re.Match[str]]]:
    """Every die or punch of a set that is named, with where."""
    for tool in known.tools:
        if len(tool.sizes) > 1 and tool.kind != "folder":
            pattern = any_of((tool.name,))
            for found in pattern.finditer(words) if pattern else ():
                yield tool, found


def _named(words: str, known: Known) -> Iterator[Named]:
    for tool, found in _sets(words, known):
        before, after = _BEFORE.search(words, 0, found.start()), _AFTER.match(words, found.end())
        rank = before or after
        if before and _SEVERAL.search(words[: before.start()]):
            # “The two largest” are two; which of them this piece is has to be said.
            continue
        if rank:
            number = _of_rank(tool, rank)
            start, end = (before.start(), found.end()) if before else (found.start(), rank.end())
            if number:
                yield Named(start, end, f"{found.group()} no. {number}")
            continue
        size = _SIZE.match(words, found.end())
        if not size or (DIE_NUMBER.match(words, found.end()) and _is_number(tool, words, found.end())):
            continue
        number = next((at for unit in ("in", "mm") if (at := _of_size(tool, size["length"], unit))), 0)
        if number:
            yield Named(found.start(), size.end(), f"{found.group()} no. {number} ")


def _is_number(tool: Tool, words: str, at: int) -> bool:
    """Whether what stands there can be the number of a die of the set."""
    number = DIE_NUMBER.match(words, at)
    return number is not None and 1 <= int(number["number"]) <= len(tool.sizes)


def _of_rank(tool: Tool, found: re.Match[str]) -> int:
    """The number of the second smallest, say; 0 if the set has not so many."""
    by_size = sorted(range(len(tool.sizes)), key=lambda at: tool.sizes[at][0] * tool.sizes[at][1])
    rank = _RANKS[(found["rank"] or "").lower()]
    if rank >= len(by_size):
        return 0
    return 1 + by_size[-1 - rank if found["end"].lower() == "largest" else rank]


def _of_size(tool: Tool, length: str, unit: str) -> int:
    """The number of the only die of which a side is so long; 0 if there is none, or several.

    A length without a unit is taken in ``unit``.
    """
    try:
        side = parse_length(length.strip(), RULERS["in64" if unit == "in" else "mm"])
    except LengthError:
        return 0
    fitting = [at for at, size in enumerate(tool.sizes, 1) if side in size]
    return fitting[0] if len(fitting) == 1 else 0
