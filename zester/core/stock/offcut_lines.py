"""Offcuts written one a line: ``brass 4¼ x 6, 2``.

    brass 4¼ x 6, 2
    pine ridge 3 x 11, box by the window, top on the left
    3 harbour wind 100 x 148 mm

The paper by its name or the beginning of it, the size, how many (1 if that is not said), where it is kept; and for a
paper that runs one way at which edge its top lies.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from zester.core.cutlist.find_paper import find_paper
from zester.core.errors import ZesterError
from zester.core.fitting.jobs.job import UPS
from zester.core.lengths import SIXTEENTHS, SIZE, Ruler, parse_size, plain
from zester.core.pieces import KnownPaper

MOST_LINES, MOST_EACH, LONGEST_PLACE = 200, 1000, 80
_SIZE = re.compile(rf"(?<![\w.,/⁄-]){SIZE}", re.IGNORECASE)
_COUNT = re.compile(r"(?:[x×]\s*)?(\d{1,7})(?:\s*(?:pieces|offcuts|of them|[x×]))?", re.IGNORECASE)
_TOP = re.compile(r"(?:top|up)\s+(?:on|at|to)?\s*(?:the\s+)?(top|left|right|bottom)", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class OffcutLine:
    """Offcuts as written."""

    paper: str
    """The paper's key."""
    width: int
    """Ticks, as they lie."""
    height: int
    """Ticks."""
    count: int = 1
    """How many."""
    up: str = "top"
    """The edge at which the top of the pattern lies."""
    place: str = ""
    """Where they are kept."""


@dataclass(frozen=True)
class ReadOffcut:
    """What became of a written line."""

    text: str
    """As it was written."""
    offcut: OffcutLine | None = None
    """The offcuts."""
    error: ZesterError | None = None
    """Why there are none."""


def read_offcuts(text: str, papers: Sequence[KnownPaper], ruler: Ruler = SIXTEENTHS) -> list[ReadOffcut]:
    """Every line that is not empty, as it was understood."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    out = []
    for line in lines[:MOST_LINES]:
        try:
            out.append(ReadOffcut(line, offcut=_offcut(line, papers, ruler)))
        except ZesterError as error:
            out.append(ReadOffcut(line, error=error))
    if len(lines) > MOST_LINES:
        out.append(ReadOffcut(lines[MOST_LINES], error=ZesterError(f"{MOST_LINES} lines at once are the most")))
    return out


def _offcut(line: str, papers: Sequence[KnownPaper], ruler: Ruler) -> OffcutLine:
    text = plain(line)
    found = list(_SIZE.finditer(text))
    if not found:
        raise ZesterError("No size is written", mend="Write it like: brass 4¼ x 6, 2")
    if len(found) > 1:
        raise ZesterError("Two sizes are written", mend="Write a line for each")
    size = found[0]
    width, height = parse_size(size[0].strip(), ruler)
    before, rest = text[: size.start()].strip(" ,;:"), text[size.end() :]
    unit = re.match(r"\s*(mm|cm|in\b|inch(?:es)?\b|[\"”″])", rest, re.IGNORECASE)
    if unit:
        # A unit after the size belongs to both of its sides.
        width, height = parse_size(f"{size[0].strip()} {unit[1]}", ruler)
        rest = rest[unit.end() :]
    parts = [part.strip() for part in re.split(r"[,;\t|]", f"{rest}") if part.strip()]
    count, name = _leading_count(before)
    if not name and parts:
        name = parts.pop(0)
    paper = find_paper(name, papers)
    said: dict[str, Any] = {"count": count, "up": None, "place": None}
    for part in parts:
        what, value = _part(part)
        if said[what] is not None:
            raise ZesterError(f"“{part}”: the {what} is said twice", mend="Say it once")
        said[what] = value
    count = 1 if said["count"] is None else said["count"]
    if not 1 <= count <= MOST_EACH:
        raise ZesterError(f"{count:,} offcuts of one size", mend=f"From 1 to {MOST_EACH:,}")
    _check_size(width, height, paper)
    return OffcutLine(
        paper=paper.key, width=width, height=height, count=count, up=said["up"] or UPS[0], place=said["place"] or ""
    )


def _leading_count(before: str) -> tuple[int | None, str]:
    found = re.fullmatch(r"(\d{1,7})\s*[x×]?\s+(.+)", before)
    return (int(found[1]), found[2]) if found else (None, before)


def _part(part: str) -> tuple[str, object]:
    count = _COUNT.fullmatch(part)
    if count:
        return "count", int(count[1])
    top = _TOP.fullmatch(part)
    if top:
        return "up", top[1].lower()
    if not any(char.isalpha() for char in part):
        raise ZesterError(f"“{part[:40]}” is not understood", mend="After the size: how many, where it is kept")
    if len(part) > LONGEST_PLACE:
        raise ZesterError(f"A place of {len(part)} letters", mend=f"Up to {LONGEST_PLACE}")
    return "place", part


def _check_size(width: int, height: int, paper: KnownPaper) -> None:
    sides, sheet = sorted((width, height)), sorted((paper.width, paper.height))
    if any(side > most for side, most in zip(sides, sheet, strict=True)):
        raise ZesterError(f"That is larger than a sheet of {paper.name}", mend="Mind the size, or the paper")
