"""Understanding notes that were not written for Zester: several lines, a paper above those that are cut from it.

    Telescope Brass:                              (a paper for what follows)
     - base 8-1/2" by 5-1/2", scored at 4 1/4
     * (2) strips - 1/2 x 5 1/2
    10.5 x 14.8 cm mat (midnight dome)

Every line is read as one of a list is (``notation``), and gives a line of a cut list, or none, and says why. Nothing is
taken over unseen.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zester.core.cutlist.find_paper import find_paper
from zester.core.cutlist.notation import LONGEST_LINE, ListReader
from zester.core.cutlist.taking import BULLET
from zester.core.cutlist.words import NOUNS
from zester.core.errors import Choice, CutListError, NotInForm, Question
from zester.core.lengths import LENGTH, SIZE, Ruler, plain
from zester.core.pieces import Known, KnownPaper

MOST_NOTES = 200
_SIZE = re.compile(SIZE, re.IGNORECASE)
_BEGINS_WITH_SIZE = re.compile(SIZE, re.IGNORECASE)
# What is said of the piece above on a line of its own; a word or two that are the kind of a piece.
_OF_THE_LINE_ABOVE = re.compile(
    rf"(?:qty|quantity|count|how\s+many)\s*[:.]?\s*\d{{1,3}}|x\s?\d{{1,3}}|"
    rf"(?:then\s+)?scored?\s+(?:at\s+|it\s+at\s+)?{LENGTH}(?:\s*(?:,|and|&)\s*{LENGTH})*",
    re.IGNORECASE,
)
_NAME_ALONE = re.compile(
    rf"(?:[a-z]+\s+){{0,2}}(?:{'|'.join(sorted(NOUNS - {'inside', 'front', 'cover', 'pocket'}))})s?\s*:?", re.IGNORECASE
)


@dataclass(frozen=True)
class Understood:
    """What became of one line of notes: the ``line`` for the cut list (empty if there is none), and ``why``.

    A line without a size is kept as a remark; one that names a paper alone makes no line. ``problem``: it has to be
    mended before the list can use it.
    """

    note: str
    """The line of the notes."""
    line: str = ""
    """The line of a cut list that it makes; empty if it makes none."""
    why: str = ""
    """What was taken from elsewhere, or left out."""
    problem: bool = False
    """Why it cannot be read as it stands."""
    choices: tuple[Choice, ...] = ()
    """The ways to read it, if there are several."""


def read_notes(notes: str, known: Known, ruler: Ruler) -> list[Understood]:
    """Every line of the notes that is not empty, as it was understood."""
    lines = _whole([line for line in notes.splitlines() if line.strip()][:MOST_NOTES])
    found, heading, reader = [], None, ListReader(known, ruler)
    for line in lines:
        paper = _heading(line, known.papers)
        if paper:
            heading = paper
            found.append(Understood(line, why=f"{paper.name} for the lines that follow"))
        else:
            entry = _understood(_one_line(line), heading, reader)
            # Several pieces in one line are as many lines here.
            several = next((choice.line.split("\n") for choice in entry.choices if "\n" in choice.line), [])
            found += [replace(_understood(each, heading, reader), note=line) for each in several] or [entry]
    return found


def _one_line(line: str) -> str:
    """The line with single spaces; columns that are made of spaces, with a number alone in one, are a table's row."""
    cells = [cell.strip() for cell in re.split(r"\s{2,}|\t", line.strip())]
    numbers = [cell for cell in (cells[0], cells[-1]) if re.fullmatch(r"\d{1,3}", cell)]
    if len(cells) > 2 and len(numbers) == 1 and "\t" not in line:
        return "\t".join(cells)
    return re.sub(r"[^\S\t]+", " ", line).strip()


def _whole(lines: list[str]) -> list[str]:
    """Pieces that stand on two lines as one: a name above its size, how many or where it is scored below it."""
    found: list[str] = []
    for line in lines:
        words = plain(line).strip()
        before = plain(found[-1]).strip() if found else ""
        more = _OF_THE_LINE_ABOVE.fullmatch(words) and _SIZE.search(before)
        named = _NAME_ALONE.fullmatch(before) and _BEGINS_WITH_SIZE.match(words)
        if more or named:
            found[-1] = f"{found[-1].rstrip(' :')}{',' if more else ''} {line.strip()}"
        else:
            found.append(line)
    return found


def _heading(line: str, papers: Sequence[KnownPaper]) -> KnownPaper | None:
    """A paper that stands alone on its line."""
    words = BULLET.sub("", re.sub(r"\s+", " ", plain(line))).strip(" :-–—()*")
    if len(words) > LONGEST_LINE or _SIZE.search(words) or not words:
        return None
    exact = [paper for paper in papers if paper.name.casefold() == words.casefold()]
    if exact:
        return exact[0]
    try:
        found = find_paper(words, papers)
    except CutListError:
        return None
    whole = set(words.casefold().split()) <= set(found.name.casefold().split())
    return found if whole or line.rstrip().endswith(":") else None


def _understood(note: str, heading: KnownPaper | None, reader: ListReader) -> Understood:
    reading = reader.read(note, heading.name if heading else "")
    nothing_measured = not re.search(r"\d", plain(note))
    choices = reading.error.choices if isinstance(reading.error, Question) else ()
    offered = any(not choice.line.startswith("#") for choice in choices)
    if reading.error and not (nothing_measured and not offered and isinstance(reading.error, NotInForm)):
        return Understood(note, note, reading.error.advice(), problem=True, choices=choices)
    if reading.piece or reading.bit or reading.card:
        return Understood(note, reading.meant or note)
    return Understood(note, f"# {note.lstrip('# ')}", "kept as a remark")
