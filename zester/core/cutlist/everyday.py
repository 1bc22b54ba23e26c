"""Everyday lines: any order, any of the usual words, a row of a spreadsheet. What is meant, as a line of a cut list.

    Telescope brass: two mats, 4 by 5 1/4      ->  2 mats  4 x 5 1/4  Telescope Brass
    ½ x 4 star chart strips – 4                ->  4 strips  ½ x 4  Star Chart
    12 in. ribbon                              ->  + 12 in ribbon

A line is taken to pieces from its surest words to its least sure ones. What is left at the end decides: nothing, and
the line is read as it is written anew; a number, a second size, a second paper, a word that nobody knows, and it is a
question with every reading that is possible. Nothing is dropped: words that only join others are listed (``words.JOINING``).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from zester.core.cutlist.columns import cells_in_a_row, is_heading
from zester.core.cutlist.find_paper import find_paper
from zester.core.cutlist.lines import NO_SECOND, RULES, SIDES, any_of
from zester.core.cutlist.words import COUNTED, JOINING, LENGTHWISE, NOUNS, RULE_WORDS
from zester.core.errors import Choice, CutListError, LengthError, NotInForm, Question
from zester.core.lengths import (
    LENGTH,
    SIZE,
    TICKS_PER_INCH,
    TICKS_PER_MM,
    Ruler,
    parse_length,
    parse_size,
    plain,
    type_length,
)
from zester.core.pieces import Known

NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_WORD_COUNTS = {word: number for number, word in enumerate(NUMBERS, 1)} | {
    "pair": 2,
    "pairs": 2,
    "both": 2,
    "dozen": 12,
    "single": 1,
}
_BY_WORD = "|".join(_WORD_COUNTS)
_GONE = "\0"
_UNIT = r'(?:inches|inch|in\b\.?|mm\b|cm\b|")'
_EDGE = rf"(?P<edge>{SIDES}|fold)"
_SHEETS = {"letter": "8 1/2 x 11", "a4": "210 x 297 mm", "a5": "148 x 210 mm"}
_WIDE = r"(?:wide\b|w(?=x|\b))"
_HIGH = r"(?:(?:high|tall|long)\b|[hl](?=x|\b))"
_JOIN = r"\s*(?:x|\*|by|,|and)?\s*"
_SIZES = {
    "halved": rf"\b(?P<size>{SIZE}|letter|a4|a5)\s+(?:sheets?\s+)?(?:cut\s+)?(?P<part>halved|in half|quartered)\b",
    "wide high": rf"(?<!\w)(?P<w>{LENGTH})\s*{_WIDE}{_JOIN}(?P<h>{LENGTH})\s*{_HIGH}",
    "high wide": rf"(?<!\w)(?P<h>{LENGTH})\s*{_HIGH}{_JOIN}(?P<w>{LENGTH})\s*{_WIDE}",
    "size": rf"(?<!\w)(?P<size>{SIZE})(?![\d/]|\s+\d+\s*/)",
    "square of": rf"\b(?P<name>squares?|sq)\b(?!\s*(?:die|punch))[\s:,-]*(?P<length>{LENGTH}){NO_SECOND}",
    "of square": rf"(?<!\w)(?P<length>(?:{LENGTH}(?<=[\"a-z.])|\d*[ -]*\d+\s*/\s*\d+|\d*[.,]\d+))\s*"
    r"(?P<name>squares?|sq)\b",
    "round of": rf"\b(?P<name>circle|scallop|square (?:die|punch))s?\b[\s:,-]*(?P<length>{LENGTH}){NO_SECOND}",
    "of round": rf"(?<!\w)(?P<length>(?:{LENGTH}(?<=[\"a-z.])|\d*[ -]*\d+\s*/\s*\d+|\d*[.,]\d+))\s*"
    r"(?P<name>circle|scallop)s?\b",
    "border": rf"(?<!\w)(?P<length>{LENGTH})\s*borders?\b",
}
_SIZE_PATTERNS = {name: re.compile(pattern, re.IGNORECASE) for name, pattern in _SIZES.items()}
_OVAL = re.compile(
    rf"\bovals?\b[\s:,-]*(?P<after>{LENGTH}){NO_SECOND}|"
    rf"(?<![\w/])(?P<before>{LENGTH}(?<=[\"a-z.])|\d*[ -]*\d+\s*/\s*\d+|"
    r"\d*[.,]\d+)\s*ovals?\b(?!\s*[\d.])",
    re.IGNORECASE,
)
_LYING = re.compile(r"\b(?P<way>landscape|portrait)\b", re.IGNORECASE)
_COUNTS = tuple(
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        r"\(\s*x?\s*(?P<n>\d{1,3})\s*x?\s*(?:pcs?|pieces?|times|of\s+these)?\s*\)",
        r"\b(?:qty|quantity|count)\.?:?\s*(?P<n>\d{1,3})\b",
        r"(?<![\d\"]\s)(?<![\w/.,\"])x\s?(?P<n>\d{1,3})(?![\d/.,]\d|\w)",
        r"(?<![\w/.,])(?P<n>\d{1,3})\s*x(?=\s+[a-z]|\s*$|\s*[,;\0])",
        rf"(?<![\w/.,])(?P<n>\d{{1,3}}|{_BY_WORD})\s*(?:pcs?\b|pieces?\b|ea\b|each\b|per\s+card\b|of\b)\.?",
        rf"\bcut\s+(?P<n>\d{{1,3}}|{_BY_WORD})\b(?!\s*(?:x|by|{_UNIT}|[/.,]\d|\d+/))",
        rf"(?:^|[,;]|\s-+)\s*(?P<n>\d{{1,3}}|{_BY_WORD})\s*(?=$|[,;]|\0+\s*$)",
        r"^\s*(?P<n>\d{1,3})\s*(?=\0)",
        r":\s*(?P<n>\d{1,3})\s*(?=[,;]|$)",
        rf"\b(?:an?\s+)?(?P<n>{_BY_WORD})\b(?:\s+of\b)?",
        r"(?:^|[,;:\0]|\bmakes?\b|\busing\b)\s*(?P<n>\d{1,3})(?=\s+[a-z])(?!\s*(?:x|by|in|inch|inches|mm|cm)\b)",
    )
)
BULLET = re.compile(r"^\s*(?:[-*•·–—>]+\s+|\d+[.)]\s+|\(?[a-z]\)\s+|\[[ x]?\]\s+)+", re.IGNORECASE)
_BRACKET = re.compile(r"\((?P<inside>[^()]*)\)")
_SCORE = r"(?:(?:and\s+|then\s+)?(?:scored?|sc\b|s\s?@|folded|fold|crease[d]?))"
_SCORES = {
    "ends": rf"\b{_SCORE}\s*(?:it\s+)?(?:at|@)?\s*(?P<length>{LENGTH})\s+(?:in\s+)?from\s+(?:each|both)\s+ends?",
    "half": rf"\b{_SCORE}\s+(?:it\s+)?(?:in\s+half|in\s+two|in\s+the\s+(?:middle|centre|center)|at\s+half)\b",
    "at": rf"\b{_SCORE}(?:\s+(?:it|at|on))*\s*@?\s*(?P<places>{LENGTH}(?:\s*(?:,\s|and|&|;)\s*{LENGTH})*)"
    rf"(?P<axis>\s+(?:across|down))?(?!\s*(?:x|by)\s*\d)",
}
_PLACES = (
    (rf"\b(?P<one>left|top)\s+and\s+(?P<other>right|bottom)\s+(?P<length>{LENGTH})", "{one} {length} {other} {length}"),
    (
        rf"(?P<length>{LENGTH})\s+(?:in\s+|up\s+|down\s+|away\s+)?from\s+(?:the\s+)?{_EDGE}(?:\s+edge)?",
        "{edge} {length}",
    ),
    (
        r"\b(?:in\s+|at\s+|to\s+)?(?:the\s+)?(?P<high>upper|top|lower|bottom)[ -](?P<side>left|right)(?:[ -]hand)?"
        r"(?:\s+corner)?\b(?!\s*[\d.])",
        "corner",
    ),
    (
        rf"\b(?:across|along|at|to|against)\s+(?:the\s+)?(?:very\s+)?{_EDGE}(?:\s+edge)?\b(?!\s*[\d.])",
        "flush {edge}",
    ),
    (
        r"\b(?:on|for|in|to|goes)?\s*(?:the\s+)?inside\s*(?P<edge>left|right|top|bottom)\b(?!\s*[\d.])",
        "on inside {edge}",
    ),
    (r"\b(?:on|for|in|to|goes)\s+(?:the\s+)?(?P<edge>inside|front|back|pocket|doors?)\b", "on {edge}"),
)
_ALIKE = (
    (r"\b(?:on|with)\s+foam(?:\s+(?:squares?|dots?|tape|pads?))?\b|\bpopped\s+up\b", "raised"),
    (r"\b(?:let|leave)(?:\s+it)?\s+(?:to\s+)?dry(?:\s+first)?\b|\bdr(?:y|ies)\s+first\b", "dry first"),
    (r"\b(?:painted|coloured)\s+(?:by\s+)(?:the\s+)?participants?\b", "painted in class"),
    (r"\b(?:to\s+(?:be\s+)?)?(?:stamp(?:ed)?)\b", "stamped"),
    (r"\b(?:and\s+)?(?:to\s+be\s+)?(?:cut|fussy[ -]cut)\s+out(?:\s+by\s+hand)?\b", "cut out by hand"),
    (r"\b(?:to\s+be\s+)?used\s+again\b|\breused\b", "not on the card"),
)
_CENTRED = re.compile(r"\b(?:centred|centered|in\s+the\s+(?:centre|center))\b", re.IGNORECASE)
NO_SIZE = "No size found"
_BIT = re.compile(
    rf"\b(?P<bit>{'|'.join((*LENGTHWISE, *COUNTED))}|foam\s+(?:square|pad|dot|strip)|glue\s+dot)(?P<many>e?s)?\b",
    re.IGNORECASE,
)
_LENGTHS_OF = re.compile(rf"\b(?:{'|'.join(LENGTHWISE)})\b", re.IGNORECASE)
_HANGING = re.compile(r"\b(?:in|on|at|by|with|for|to)\s*$", re.IGNORECASE)
_VAGUE = re.compile(r"\b(?:some|few|several|many)\b", re.IGNORECASE)


@dataclass
class _Line:
    """A line being taken to pieces: what was understood is blanked in ``text``."""

    text: str
    ruler: Ruler
    size: str = ""
    cut: tuple[int, int] | None = None
    name: str = ""
    counts: list[int] = field(default_factory=list)
    rules: list[str] = field(default_factory=list)
    papers: list[str] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)
    at: int = 0
    one_of_many: bool = False
    reckoned: bool = False
    """Whether its measures were reckoned from those that were written."""
    otherwise: str = ""
    """The name of the paper that it is cut from if it names none."""
    either: str = ""
    """A die or punch that the piece could be cut with, or be given a hole with."""

    def take(self, pattern: re.Pattern, start: int = 0) -> re.Match | None:
        """The first place the pattern is found at, blanked."""
        found = pattern.search(self.text, start)
        if found:
            self.blank(*found.span())
        return found

    def blank(self, start: int, end: int) -> None:
        """What stood there is understood."""
        self.text = self.text[:start] + _GONE * (end - start) + self.text[end:]


def counted_in_words(name: str) -> bool:
    """Whether a name begins with a number in words: “two strips”, “a pair of tags”."""
    return bool(re.match(rf"(?:an?\s+)?(?:{_BY_WORD})\b", name, re.IGNORECASE))


def other_paper_in(name: str, paper: str, known: Known) -> bool:
    """Whether a name holds the whole name of another paper, or a word for one before the kind of piece."""
    pattern = any_of(tuple(each.name for each in known.papers if each.key != paper))
    if pattern and pattern.search(name):
        return True
    words = name.split()
    return any(
        _before_noun(run, words) and find_paper(run[2], known.papers).key != paper for run in _runs(words, known)
    )


def meant(line: str, known: Known, names: Sequence[str], ruler: Ruler, paper: str = "") -> str:
    """The line of a cut list that an everyday line means; empty if it is a remark.

    Parameters
    ----------
    line : str
        As it was written, on one line.
    known : Known
        The papers and tools it may name.
    names : sequence of str
        What a piece may be on, in small letters.
    ruler : Ruler
        The card's own.
    paper : str
        The name of the paper that it is cut from if it names none.

    Raises
    ------
    Question
        If it can be read in several ways, with the line for each of them; or if something in it is not understood.
    CutListError, LengthError
        If it cannot be read at all.
    """
    typed, _, note = line.partition("#")
    words = plain(typed).strip()
    if not any(char.isalnum() for char in words) or is_heading(words):
        return ""
    rows = cells_in_a_row(re.sub(r"\.{2,}", ",", words))
    if len(rows) > 1:
        raise Question("Which of the numbers is how many?", choices=_each_row(rows, known, names, ruler))
    words = BULLET.sub("", rows[0]).strip(" .!")
    oval = _OVAL.search(words)
    if oval:
        raise Question(
            "How large is the oval the other way?",
            mend="Write both measures, like: oval 2½ x 2",
            choices=_either_oval(words, oval, known, names, ruler),
        )
    taken = _Line(re.sub(r"[ \t]+", " ", words), ruler, otherwise=paper)
    if note.strip():
        taken.remarks.append(note.strip())
    card = _card_in_other_words(taken)
    if card:
        return card
    _take_papers(taken, known)
    _take_tools(taken, known)
    if words.startswith("+") or (_LENGTHS_OF.search(taken.text) and not re.search(SIZE, taken.text, re.IGNORECASE)):
        return _without_size(taken, typed.strip(), known)
    _take_size(taken)
    if not taken.size:
        return _without_size(taken, typed.strip(), known)
    _take_brackets(taken, known, names)
    _take_rules(taken, names)
    _take_counts(taken)
    anew = _written_anew(taken, known)
    _all_numbers_in(words, anew, taken)
    return anew


def _either_oval(words: str, found: re.Match, known: Known, names: Sequence[str], ruler: Ruler) -> tuple[Choice, ...]:
    """The line with the oval lying and standing, three quarters the other way; on a blank if it has no size."""
    unit, mark = ruler.unit, TICKS_PER_MM if ruler.unit == "mm" else ruler.step
    long = parse_length((found["after"] or found["before"]).strip(), ruler)
    short, margin = max(mark, long * 3 // 4 // mark * mark), 6 * TICKS_PER_MM if unit == "mm" else TICKS_PER_INCH // 4
    before, after = words[: found.start()], words[found.end() :]
    sized = re.search(SIZE, before + after, re.IGNORECASE)
    choices = []
    for width, height in ((long, short), (short, long)):
        blank, size = (
            f"{type_length(width + more, unit)} x {type_length(height + more, unit)}" for more in (margin, 0)
        )
        for choice in _each_row(
            [f"{before} {after}" if sized else f"{before} oval {blank} {after}"], known, names, ruler
        ):
            line = f"{choice.line}  oval {size}"
            choices.append(Choice(line, line))
    return tuple(choices)


def _all_numbers_in(words: str, anew: str, taken: _Line) -> None:
    """Every number that was written stands in what is read, but for a one in front and those reckoned with."""
    if taken.reckoned:
        return
    left = re.findall(r"\d+", plain(anew))
    for number in re.findall(r"\d+", words):
        if number in left:
            left.remove(number)
        elif number != "1":
            raise Question(f"What is “{number}”?", choices=(Choice("Keep the line as a remark", f"# {words}"),))


def _each_row(rows: Sequence[str], known: Known, names: Sequence[str], ruler: Ruler) -> tuple[Choice, ...]:
    """A row for every way to read its numbers."""
    choices = []
    for row in rows:
        try:
            line = meant(row, known, names, ruler)
        except (CutListError, LengthError):
            continue
        choices.append(Choice(line, line))
    return tuple(choices)


def _card_in_other_words(taken: _Line) -> str:
    """“4¼ x 5½ card, opens at the top”."""
    found = re.fullmatch(
        rf"(?:card\s+(?P<before>{SIZE})|(?P<size>{SIZE})\s+card)\b[\s,]*"
        rf"(?:(?:that\s+)?(?:opens?|opening)\s+at\s+the\s+(?P<way>top|side)|"
        rf"(?P<fold>(?:side|top|gate|no)[ -]fold))?",
        taken.text,
        re.IGNORECASE,
    )
    if not found:
        return ""
    fold = found["fold"] or f"{(found['way'] or 'side').lower()} fold"
    return f"card {found['size'] or found['before']} {fold}"


def _take_papers(taken: _Line, known: Known) -> None:
    """Whole names, wherever they stand."""
    pattern = any_of(tuple(name for paper in known.papers for name in (paper.name, *paper.former)))
    while pattern and (found := taken.take(pattern)):
        taken.papers.append(re.sub(r"\s+", " ", found.group()))


def _take_tools(taken: _Line, known: Known) -> None:
    """A tool's name and number, alone or as a window, hole or notch; the word before it tells which."""
    pattern = any_of(tuple(tool.name for tool in known.tools))
    for found in list(pattern.finditer(taken.text)) if pattern else ():
        number = re.compile(r"\s*(?:no\.?|number|#)?\s*\d+(?!\d|/|[.,]\d|\s*(?:x|by)\b)").match(taken.text, found.end())
        lead = re.search(
            r"\b(?:(?:window|hole|notch)\s+(?:by\s+|of\s+)?|(?:and\s+)?(?:embossed|die-?cut|punched)\s+(?:with|by|using)?\s*|with\s+|w/\s*)$",
            taken.text[: found.start()],
            re.IGNORECASE,
        )
        start, end = (lead or found).start(), (number or found).end()
        kind = re.match(r"window|hole|notch", lead.group() if lead else "", re.IGNORECASE)
        said = f"{found.group()}{number.group() if number else ''}"
        edge = re.compile(rf"\s*(?:at\s+the\s+)?(?P<edge>{SIDES})\b").match(taken.text, end) if kind else None
        if edge:
            said, end = f"{said} {edge['edge']}", edge.end()
        tool = next(
            tool for tool in known.tools if tool.name.casefold() == re.sub(r"\s+", " ", found["name"]).casefold()
        )
        if lead and re.match(r"w", lead.group()) and not kind and tool.kind != "folder":
            taken.either = said
        else:
            taken.rules.append(f"{kind.group().lower()} {said}" if kind else said)
        taken.blank(start, end)


