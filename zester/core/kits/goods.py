"""Sheets of a paper that come along with an order, as they are: ``6 sheets of White``.

They are counted, planned and bought like what is cut: each is a piece as large as its sheet.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from difflib import get_close_matches

from zester.core.errors import ZesterError
from zester.core.pieces import KnownPaper

MOST_SHEETS = 200
# From this on a name is taken for a slip of the pen in that of a paper.
_NEARLY = 0.7
_SHEETS = re.compile(
    r"\s*\+?\s*(?P<count>\d{1,4})?\s*(?:x|×)?\s*(?:whole\s+)?sheets?\s+(?:of\s+)?(?P<name>\S.*?)\s*", re.IGNORECASE
)


class NoPaper(ZesterError):
    """No paper is called so: it may be something else."""


@dataclass(frozen=True)
class Goods:
    """So many sheets of a paper with every kit of an offer."""

    paper: str
    """The paper's key."""
    count: int
    """How many."""
    width: int
    """Of what can be used of one, ticks."""
    height: int
    """The same."""


def is_sheets(line: str) -> bool:
    """Whether a line is about sheets of a paper."""
    return _SHEETS.fullmatch(line) is not None


def sheets_in(line: str, papers: Sequence[KnownPaper], inner: Mapping[str, tuple[int, int]]) -> Goods:
    """The sheets a line says.

    Parameters
    ----------
    line
        One for which ``is_sheets`` holds.
    papers
        Those on the shelf.
    inner
        By key what can be used of a sheet, width and height in ticks; what is not there is the whole sheet.

    Raises
    ------
    ZesterError
        If no paper, or more than one, is called so, or the number makes no sense.
    """
    said = _SHEETS.fullmatch(line)
    if said is None:
        raise ZesterError(f"“{line[:60]}” is about no sheets", mend="Write it like: 6 sheets of White")
    name, count = said["name"].casefold(), int(said["count"] or 1)
    exact = [paper for paper in papers if paper.name.casefold() == name]
    found = exact or [paper for paper in papers if name in (each.casefold() for each in paper.former)]
    found = found or [paper for paper in papers if name in paper.name.casefold()]
    if not found:
        raise NoPaper(f"No paper is called “{said['name'][:40]}”", mend="Put it on the shelf first, or write its name")
    if len(found) > 1:
        names = ", ".join(paper.name for paper in found[:4])
        raise ZesterError(f"“{said['name'][:40]}” could be {names}", mend="Write the whole name")
    if not 1 <= count <= MOST_SHEETS:
        raise ZesterError(f"{count} sheets in one kit", mend=f"Write 1 to {MOST_SHEETS}")
    paper = found[0]
    width, height = inner.get(paper.key, (paper.width, paper.height))
    return Goods(paper.key, count, width, height)


def nearly_called(line: str, papers: Sequence[KnownPaper]) -> str:
    """The paper that a line about sheets nearly names; empty if it is about something else: a sheet of stickers."""
    said = _SHEETS.fullmatch(line)
    names = {paper.name.casefold(): paper.name for paper in papers}
    near = get_close_matches(said["name"].casefold(), names, n=1, cutoff=_NEARLY) if said else []
    return names[near[0]] if near else ""


def split_sheets(
    text: str, papers: Sequence[KnownPaper], inner: Mapping[str, tuple[int, int]]
) -> tuple[tuple[Goods, ...], str]:
    """The sheets of papers that a text of an offer says, one a line, and all its other lines, among them sheets of
    what is no paper on the shelf.
    """
    goods, others = [], []
    for line in text.splitlines():
        try:
            goods.append(sheets_in(line, papers, inner))
        except ZesterError:
            others.append(line)
    return tuple(goods), "\n".join(others)
