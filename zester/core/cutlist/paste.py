"""Understanding notes that were not written for Zester: several lines, mixed order, every notation of a length.

    Telescope Brass:                              (a paper for what follows)
     - base 8-1/2" by 5-1/2", scored at 4 1/4
     * (2) strips - 1/2 x 5 1/2
    10.5 x 14.8 cm mat (midnight dome)
    cut two 1 7/8 by 5 door panels from brass rays

Every line of the notes gives a line of a cut list, or none, and says why. Nothing is taken over unseen.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.cutlist.find_paper import find_paper
from zester.core.cutlist.lines import any_of
from zester.core.cutlist.notation import LONGEST_LINE, read_line
from zester.core.errors import CutListError, LengthError
from zester.core.lengths import LENGTH, SIZE, Ruler, plain
from zester.core.pieces import Known, KnownPaper

NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
MOST_NOTES = 200
_BULLET = re.compile(r"^\s*(?:[-*•–—·>]+|\d+[.)]|\(?[a-z]\)|\[[ x]?\])\s+", re.IGNORECASE)
_SIZE = re.compile(rf"(?P<size>{SIZE})", re.IGNORECASE)
_WIDE_HIGH = re.compile(
    rf"(?P<width>{LENGTH})\s*(?:wide|w)\b\s*(?:x|by|,|and)?\s*(?P<height>{LENGTH})\s*(?:high|tall|long|h|l)\b",
    re.IGNORECASE,
)
_SCORE = re.compile(
    rf"[,;(]?\s*\b(?:then\s+)?scored?\b(?:\s+(?:it\s+)?(?:at|on))?\s*(?P<places>{LENGTH}(?:\s*(?:,|and|&)\s*{LENGTH})*)\s*\)?",
    re.IGNORECASE,
)
_COUNT = (
    re.compile(r"\(\s*(?:x\s*)?(?P<count>\d{1,3})\s*(?:x|pcs?|pieces?|times|of\s+these)?\s*\)", re.IGNORECASE),
    re.compile(r"\bqty\.?:?\s*(?P<count>\d{1,3})\b", re.IGNORECASE),
    re.compile(r"(?:^|\s)x\s?(?P<count>\d{1,3})(?=\s|$|[,;])", re.IGNORECASE),
    re.compile(r"\b(?P<count>\d{1,3})\s*(?:pcs?|pieces?|of)\b\.?", re.IGNORECASE),
    re.compile(r"\b(?P<count>\d{1,3})\s*x(?=\s+[a-z])", re.IGNORECASE),
    re.compile(
        r"^\s*(?:cut\s+|make\s+|use\s+)?(?P<count>\d{1,3})(?=\s+[a-z])(?!\s*(?:x|by|in|inch|mm|cm)\b)", re.IGNORECASE
    ),
    re.compile(rf"\b(?P<word>{'|'.join(NUMBERS)})\b", re.IGNORECASE),
)
_FILLING = re.compile(
    r"\b(?:cut|make|use|from|of|out of|in|on|the|a|an|at|each|piece|pieces|for|to|measuring|is)\b", re.IGNORECASE
)
_RULE_WORDS = re.compile(r"\b(?:upright|filler)\b", re.IGNORECASE)


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


def read_notes(notes: str, known: Known, ruler: Ruler) -> list[Understood]:
    """Every line of the notes that is not empty, as it was understood."""
    lines = [line for line in notes.splitlines() if line.strip()][:MOST_NOTES]
    found, heading = [], None
    for line in lines:
        paper = _heading(line, known.papers)
        if paper:
            heading = paper
            found.append(Understood(line, why=f"{paper.name} for the lines that follow"))
        else:
            found.append(_understand(line, heading, known, ruler))
    return found


def _heading(line: str, papers: Sequence[KnownPaper]) -> KnownPaper | None:
    """A paper that stands alone on its line."""
    words = _BULLET.sub("", re.sub(r"\s+", " ", plain(line))).strip(" :-–—()*")
    if len(words) > LONGEST_LINE or _SIZE.search(words) or not words:
        return None
    exact = [paper for paper in papers if paper.name.casefold() == words.casefold()]
    if exact:
        return exact[0]
    if not line.rstrip().endswith(":"):
        return None
    try:
        return find_paper(words, papers)
    except CutListError:
        return None


def _understand(note: str, heading: KnownPaper | None, known: Known, ruler: Ruler) -> Understood:
    words = _BULLET.sub("", re.sub(r"\s+", " ", plain(note))).strip()
    if len(words) > LONGEST_LINE:
        return Understood(
            note, why=f"longer than a line of a list, {LONGEST_LINE} letters: write it in two", problem=True
        )
    words, score = _cut_out(_SCORE, words)
    places = f"score {score['places'].strip()}" if score else ""
    found = _WIDE_HIGH.search(words) or _SIZE.search(words)
    if not found:
        return Understood(note, f"# {note.strip()}", "no size found: kept as a remark")
    groups = found.groupdict()
    size = groups.get("size") or f"{groups['width']} x {groups['height']}"
    words = f"{words[: found.start()]} , {words[found.end() :]}"
    rules = " ".join(each.group().lower() for each in _RULE_WORDS.finditer(words))
    words = _RULE_WORDS.sub(" ", words)
    words, paper, why = _take_stock(words, known.papers)
    if not (paper or why or heading):
        words, paper = _take_word(words, known.papers)
    words, count = _take_count(words)
    # “brass” that could be two papers is asked about, also below a heading.
    paper = paper or (None if why else heading)
    name = _name(words) or ("Base" if places else "Piece")
    head = f"{count} {name}" if count > 1 else name
    parts = [head, re.sub(r"\s+", " ", size).strip(), paper.name if paper else "", rules, places]
    line = "  ".join(part for part in parts if part)
    if not paper:
        return Understood(note, line, why or "no paper named: write one before you take it", problem=True)
    return _checked(note, line, known, ruler)


def _checked(note: str, line: str, known: Known, ruler: Ruler) -> Understood:
    try:
        read_line(line, 1, known, ruler)
    except (CutListError, LengthError) as error:
        return Understood(note, line, error.advice(), problem=True)
    return Understood(note, line)


def _cut_out(pattern: re.Pattern, words: str) -> tuple[str, re.Match | None]:
    found = pattern.search(words)
    return (f"{words[: found.start()]} {words[found.end() :]}", found) if found else (words, None)


def _take_stock(words: str, papers: Sequence[KnownPaper]) -> tuple[str, KnownPaper | None, str]:
    """A paper's whole name anywhere; else one whose every word the line holds, or that one part of it shortens."""
    pattern = any_of(tuple(paper.name for paper in papers))
    found = pattern.search(words) if pattern else None
    if found:
        name = re.sub(r"\s+", " ", found.group()).casefold()
        paper = next(paper for paper in papers if paper.name.casefold() == name)
        return f"{words[: found.start()]} , {words[found.end() :]}", paper, ""
    why = ""
    # The part that is a paper most likely stands last, in brackets, or after “from”.
    parts = re.split(r"[,;:()]|\s-\s|\b(?:from|in|of|on|out\s+of)\b", words)
    for part in reversed(parts):
        text = _FILLING.sub(" ", part).strip(" .-")
        if not any(char.isalpha() for char in text):
            continue
        try:
            paper = find_paper(re.sub(r"\s+", " ", text), papers)
        except CutListError as error:
            why = why or (error.advice() if "could be" in error.what else "")
            continue
        return words.replace(part, " , ", 1), paper, ""
    return words, None, why


