"""Sizes that are said otherwise than as width and height: trimmed to, a part of a sheet or of a side, one number."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from itertools import pairwise

from zester.core.cutlist.find_paper import find_paper, runs_of
from zester.core.cutlist.taking import words_of
from zester.core.errors import Choice
from zester.core.lengths import LENGTH, SIZE, Ruler, parse_length, plain, type_length, with_unit
from zester.core.pieces import Known

# What is asked, and the rows that could be meant, the likeliest first.
Asked = tuple[str, list[str]]
_TRIMMED = re.compile(
    rf"(?P<first>{SIZE})(?P<between>.*?)[\s,]*\b(?:but\s+)?(?:trim(?:med)?|cut(?:\s+down)?)\s+(?:down\s+)?to\s+"
    rf"(?P<then>{SIZE})",
    re.IGNORECASE,
)
_SHARES = {
    **dict.fromkeys(("half", "½", "1/2"), (1, 2)),
    **dict.fromkeys(("third", "⅓", "1/3"), (1, 3)),
    **dict.fromkeys(("quarter", "¼", "1/4"), (1, 4)),
    **dict.fromkeys(("two thirds", "⅔", "2/3"), (2, 3)),
    **dict.fromkeys(("three quarters", "¾", "3/4"), (3, 4)),
}
_SHARE = rf"(?<![\w/])(?:an?\s+|one\s+)?(?P<share>{'|'.join(_SHARES)})\s+(?:of\s+)?"
_OF_SHEET = re.compile(rf"{_SHARE}(?:an?\s+)?sheet\b(?:\s+of\b)?", re.IGNORECASE)
_OF_SIDE = re.compile(rf"{_SHARE}(?:the\s+)?(?P<which>long|short)(?:er|est)?\s+(?:side|edge)\b", re.IGNORECASE)
_LARGER = re.compile(
    rf"(?<![\w/.])(?P<by>{LENGTH})\s*(?P<how>larger|bigger|smaller)\s+than\s+(?:the\s+)?"
    r"(?P<name>[a-z][a-z ]*?)(?=\s*(?:,|$))",
    re.IGNORECASE,
)
# Without one of these words a line says nothing by the size of something else.
SAID_BY_OTHERS = re.compile(r"\b(?:side|edge|than)\b", re.IGNORECASE)
_SHAPE = re.compile(r"(?<!half )(?<!half-)(?<!semi)(?<!semi-)\b(?P<name>square|circle|scallop)s?\b", re.IGNORECASE)
_PIECE = re.compile(rf"(?:\b\d{{1,2}}\s*@\s*)?(?<![\w/.]){SIZE}(?:\s*\(\d{{1,2}}\))?", re.IGNORECASE)
_AND = re.compile(r"[\s,;&+]*(?:and|then)?[\s,;&+]*", re.IGNORECASE)
_NEXT = re.compile(r"[;,]\s*(?:and\s+)?(?:then\s+)?|\s+(?:and\s+)?then\s+|\s+and\s+", re.IGNORECASE)
_ONE_LENGTH = re.compile(rf"(?<![\w/.,]){LENGTH}(?![\w/])", re.IGNORECASE)


def trimmed_to(words: str) -> Asked | None:
    """“4 x 6 trimmed to 3¾ x 5¾”: the second size, or the first."""
    found = _TRIMMED.search(words)
    if not found:
        return None
    before, after = words[: found.start()], f"{found['between']} {words[found.end() :]}"
    return "Two sizes: which one is cut?", [f"{before}{found[name]}{after}" for name in ("then", "first")]


def part_of_a_sheet(words: str, known: Known, ruler: Ruler) -> Asked | None:
    """“A quarter sheet of midnight”: the ways to cut that paper's sheet so."""
    found = _OF_SHEET.search(words)
    share = _SHARES[found["share"].casefold()] if found else None
    if not found or share not in ((1, 2), (1, 4)) or re.search(SIZE, words, re.IGNORECASE):
        return None
    before, after = words[: found.start()], words[found.end() :]
    run = next(iter(runs_of([word for word in words_of(f"{before} {after}") if word], known.papers)), None)
    if run is None:
        return None
    sheet = find_paper(run[2], known.papers)
    wide, high = sheet.width, sheet.height
    if share == (1, 2):
        what, ways = "Which half of the sheet?", [(wide, high // 2), (wide // 2, high)]
    else:
        what, ways = "Which quarter of the sheet?", [(wide // 2, high // 2), (wide, high // 4), (wide // 4, high)]
    sizes = dict.fromkeys(" x ".join(type_length(side, ruler.unit) for side in way) for way in ways)
    return what, [f"{before} {size} {after}" for size in sizes]


def part_of_a_side(
    line: str, things: Sequence[tuple[str, int, int]], ruler: Ruler
) -> tuple[str, tuple[Choice, ...]] | None:
    """“A third of the long side”: of each of these things with a width and a height, at a mark of the ruler."""
    found = _OF_SIDE.search(line.partition("#")[0])
    if not found:
        return None
    (times, of), unit, mark = _SHARES[found["share"].casefold()], ruler.unit, ruler.marks(ruler.unit)
    choices: dict[str, Choice] = {}
    for name, width, height in things:
        side = max(width, height) if found["which"].casefold() == "long" else min(width, height)
        length, rest = divmod(side * times, of)
        # What is on no mark is cut at the one below.
        below = "" if not rest and length % mark == 0 else ", to the mark below"
        text = f"{line[: found.start()]}{type_length(length // mark * mark, unit)}{line[found.end() :]}"
        choices.setdefault(text, Choice(f"{name}, {with_unit(side, unit)}{below}: {text.strip()}", text))
    return (f"The {found['which'].lower()} side of what?", tuple(choices.values())) if choices else None


def larger_than(line: str, sizes: Mapping[str, tuple[int, int]], ruler: Ruler) -> tuple[str, tuple[Choice, ...]] | None:
    """“⅛ larger than the panel”: on every side, or in all; ``sizes`` are those of the pieces above by their names."""
    typed = plain(line.partition("#")[0])
    found = _LARGER.search(typed)
    size = sizes.get(found["name"].casefold().strip()) if found else None
    if not found or not size or re.search(SIZE, typed, re.IGNORECASE):
        return None
    by = parse_length(found["by"].strip(), ruler) * (-1 if found["how"].casefold() == "smaller" else 1)
    choices = []
    for more in (2 * by, by):
        sides = [side + more for side in size]
        if min(sides) > 0:
            said = " x ".join(type_length(side, ruler.unit) for side in sides)
            text = f"{typed[: found.start()]}{said} {typed[found.end() :].lstrip(' ,')}".strip()
            choices.append(Choice(text, text))
    return "On every side, or in all?", tuple(choices)


def several_pieces(words: str) -> list[str]:
    """“1 x 4 (2), 1 x 3 (2)”, “mat 4 x 5, panel 3 x 4”: a row for each; empty if it is not plainly so."""
    found = list(_PIECE.finditer(words))
    if len(found) < 2 or len(found) != len(re.findall(SIZE, words, re.IGNORECASE)):
        return []
    between = [words[one.end() : other.start()] for one, other in pairwise(found)]
    if all(_AND.fullmatch(each) for each in between):
        before, after = words[: found[0].start()], words[found[-1].end() :]
        return [f"{before} {each.group()} {after}" for each in found]
    parts = [part for part in _NEXT.split(words) if part.strip()]
    return parts if all(len(re.findall(SIZE, part, re.IGNORECASE)) == 1 for part in parts) else []


def size_of_a_shape(words: str) -> Asked | None:
    """“Circle chalk 2½”: is the number its size?"""
    kinds = list(_SHAPE.finditer(words))
    lengths = [found for found in _ONE_LENGTH.finditer(words) if found.group().strip()]
    if len(kinds) != 1 or not lengths or len(lengths) > 2 or lengths[-1].start() < kinds[0].end():
        return None
    kind, length = kinds[0], lengths[-1]
    said = length.group().strip()
    row = f"{words[: kind.start()]}{kind['name']} {said} {words[kind.end() : length.start()]}{words[length.end() :]}"
    return f"Is {said} the size of the {kind['name'].lower()}?", [row]
