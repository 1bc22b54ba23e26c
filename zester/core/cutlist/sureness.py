"""Words that change what a line means and that no rule has used: they are asked about, and never part of a name.

“Skip”, “not needed”, “optional”, “twice”, “sideways”, “12 sets”: whoever writes so means something by it. What was
read beside such a word is offered, with the word as a remark; the line as a remark altogether; or the word as a name
all the same, which a list says by ``called``: ``Called both sides  4 x 5¼  brass``.
"""

from __future__ import annotations

import re
from dataclasses import replace

from zester.core.cutlist.edit import cells_of, line_of
from zester.core.cutlist.lines import Reading
from zester.core.cutlist.taking import BY_WORD, WORD_COUNTS
from zester.core.cutlist.words import CALLED, PEOPLE, UNSURE
from zester.core.errors import Choice, Question, sure
from zester.core.lengths import plain, type_length
from zester.core.pieces import Bit, CutPiece, Known, KnownPaper

# What a list says in these words is no doubt and no negation.
_OWN = re.compile(
    r"\bnot\s+on\s+the\s+card\b|\boff\s+the\s+card\b|\bno[ -]?folds?\b|\bno\.?\s*\d+|\bby\s+(?:the\s+)?participants?\b|"
    r"\b(?:in|before|during|ahead\s+of)\s+(?:the\s+)?class\b|\b(?:either|any)\s+side\b|\bpicture\s+of\b|"
    r"\b(?:to\s+be\s+)?used\s+again\b|\bfor\s+the\s+(?:front|inside|back)\b|\bdon'?t\s+forget\b|\bfrom\s+(?:a\s+)?middles?\b|\btucked\s+(?=behind\b|under\b)|\bper\s+card\b|\beach\s+card\b",
    re.IGNORECASE,
)
_WORDS = {kind: re.compile(rf"\b(?:{words})\b", re.IGNORECASE) for kind, words in UNSURE.items()}
# Not of a bit: about ten inches of ribbon are ten inches.
_OF_PIECES = ("direction", "verb", "about")
_TWO = re.compile(r"twice|doubled?|both|couple|pairs?", re.IGNORECASE)
# “Everyone gets two tags”; “12 sets: tag”.
_GETS = re.compile(rf"\bgets?\s+(?P<many>\d+|{BY_WORD})\s+(?P<name>\w.*)$", re.IGNORECASE)
_OF_PEOPLE = re.compile(rf"\W*(?:for\s+)?\d+\s+{PEOPLE.pattern}", re.IGNORECASE)
_LABEL = re.compile(r"^(?P<label>[^:]*\w[^:]*):\s*(?P<rest>\w.*)$")


def ask_if_unsure(reading: Reading, known: Known, unit: str) -> None:
    """Ask about what stands beside what was read of a line; ``unit`` is the card's own.

    Raises
    ------
    Question
        With the ways to read it.
    """
    if not (reading.piece or reading.bit):
        return
    typed = plain(reading.text).partition("#")[0]
    if "?" in typed:
        raise Question(
            "Is that sure?", mend="Take the question mark away", choices=_choices(reading, "?", "doubt", unit)
        )
    if arrow := next((sign for sign in "↑↓←→" if sign in reading.text.partition("#")[0]), ""):
        raise Question(f"What does “{arrow}” say?", choices=_choices(reading, arrow, "direction", unit))
    kind, odd = _odd(typed, reading, known)
    if kind == "people" and odd.casefold().endswith("each") and reading.piece and reading.piece.count == 1:
        # Of one piece “one each” says nothing else.
        kind = ""
    if kind:
        what = f"What does “{odd}” say?"
        choices = _choices(reading, odd, kind, unit)
        people = kind == "people"
        raise Question(what, mend="Pick what is meant, or put it behind #", choices=choices, of_people=people)
    paper = next((each for each in known.papers if reading.piece and each.key == reading.piece.paper), None)
    if reading.piece and paper and reading.piece.name == "Piece" and _is_its_sheet(reading.piece, paper):
        lines = (f"# {reading.text.strip()}", _line(reading, "Sheet"))
        what = f"A whole sheet of {paper.name}: is it cut, or is that its size?"
        raise Question(what, choices=tuple(Choice(line, line) for line in lines))
    if reading.piece and not CALLED.match(typed) and (found := _LABEL.match(reading.piece.name)):
        label, name = found["label"].strip(), found["rest"].strip()
        what, lines = (
            f"Is “{label}” part of the name?",
            (_line(reading, name, label), _line(reading, f"{label} {name}")),
        )
        raise Question(what, choices=tuple(Choice(line, line) for line in lines))