def _take_size(taken: _Line) -> None:
    """The first thing that says how large the piece is; a second one is asked about when all else is taken."""
    found = {name: pattern.search(taken.text) for name, pattern in _SIZE_PATTERNS.items()}
    best = min(
        ((match.start(), -match.end(), name) for name, match in found.items() if match),
        default=None,
    )
    sized = next(
        (rule for rule in taken.rules if re.search(r"\d$", rule) and not rule.startswith(("win", "hol", "not"))), ""
    )
    if best is None:
        if not sized and _by_one_length(taken):
            return
        if sized:
            taken.rules.remove(sized)
            taken.size, taken.at = sized, taken.text.find(_GONE)
        return
    how = best[2]
    match = found[how]
    if (
        how == "size"
        and found["of square"] is None
        and found["square of"]
        and found["square of"].end() <= match.start()
    ):
        how, match = "square of", found["square of"]
    taken.at = match.start()
    taken.blank(*match.span())
    _size_of(taken, how, match)


def _by_one_length(taken: _Line) -> bool:
    """“A square of brass, 2 inches”: a square or a circle, and one length with its unit."""
    kind = re.search(r"\b(?P<name>square|circle|scallop)\b", taken.text, re.IGNORECASE)
    lengths = [
        found for found in re.finditer(LENGTH, taken.text, re.IGNORECASE) if re.search(rf"{_UNIT}\s*$", found.group())
    ]
    if not kind or len(lengths) != 1:
        return False
    length = lengths[0].group().strip()
    square = kind["name"].lower() == "square"
    taken.size = f"{length} x {length}" if square else f"{kind['name'].lower()} {length}"
    taken.at = kind.end()
    taken.blank(*lengths[0].span())
    return True