def _take_word(words: str, papers: Sequence[KnownPaper]) -> tuple[str, KnownPaper | None]:
    """A single word that shortens one paper only, beside another word that can be the name: “brass mat”."""
    spelled = re.findall(r"[^\W\d_]{4,}", words)
    for word in reversed(spelled):
        rest = re.sub(rf"\b{re.escape(word)}\b", " , ", words, count=1)
        try:
            paper = find_paper(word, papers)
        except CutListError:
            continue
        if _name(rest):
            return rest, paper
    return words, None


def _take_count(words: str) -> tuple[str, int]:
    for pattern in _COUNT:
        found = pattern.search(words)
        if found:
            groups = found.groupdict()
            count = int(groups["count"]) if groups.get("count") else NUMBERS.index(groups["word"].lower()) + 1
            return f"{words[: found.start()]} {words[found.end() :]}", max(1, count)
    return words, 1


def _name(words: str) -> str:
    words = _FILLING.sub(" ", words)
    words = re.sub(r"[,;:()\"#+]|\s-+\s|(?<!\w)-+|-+(?!\w)", " ", words)
    words = re.sub(r"\s+", " ", words).strip(" .-/")
    words = re.sub(r"^\d+\s+|(?<=\s)\d[\d/.]*(?=\s|$)", "", words).strip()
    return words[:1].upper() + words[1:] if any(char.isalpha() for char in words) else ""
