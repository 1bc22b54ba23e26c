"""Sizes that are said otherwise than as width and height: trimmed to, a part of a sheet, one number of a shape."""

from __future__ import annotations

import re
from itertools import pairwise

from zester.core.cutlist.find_paper import find_paper, runs_of
from zester.core.cutlist.taking import words_of
from zester.core.lengths import LENGTH, SIZE, Ruler, type_length
from zester.core.pieces import Known

# What is asked, and the rows that could be meant, the likeliest first.
Asked = tuple[str, list[str]]
_TRIMMED = re.compile(
    rf"(?P<first>{SIZE})(?P<between>.*?)[\s,]*\b(?:but\s+)?(?:trim(?:med)?|cut(?:\s+down)?)\s+(?:down\s+)?to\s+"
    rf"(?P<then>{SIZE})",
    re.IGNORECASE,
)
_PART = re.compile(
    r"(?<![\w/])(?:an?\s+)?(?P<part>half|1/2|quarter|1/4)\s+(?:of\s+)?(?:an?\s+)?sheet\b(?:\s+of\b)?", re.IGNORECASE
)
_SHAPE = re.compile(r"(?<!half )(?<!half-)(?<!semi)(?<!semi-)\b(?P<name>square|circle|scallop)s?\b", re.IGNORECASE)
_PIECE = re.compile(rf"(?:\b\d{{1,2}}\s*@\s*)?(?<![\w/.]){SIZE}(?:\s*\(\d{{1,2}}\))?", re.IGNORECASE)
_AND = re.compile(r"[\s,;&+]*(?:and|then)?[\s,;&+]*", re.IGNORECASE)
_NEXT = re.compile(r"[;,]\s*(?:and\s+)?(?:then\s+)?|\s+(?:and\s+)?then\s+|\s+and\s+", re.IGNORECASE)
_FOLDED = re.compile(r"(?<![-\w])folded(?=\s*(?:[,;]|$))", re.IGNORECASE)
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
    found = _PART.search(words)
    if not found or re.search(SIZE, words, re.IGNORECASE):
        return None
    before, after = words[: found.start()], words[found.end() :]
    run = next(iter(runs_of([word for word in words_of(f"{before} {after}") if word], known.papers)), None)
    if run is None:
        return None
    sheet = find_paper(run[2], known.papers)
    wide, high = sheet.width, sheet.height
    if found["part"].casefold() in ("half", "1/2"):
        what, ways = "Which half of the sheet?", [(wide, high // 2), (wide // 2, high)]
    else:
        what, ways = "Which quarter of the sheet?", [(wide // 2, high // 2), (wide, high // 4), (wide // 4, high)]
    sizes = dict.fromkeys(" x ".join(type_length(side, ruler.unit) for side in way) for way in ways)
    return what, [f"{before} {size} {after}" for size in sizes]


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


def folded(words: str) -> Asked | None:
    """“Folded”: in half most likely."""
    found = _FOLDED.search(words)
    if not found or not re.search(SIZE, words, re.IGNORECASE):
        return None
    rest = words[: found.start()], words[found.end() :]
    return "Folded where?", [f"{rest[0]} folded in half {rest[1]}", f"{rest[0]} {rest[1]} # folded"]


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