def _size_of(taken: _Line, how: str, match: re.Match) -> None:
    groups = {name: (text or "").strip() for name, text in match.groupdict().items()}
    if how == "halved":
        _halved(taken, groups["size"].lower(), groups["part"].lower())
    elif how in ("wide high", "high wide"):
        taken.size = f"{groups['w']} x {groups['h']}"
    elif how == "size":
        taken.size = groups["size"]
    elif how.endswith("square") or how.startswith("square"):
        taken.size, taken.name = f"{groups['length']} x {groups['length']}", groups["name"].lower()
    elif how == "border":
        taken.size = f"{groups['length']} border"
    else:
        taken.size = f"{groups['name'].lower()} {groups['length']}"
        taken.name = groups["name"].split()[0].lower() + ("s" if match.group().rstrip().endswith("s") else "")
    if " x " in taken.size:
        taken.cut = parse_size(taken.size, taken.ruler)
    lying = taken.take(_LYING)
    if lying and taken.cut and (taken.cut[0] < taken.cut[1]) == (lying["way"].lower() == "landscape"):
        _set_cut(taken, taken.cut[1], taken.cut[0])


def _set_cut(taken: _Line, width: int, height: int) -> None:
    unit = taken.ruler.unit
    taken.cut, taken.reckoned = (width, height), True
    taken.size = f"{type_length(width, unit)} x {type_length(height, unit)}"