def _is_its_sheet(piece: CutPiece, paper: KnownPaper) -> bool:
    return sorted((piece.width, piece.height)) == sorted((paper.width, paper.height))


def _odd(typed: str, reading: Reading, known: Known) -> tuple[str, str]:
    """The kind of the first words that nothing has used, and those words; empty if there are none."""
    text = _OWN.sub(" ", typed).strip()
    for name in (*(paper.name for paper in known.papers), *(tool.name for tool in known.tools)):
        text = re.sub(rf"\b{re.escape(name)}\b", " ", text, flags=re.IGNORECASE)
    if CALLED.match(text) and reading.piece:
        text = re.sub(re.escape(plain(reading.piece.name)), " ", text, count=1, flags=re.IGNORECASE)
    # A paper may be called after such a word, and be shortened to it.
    mine = known.name_of(reading.piece.paper).split() if reading.piece else []
    text = re.sub(rf"\b(?:{'|'.join(map(re.escape, mine))})\b", " ", text, flags=re.IGNORECASE) if mine else text
    for _, rule in reading.written.said if reading.written else ():
        # “By everybody” names nobody.
        text = text if rule.startswith("by ") else text.replace(plain(rule), " ")
    for kind, pattern in _WORDS.items():
        found = None if reading.bit and kind in _OF_PIECES else pattern.search(text)
        if found:
            return kind, re.sub(r"\s+", " ", found.group()).strip()
    return "", ""


def _choices(reading: Reading, odd: str, kind: str, unit: str) -> tuple[Choice, ...]:
    whole = f"# {reading.text.strip().lstrip('#').strip()}"
    remark = Choice("Keep the line as a remark", whole)
    if reading.bit:
        line = _bit_line(reading.bit, odd, unit)
        found = [Choice(line, line)]
    else:
        name = sure(reading.piece).name
        clean = _without(name, odd)
        lines = [_line(reading, clean, odd)]
        counted = _GETS.search(name) if kind == "people" else None
        if counted:
            many = WORD_COUNTS.get(counted["many"].casefold()) or int(counted["many"])
            lines.insert(0, _line(reading, counted["name"], odd, count=many))
        elif kind == "people" and sure(reading.piece).count > 1 and _OF_PEOPLE.match(plain(reading.text)):
            lines.insert(0, _line(reading, clean, f"{sure(reading.piece).count} {odd}", count=1))
        if _TWO.fullmatch(odd) and sure(reading.piece).count == 1:
            lines.insert(0, _line(reading, clean, count=2))
        if odd.casefold() in name.casefold() and odd != "?":
            lines.append(_line(reading, f"called {name}"))
        found = [Choice(line, line) for line in lines]
    return (remark, *found) if kind == "negation" else (*found, remark)


def _without(name: str, odd: str) -> str:
    """The name without those words, and without what joined them to it."""
    left = re.sub(rf"\b{re.escape(odd)}\b" if odd[0].isalnum() else re.escape(odd), " ", name, flags=re.IGNORECASE)
    left = re.sub(
        r"(?:\s*\b(?:for|of|the|a|an|and|with|to|in)\b)+\s*$|^(?:\s*\b(?:for|of|the|a|an|and|to)\b)+", " ", left.strip()
    )
    return re.sub(r"\s+", " ", left).strip(" ,:;-?") or "Piece"


def _line(reading: Reading, name: str, remark: str = "", count: int = 0) -> str:
    cells = cells_of(reading)
    note = cells.note if remark and remark in cells.note else ", ".join(filter(None, (cells.note, remark)))
    # What it is said of a rule is gone from that, too.
    rules = (
        re.sub(rf"\b(?:by\s+)?{re.escape(remark)}\b", " ", cells.rules)
        if remark and remark[0].isalpha()
        else cells.rules
    )
    many = ("" if count == 1 else str(count)) if count else cells.count
    return line_of(replace(cells, name=name, note=note, count=many, rules=rules))


def _bit_line(bit: Bit, odd: str, unit: str) -> str:
    much = type_length(bit.length, unit) if bit.length else str(bit.count)
    # A length on no mark of the card's unit writes its own.
    much = f"{much} {unit}" if bit.length and not much[-1].isalpha() else much
    remark = ", ".join(filter(None, (bit.note, odd)))
    return f"+ {much} {_without(bit.name, odd)}  # {remark}"