def _halved(taken: _Line, size: str, part: str) -> None:
    width, height = parse_size(_SHEETS.get(size, size), taken.ruler)
    both = part == "quartered"
    halves = (width // (2 if both or width > height else 1), height // (2 if both or width <= height else 1))
    _set_cut(taken, *halves)
    taken.one_of_many = True


def _take_rules(taken: _Line, names: Sequence[str]) -> None:
    _take_scores(taken)
    for pattern, rule in _PLACES:
        spelled = re.compile(pattern, re.IGNORECASE)
        while found := taken.take(spelled):
            taken.rules.append(_place_words(found, rule))
    _take_what_it_is_on(taken, names)
    taken.take(_CENTRED)
    for pattern, rule in _ALIKE:
        if taken.take(re.compile(pattern, re.IGNORECASE)):
            taken.rules.append(rule)
    _take_written_rules(taken)


def _take_what_it_is_on(taken: _Line, names: Sequence[str]) -> None:
    on = any_of(tuple(names))
    if on:
        sits = re.compile(rf"\b(?P<where>on|onto|upon|behind)\s+(?:the\s+|your\s+)?{on.pattern}", re.IGNORECASE)
        while found := taken.take(sits, taken.at):
            taken.rules.append(f"{'behind' if found['where'].lower() == 'behind' else 'on'} {found['name']}")


def _take_written_rules(taken: _Line) -> None:
    """The list's own rules, and the inside."""
    for name, pattern in RULES.items():
        if name in ("shape", "score"):
            continue
        spelled = re.compile(pattern, re.IGNORECASE)
        while found := taken.take(spelled, taken.at):
            taken.rules.append(found.group().replace(_GONE, " "))
    if taken.take(re.compile(r"\binside\b(?!\s+(?:panel|mat|layer|liner|base))", re.IGNORECASE), taken.at):
        taken.rules.append("on inside")


def _place_words(found: re.Match, rule: str) -> str:
    if rule == "corner":
        high = "top" if found["high"].lower() in ("upper", "top") else "bottom"
        return f"flush {high} flush {found['side'].lower()}"
    return rule.format(**{name: text.strip().lower() for name, text in found.groupdict().items()})


def _take_scores(taken: _Line) -> None:
    for name, pattern in _SCORES.items():
        found = taken.take(re.compile(pattern, re.IGNORECASE))
        if not found:
            continue
        taken.take(re.compile(r"\band\s+burnish(?:ed)?\b", re.IGNORECASE))
        if name == "at":
            taken.rules.append(f"score{(found['axis'] or '').lower()} {found['places'].strip()}")
        elif taken.cut:
            side, unit = max(taken.cut), taken.ruler.unit
            taken.reckoned = True
            first = parse_length(found["length"], taken.ruler) if name == "ends" else side // 2
            places = (first, side - first) if name == "ends" else (first,)
            taken.rules.append(f"score {', '.join(type_length(place, unit) for place in places)}")
        else:
            raise CutListError("Score in the middle of what?", mend="Write the size of the piece first")
        return


def _take_counts(taken: _Line) -> None:
    for pattern in _COUNTS:
        while found := taken.take(pattern):
            said = found["n"].lower()
            taken.counts.append(_WORD_COUNTS.get(said) or int(said))
    taken.take(re.compile(r"\b(?:each|ea|apiece)\b", re.IGNORECASE))


def _take_brackets(taken: _Line, known: Known, names: Sequence[str]) -> None:
    """What stands in brackets is a number of pieces, a rule, a paper or a remark."""
    while found := taken.take(_BRACKET):
        inside = found["inside"].replace(_GONE, " ").strip(" ,;")
        apart = _Line(inside, taken.ruler, cut=taken.cut)
        _take_rules(apart, names)
        apart.text = f"({apart.text})"
        _take_counts(apart)
        if not re.search(r"\w", apart.text):
            taken.rules += apart.rules
            taken.counts += apart.counts
            continue
        try:
            taken.papers.append(find_paper(inside, known.papers).name)
        except CutListError as error:
            if "could be" in error.what:
                raise _no_paper(taken, known, inside, _plain_name(taken)) from None
            if re.search(r"\d", inside):
                raise Question(f"What is “{inside}”?", choices=_with_remark(taken, known, inside)) from None
            taken.remarks.append(inside)


def _plain_name(taken: _Line) -> str:
    """The words before the size."""
    return " ".join(word for word in _words(taken.text[: taken.at]) if word)


def _with_remark(taken: _Line, known: Known, words: str) -> tuple[Choice, ...]:
    copy = replace(taken, remarks=[*taken.remarks, words], rules=[*taken.rules])
    try:
        return (Choice("Keep it as a remark", _written_anew(copy, known)),)
    except (CutListError, LengthError):
        return ()


def _written_anew(taken: _Line, known: Known) -> str:
    """The line, if nothing is left that could mean something."""
    more = list(_SIZE_PATTERNS["size"].finditer(taken.text))
    if len(more) > 1:
        raise Question(f"{len(more) + 1} sizes in one line", mend="Write one piece a line")
    if more:
        (second,) = more
        raise Question("Two sizes: which one is cut?", choices=_either_size(taken, known, second))
    head, tail = taken.text[: taken.at], taken.text[taken.at :]
    head_words, tail_words = _words(head), _words(tail)
    paper, head_words, tail_words = _paper(taken, known, head_words, tail_words)
    name, odd = _name(taken, head_words, tail_words)
    name = name[:1].upper() + name[1:]
    hanging = _HANGING.search(tail.rstrip(", "))
    odd = [*odd, hanging.group().strip()] if hanging else odd
    numbers = re.findall(rf"{LENGTH}(?:\s*g\b)?", f"{head} {tail}", re.IGNORECASE)
    anew = _Anew(taken, paper, name)
    _ask_about_words(anew, odd)
    _ask_about_numbers(anew, [number.strip() for number in numbers if number.strip()])
    if odd:
        _near_a_paper(taken, known, tail)
        _ask_about_odd(anew, odd)
    if taken.either:
        _ask_about_a_tool(anew)
    return anew.line(count=_one_count(anew))


def _ask_about_words(anew: _Anew, odd: Sequence[str]) -> None:
    """“brass or midnight”, “a few strips”: words that say that something is open."""
    name = anew.name
    unsure = [word for word in name.split() if word.casefold() in ("or", "maybe", "perhaps")]
    if unsure:
        raise Question(f"“{unsure[0]}”: which of the two?", mend="Write the one that is meant")
    vague = _VAGUE.search(name) or next((word for word in odd if _VAGUE.fullmatch(word)), None)
    if vague:
        raise Question(
            "How many is that?",
            mend="Write a number in front of the name",
            choices=(anew.choice(count=2), anew.choice(count=3)),
        )


def _ask_about_odd(anew: _Anew, odd: Sequence[str]) -> None:
    """Words that nobody can place: a remark, or a part of the name."""
    words = " ".join(odd)
    if any(word.casefold() in RULE_WORDS for word in odd):
        raise NotInForm(f"“{words}” is not understood", mend="A remark comes last, after #")
    raise Question(
        f"“{words}” is not understood",
        choices=(
            Choice("Keep it as a remark", anew.line(remark=words)),
            Choice("It belongs to the name", anew.line(name=f"{anew.name} {words}")),
        ),
    )


def _ask_about_a_tool(anew: _Anew) -> None:
    """“with circles 4”: cut to that shape, or with a hole of it?"""
    taken = anew.taken
    ways = [[*taken.rules, f"{way} {taken.either}"] for way in ("die-cut", "window")]
    lines = [replace(anew, taken=replace(taken, rules=rules)).line() for rules in ways]
    raise Question(
        "Is it cut to that shape, or is it a hole in it?", choices=tuple(Choice(line, line) for line in lines)
    )


def _near_a_paper(taken: _Line, known: Known, tail: str) -> None:
    """“telescop brass”: words beside a paper's that make its name when spelled right."""
    for part in re.split(r"\0+|[,;:|()]", tail):
        words = " ".join(part.split())
        try:
            find_paper(words, known.papers)
        except CutListError as error:
            if error.mend.startswith("Did you mean"):
                raise _no_paper(taken, known, words, _plain_name(taken)) from None


def _as_typed(words: str) -> str:
    """Quarters with their own signs, as the desk writes them."""
    return re.sub(r"(?:(?<=\d) |(?<=\d)-)?(?<![\d/.])(1/4|1/2|3/4)(?![\d/])", lambda found: _QUARTERS[found[1]], words)


_QUARTERS = {"1/4": "¼", "1/2": "½", "3/4": "¾"}


@dataclass(frozen=True)
class _Anew:
    """What is written anew, with one thing said otherwise if asked."""

    taken: _Line
    paper: str
    name: str

    def line(self, *, count: int = 0, size: str = "", paper: str = "", name: str = "", remark: str = "") -> str:
        """The line of a cut list."""
        many = count or (self.taken.counts[0] if self.taken.counts else 1)
        said = name or self.name
        remarks = [*self.taken.remarks, remark] if remark else self.taken.remarks
        parts = [
            f"{many} {said}" if many != 1 else said,
            size or self.taken.size,
            paper or self.paper,
            *self.taken.rules,
            f"# {', '.join(remarks)}" if remarks else "",
        ]
        return "  ".join(_as_typed(re.sub(r"\s+", " ", part).strip()) for part in parts if part.strip())

    def choice(self, **otherwise) -> Choice:
        """One way to read it."""
        line = self.line(**otherwise)
        return Choice(line, line)


def _one_count(anew: _Anew) -> int:
    """How many; what two counts could mean is asked, and so is what is halved."""
    counts = [count for count in anew.taken.counts if count != 1] or anew.taken.counts
    several = sorted(set(counts))
    if len(counts) > 1:
        product = 1
        for count in counts:
            product *= count
        either = dict.fromkeys((*several, product))
        raise Question("Which is the number of pieces?", choices=tuple(anew.choice(count=count) for count in either))
    if anew.taken.one_of_many and not anew.taken.counts and "base" not in anew.name.casefold().split():
        raise Question("How many of the parts go on one card?", choices=tuple(anew.choice(count=n) for n in (1, 2, 4)))
    return counts[0] if counts else 1


def _ask_about_numbers(anew: _Anew, numbers: Sequence[str]) -> None:
    if not numbers:
        return
    choices = []
    if len(numbers) == 1 and numbers[0].isdigit() and 1 <= int(numbers[0]) <= 500 and not anew.taken.counts:
        choices.append(anew.choice(count=int(numbers[0])))
    choices.append(anew.choice(remark=" ".join(numbers)))
    raise Question(f"What is {' and '.join(f'“{number}”' for number in numbers)}?", choices=tuple(choices))


def _either_size(taken: _Line, known: Known, second: re.Match) -> tuple[Choice, ...]:
    rest = replace(taken)
    rest.blank(*second.span())
    choices = []
    for size in (taken.size, second.group().strip()):
        copy = replace(rest, size=size, rules=[*taken.rules])
        try:
            line = _written_anew(copy, known)
        except (CutListError, LengthError):
            continue
        choices.append(Choice(line, line))
    return tuple(choices)


def _words(text: str) -> list[str]:
    """The words of a part, without those that only join others; an empty one where something was taken out."""
    out: list[str] = []
    for part in re.split(r"\0+|[,;:|.!?()]+|\s-+\s|--+", text):
        words = [word.strip("-–'\"/+*") for word in part.split()]
        words = [word for word in words if any(char.isalpha() for char in word)]
        while words and words[0].casefold() in JOINING:
            words.pop(0)
        while words and words[-1].casefold() in JOINING - {"in", "on"}:
            words.pop()
        if words:
            out.extend([*words, ""])
    return out


def _paper(taken: _Line, known: Known, head: list[str], tail: list[str]) -> tuple[str, list[str], list[str]]:
    """The paper that is meant; and the words before and after the size without it."""
    named = list(dict.fromkeys(taken.papers))
    in_head, in_tail = _runs(head, known), _runs(tail, known)
    if named:
        # Beside a whole name only what no other word explains is another paper.
        named_pieces = [run for run in in_head if not _before_noun(run, head) and run[1] - run[0] == 1]
        others = [run for run in (*in_head, *in_tail) if run[2] not in named and run not in named_pieces]
        found = list(
            dict.fromkeys([*(find_paper(name, known.papers).name for name in named), *(run[2] for run in others)])
        )
    else:
        runs = in_tail or in_head
        found = list(dict.fromkeys(run[2] for run in runs))
        for run in runs[:1] if len(found) == 1 else ():
            where = tail if run in in_tail else head
            where[run[0] : run[1]] = [""]
    if len(found) == 1:
        return found[0], head, tail
    if not found and taken.otherwise:
        return taken.otherwise, head, tail
    if not found:
        words = _first_words(tail) or " ".join(
            word for word in head if word and word.casefold().rstrip("s") not in NOUNS
        )
        raise _no_paper(taken, known, words, " ".join(word for word in head if word))
    bare = _name(taken, [word for word in head if word], [])[0]
    raise Question("Which paper?", choices=_each_paper(_Anew(taken, "", bare), found[:4], in_head))


def _first_words(words: list[str]) -> str:
    """The words up to where something was taken out."""
    start = next((k for k, word in enumerate(words) if word), len(words))
    end = next((k for k, word in enumerate(words) if k > start and not word), len(words))
    return " ".join(words[start:end])


def _each_paper(anew: _Anew, papers: Sequence[str], in_head: list) -> tuple[Choice, ...]:
    """A line for each paper; that the other one is a word of the name is said by “from”."""
    named = {run[2] for run in in_head}
    return tuple(anew.choice(paper=paper if paper in named else f"from {paper}") for paper in papers)


def _before_noun(run: tuple, words: list[str]) -> bool:
    """“brass mat”: a paper's word before the kind of piece tells the paper more often than a name."""
    behind = words[run[1] : run[1] + 1]
    whole = words[run[0]].casefold() in run[2].casefold().split()
    return (
        whole
        and bool(behind)
        and behind[0].casefold().rstrip("s") in ("mat", "panel", "strip", "base", "layer", "liner")
    )


def _no_paper(taken: _Line, known: Known, words: str, head: str) -> CutListError:
    try:
        find_paper(words, known.papers)
    except CutListError as error:
        near = re.findall(r"“([^”]+)”", error.mend) if error.mend.startswith("Did you mean") else []
        near += re.findall(r"“([^”]+)”", error.what) if "could be" in error.what else []
        anew = _Anew(taken, "", taken.name or head or "Piece")
        choices = tuple(anew.choice(paper=paper) for paper in near if paper != words)
        return Question(
            error.what, mend=error.mend, choices=choices, missing=words if "No paper is" in error.what else ""
        )
    return Question("Which paper?")


def _runs(words: list[str], known: Known) -> list[tuple[int, int, str]]:
    """Every longest run of words that shortens one paper: where it begins and ends, and the paper's name."""
    found, at = [], 0
    while at < len(words):
        for end in range(len(words), at, -1):
            run = words[at:end]
            if "" in run or (len(run) == 1 and (len(run[0]) < 3 or run[0].casefold().rstrip("s") in NOUNS)):
                continue
            try:
                paper = find_paper(" ".join(run), known.papers)
            except CutListError:
                continue
            found.append((at, end, paper.name))
            at = end - 1
            break
        at += 1
    return found


def _name(taken: _Line, head: list[str], tail: list[str]) -> tuple[str, list[str]]:
    """What the piece is called, and the words that nobody can place."""
    head, tail = _without_ends(head), _without_ends(tail)
    if taken.name and not head:
        nouns = [word for word in tail if word.casefold().rstrip("s") == taken.name.rstrip("s")]
        return taken.name, [word for word in tail if word not in nouns]
    if head:
        if taken.name and taken.name.rstrip("s") not in " ".join(head).casefold():
            head = [*head, taken.name]
        return " ".join(head), tail
    if tail:
        return " ".join(tail), []
    if any(rule.startswith("score") for rule in taken.rules):
        return "Base", []
    return ("Inside panel" if "on inside" in taken.rules else "Piece"), []


def _without_ends(words: list[str]) -> list[str]:
    """The words; those that joined something that was taken out are gone with it."""
    beside = [words[k + 1] if k + 1 < len(words) else "" for k in range(len(words))]
    return [
        word for word, after in zip(words, beside, strict=True) if word and (after or word.casefold() not in JOINING)
    ]


def _without_size(taken: _Line, typed: str, known: Known) -> str:
    """A bit, a remark, or a piece whose size is missing."""
    bit = _BIT.search(taken.text)
    words = [word for word in _words(taken.text) if word]
    named = taken.papers or _runs(words, known)
    if bit and not named:
        return _bit_line(taken, bit)
    if (
        not re.search(r"\d", taken.text)
        and not named
        and len(words) >= 3
        and words[0].casefold().rstrip("s") not in NOUNS
    ):
        return ""
    raise Question(
        NO_SIZE,
        mend="A size is width × height, like 4 x 5¼",
        choices=(Choice("Keep it as a remark", f"# {typed}"),),
    )


def _bit_line(taken: _Line, bit: re.Match) -> str:
    text = taken.text.lstrip("+ ")
    remarks = [part.strip() for part in text.split(",") if not re.search(r"\d", part) and not _BIT.search(part)]
    for remark in remarks:
        text = text.replace(remark, "")
    line = _bit_words(_Line(text, taken.ruler), bit)
    return f"{line}  # {', '.join(filter(None, remarks))}" if any(remarks) else line


def _bit_words(taken: _Line, bit: re.Match) -> str:
    text = taken.text
    lengthwise = bit["bit"].lower() in LENGTHWISE
    around = re.search(r"\b(?:a?round)\s+(?:the\s+)?(?P<on>[\w ]+)$", text, re.IGNORECASE)
    wide = re.search(rf"(?P<length>{LENGTH})\s*wide\b", text, re.IGNORECASE)
    rest = text.replace(wide.group(), " ") if wide else text
    found = re.findall(LENGTH, rest, re.IGNORECASE)
    name = " ".join(
        word
        for word in _words(re.sub(LENGTH, " \0 ", rest, flags=re.IGNORECASE))
        if word and word.casefold() not in ("long", "x", *_WORD_COUNTS)
    )
    name = f"{name} {wide.group().strip()}" if wide else name
    if around and not found:
        ribbon = re.sub(r"\s+", " ", text[: around.start()]).strip()
        return f"+ {ribbon} round {around['on'].strip()}"
    if len(name.split()) > 3 and not wide:
        lines = (f"+ {bit['bit']}{bit['many'] or ''}  # {text.strip()}", f"# {text.strip()}")
        raise Question(
            f"What of “{text.strip()}” goes into the bag?", choices=tuple(Choice(line, line) for line in lines)
        )
    word = next((_WORD_COUNTS[each] for each in rest.casefold().split() if each in _WORD_COUNTS), 0)
    return f"+ {_how_much(found, word, bool(bit['many']), lengthwise, name)} {name}"


def _how_much(found: Sequence[str], word: int, many: bool, lengthwise: bool, name: str) -> str:
    said = [each.strip() for each in found if each.strip()]
    if len(said) > 1 or (said and word):
        raise Question(
            f"How much {name} is that?", choices=tuple(Choice(f"+ {each} {name}", f"+ {each} {name}") for each in said)
        )
    has_unit = said and re.search(rf"{_UNIT}$|/|[.,]\d", said[0], re.IGNORECASE)
    if said and lengthwise and not has_unit:
        lines = (f"+ {said[0]} in {name}", f"+ {said[0]} cm {name}", f"+ {said[0]} {name}")
        raise Question(f"{said[0]} of what measure?", choices=tuple(Choice(line, line) for line in lines))
    if not said and not word and (many or lengthwise or _VAGUE.search(name) or "glitter" in name.casefold()):
        raise Question(
            f"How much {name}?" if lengthwise else f"How many {name}?", mend="Write it like: 6 gems, or 12 in ribbon"
        )
    return said[0] if said else str(word or 1)
