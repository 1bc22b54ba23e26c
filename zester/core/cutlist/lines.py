"""What stands where in one written line: count, name, size, paper, rules, remark.

The reader takes values from it, the table its cells, and a mend the place to write at. Everything is found in the
line's ASCII form and kept as places in the line as it was typed, so that a mend changes nothing else.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from zester.core.cutlist.dies import by_number
from zester.core.cutlist.spelled import DIE_NUMBER, any_of, with_places
from zester.core.errors import ZesterError, sure
from zester.core.lengths import LENGTH, SIZE
from zester.core.letters import names_letter
from zester.core.pieces import ROLES, SHAPES, Bit, CardLine, CutPiece, Known

SIDES = "left|right|top|bottom"
_AT = rf"(?:\s*\bat\s+(?P<x>{LENGTH})\s*(?:,|and)\s*(?P<y>{LENGTH}))?"
_SHAPE = rf"(?P<shape>{'|'.join(SHAPES)}|fishtail)"
# In this order: a rule that is taken leaves nothing of itself to the next.
RULES = {
    "from_middle": r"\bfrom\s+(?:a\s+)?middles?\b",
    "middle": rf"\bmiddle\s+(?P<size>{SIZE}){_AT}",
    "window": rf"\bwindow\s+(?:{_SHAPE}\s+)?(?P<size>{SIZE}|{LENGTH}){_AT}",
    "notch": rf"\bnotch(?:ed)?\s+(?:{_SHAPE}\s+)?(?P<size>{LENGTH})"
    rf"(?:\s*(?:(?:at|on|in)\s+the\s+)?(?P<edge>{SIDES})\b)?",
    "hole": rf"\bholes?\s+(?:of\s+)?(?:{_SHAPE}\s+)?(?P<size>{SIZE}|{LENGTH})(?:(?:\s*\b(?:in|at))?(?:\s*\bthe)?"
    rf"\s*\b(?P<where>top|middle|centre|center)\b(?!\s*[\d.]))?{_AT}",
    "gap": rf"(?<!\w)(?P<length>{LENGTH})\s+apart\b",
    "row": r"\bin\s+a\s+(?P<line>row|column)\b|(?P<beside>\bside\s+by\s+side\b)|"
    r"(?P<below>\b(?:one\s+)?below\s+(?:the\s+other|each\s+other))\b",
    "behind": r"\bbehind\s+(?:everything|(?:all\s+)?(?:the\s+)?(?:other\s+)?(?:layers|rest)|(?:it\s+)?all)\b",
    "after": rf"(?:(?P<length>{LENGTH})\s*)?\b(?:below|under)\s+(?:it|that|the\s+last)\b",
    "over_fold": r"\b(?:over|round|around|across)\s+the\s+fold\b",
    "corners": r"\b(?:round(?:ed)?\s+corners?|corners?\s+round(?:ed)?)\b",
    "seam": r"\bseam\s+(?:(?:in|at|on)\s+)?(?:the\s+)?(?P<seam>front|back|inside)\b",
    "loose": r"\b(?:not\s+on\s+the\s+card|off\s+the\s+card)\b",
    "first": r"\bdry\s+first\b",
    "last": r"\b(?:dr(?:y|ies)\s+last|dr(?:y|ies)\s+(?:lying\s+)?flat)\b",
    "minutes": r"(?<![\w/.,])(?:takes?\s+|about\s+)?(?P<minutes>\d+(?:[.,]5|\s+1/2)?|1/2)\s*min(?:ute)?s?\b\.?"
    r"(?:\s+(?:each|a\s+piece|apiece))?",
    "before_class": r"\b(?:before|ahead\s+of)\s+(?:the\s+)?class\b|\bbeforehand\b",
    "match": r"\bmatch(?:ed)?(?:\s+(?P<word>(?!below\b)\w+))?(?P<below>\s+below)?",
    "overhang": rf"\boverhang\s+(?P<length>{LENGTH})"
    rf"(?P<edges>(?:\s*(?:,|\band\b)?\s*\b(?:{SIDES}|all\s+round)\b(?!\s*[\d.]))*)",
    "filler": r"\bfillers?\b",
    "upright": r"\bupright\b",
    "raised": rf"\braised(?:\s+(?P<length>{LENGTH}))?(?:\s+(?:only\s+)?(?:on|at|under)\s+(?:the\s+|its\s+)?"
    rf"(?P<part>{SIDES})(?:\s+(?:side|half|edge))?\b(?!\s*[\d.]))?",
    "role": rf"\bas\s+(?:an?\s+|the\s+)?(?P<role>{'|'.join(sorted(ROLES, key=len, reverse=True))})\b",
    "only": r"\bonly\s+(?:in\s+)?(?P<version>\w[\w-]*)",
    "or_stock": r"\bor\s+(?:plain\s+)?card\s*stock\b",
    "may_go": r"\boptional\b",
    "either": r"\b(?:either|any)\s+side\b",
    "side": r"\b(?:side\s+(?P<side>[ab])|(?P<other>(?:other|back|reverse|wrong|flip)\s+side|reversed?))\b",
    "tilt": r"\btilt(?:ed)?\s+(?P<degrees>-?\d{1,2}(?:[.,]5|\s*1/2)?)\s*"
    r"(?:°|degrees?\b|deg\b)?(?:\s*(?:to\s+the\s+)?(?P<way>left|right)\b(?!\s*[\d.]))?",
    "in_class": r"\b(?:in|during)\s+(?:the\s+)?class\b|\bby\s+(?:the\s+)?participants?\b",
    "at_home": r"\bat\s+home\b",
    "out_of": r"\b(?:(?:fussy[ -])?cut\s+(?:out\s+)?(?:by\s+hand\s+)?(?:of|from)|out\s+of)\s+"
    r"(?:the\s+|a\s+|its\s+)?scrap\b",
    "preparation": r"\b(?P<how>heat[ -]emboss(?:ed)?|heated|emboss(?:ed)?|die-?\s?cut|punch(?:ed)?|stamp(?:ed)?|tied|"
    r"threaded|taped|tape\s+attached|painted|washed|colou?red|inked|(?:the\s+)?edges\s+inked|"
    r"snip(?:ped)?\s+(?:the\s+)?corners?|corners?\s+snipped|cut\s+out\s+by\s+hand)\b"
    r"(?:(?<=inked)\s+edges\b)?",
    "by": r"\bby\s+(?:the\s+|a\s+)?(?P<by>(?!hand\b)[^\W\d_][\w'-]+)\b",
    "shape": rf"\b{_SHAPE}\b(?:\s+(?P<size>{SIZE}|{LENGTH}))?",
    "place": rf"\b(?:flush\s+(?P<flush>{SIDES}|fold)|(?P<edge>{SIDES}|fold)\s+(?P<length>{LENGTH})"
    rf"(?P<more>(?:\s*(?:,|\band\b|&)\s*{LENGTH})*))(?!\s*[/\d])",
    "folded": r"\b(?:scored?\s+(?:and|&)\s+)?folded\b(?!\s*(?:at\b|in\b|[\d./]))",
    "score": r"\bscored?\b(?:\s+at\b)?(?P<rest>(?:[\s\d/.,&;\"-]|"
    r"\band\b|\bat\b|\bacross\b|\bdown\b|\bin\b|\binch(?:es)?\b|\bmm\b|\bcm\b)*)",
}
MANY = ("place", "preparation", "before_class", "in_class", "at_home", "first", "last", "minutes", "by")
# What is said of a lettered sheet only.
OF_LETTERS = ("or_stock", "may_go")
NAMED_HOLES = ("window", "hole", "notch")
_RULES = {name: re.compile(pattern, re.IGNORECASE) for name, pattern in RULES.items()}
# A number that is the end of a word (“Tag2”) begins no length.
_NOT_IN_WORD = r"(?<!\w)"
_SIZE = re.compile(_NOT_IN_WORD + SIZE, re.IGNORECASE)
# “2 border strips” are two strips.
_BORDER = re.compile(
    rf"{_NOT_IN_WORD}(?P<border>{LENGTH})\s*borders?\b(?!\s+(?:strip|stripe|piece|band|panel)s?\b)", re.IGNORECASE
)
_ON = re.compile(r"\s*\b(?:on|around|round)\s+(?:the\s+)?", re.IGNORECASE)
_ON_IT = re.compile(r"\b(?P<where>on|behind)\s+(?:the\s+)?", re.IGNORECASE)
NO_SECOND = r"(?![a-z])(?![\d\s/.,-]*(?:\"|inch(?:es)?\b|in\b|mm\b|cm\b)?\s*(?:x|by\b|\*))"
_ROUND = re.compile(
    rf"\b(?P<shape>circle|scallop|square(?=\s+(?:die|punch)\b))(?:\s+(?:die|punch))?\s+(?P<length>{LENGTH})"
    rf"{NO_SECOND}",
    re.IGNORECASE,
)
_SQUARE = re.compile(rf"\bsquare\s+(?P<length>{LENGTH}){NO_SECOND}", re.IGNORECASE)
_PICTURE = re.compile(
    r"\b(?:(?:an?|one|any)\s+)?picture\b(?:\s+of\s+(?:an?\s+|the\s+)?(?P<which>[^\W\d_][\w-]*))?", re.IGNORECASE
)
_BASE = re.compile(r"(?P<count>\d+\s+)?base\b", re.IGNORECASE)
_LEAD = re.compile(r"(?:\s|[,:;-])*(?:(?:on|from|of|in)\s+)?", re.IGNORECASE)

# A letter alone is one of a sheet only after “from” or “optional”, and in capitals.
_AFTER_LETTER = r"(?i:or|either|side|other|on|behind|top|bottom|left|right|flush|fold|raised|tilt\w*|upright|inside)\b"
_LETTER = re.compile(
    rf"(?<![\w/.])(?i:from)\s+(?P<alone>[A-Z])(?=\s*(?:$|[,;#]|{_AFTER_LETTER}))|"
    r"(?<=optional\s)(?P<bare>[A-Z])(?![\w/.'’-])"
)

Span = tuple[int, int]


@dataclass(kw_only=True)
class Written:
    """One line taken apart. Spans are places in ``plain``."""

    text: str
    """The line as typed."""
    plain: str
    """Its ASCII form without its remark."""
    places: list[int]
    """For each character of ``plain`` and its end the place in ``text``."""
    note: str
    """The remark."""
    head: Span = (0, 0)
    """Count and name."""
    how: str = ""
    """What the size is: ``size``, ``border``, ``round`` (a shape's one measure), ``tool`` (the number of a die),
    ``picture`` (that of a sheet's part), ``base`` (none is needed); empty if there is none.
    """
    size: Span = (0, 0)
    """The size."""
    found: re.Match[str] | None = None
    """What was found for it."""
    border_on: str = ""
    """What a border goes around, as written."""
    paper: Span | None = None
    """The paper."""
    paper_words: str = ""
    """The words that name it."""
    from_paper: bool = False
    """Whether “from” or “of” stands before it."""
    exact_paper: bool = False
    """Whether they are a whole name."""
    tool: str = ""
    """The tool's name, as written."""
    tool_span: Span = (0, 0)
    """Where its name and number stand."""
    tool_number: int = 0
    """The number of the die; 0 if none is written."""
    with_tool: bool = False
    """Whether it only says “with” that tool: to be cut by it, or to have a hole of it."""
    holes: dict[str, re.Match[str]] = field(default_factory=dict[str, Any])
    """Holes by a tool: for ``window``, ``hole`` and ``notch`` the tool's name, its number and the edge."""
    rules: dict[str, list[re.Match[str]]] = field(default_factory=dict[str, Any])
    """What was found for each rule, by its name."""
    said: list[tuple[int, str]] = field(default_factory=list)
    """All rules as typed, with where they begin."""
    on: str = ""
    """What the piece sits on, as written."""
    behind: bool = False
    """Whether it lies behind that."""
    on_span: Span | None = None
    """Where that stands."""
    left_over: str = ""
    """What nobody understands."""

    def rule(self, name: str) -> re.Match[str] | None:
        """The rule of that name, if it is written."""
        return next(iter(self.rules.get(name, ())), None)

    def of(self, span: Span | None) -> str:
        """What was typed there."""
        return self.text[self.places[span[0]] : self.places[span[1]]].strip() if span else ""


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What became of one line: a piece, a bit, the card's line, or an error; none of them for a remark."""

    line: int
    """Its number, from 0."""
    text: str
    """The line as typed."""
    piece: CutPiece | None = None
    """The piece it asks for."""
    error: ZesterError | None = None
    """Why it cannot be read."""
    bit: Bit | None = None
    """The bit it asks for."""
    card: CardLine | None = None
    """What it says of the card."""
    meant: str = ""
    """The line written anew, where it was understood but not written as a list is."""
    written: Written | None = field(default=None, compare=False, repr=False)
    """The line of a piece, right or wrong, taken apart."""


def plain_lines(text: str) -> str:
    """The text with every kind of line end as the plain one, so that all count its lines alike."""
    return "\n".join(text.splitlines()) + ("\n" if text.endswith(("\n", "\r")) else "")


def matched(found: re.Match[str], written: Written) -> str:
    """What was typed for a rule, without what else stands in the middle of it."""
    return " ".join(re.sub(r"\s+", " ", written.of(span)).strip(" ,;") for span in segments(found, written))


def segments(found: re.Match[str], written: Written) -> list[Span]:
    """The parts of the line that belong to a rule: what was taken before it may stand between them."""
    start, group = found.start(), found.group()
    whole = written.plain[start : start + len(group)]
    own = "".join(mine if mine == typed else "\0" for mine, typed in zip(group, whole, strict=True))
    return [(start + part.start(), start + part.end()) for part in re.finditer(r"[^\0\s]+(?:\s+[^\0\s]+)*", own)]


@lru_cache(maxsize=4096)
def take_apart(line: str, known: Known, names: Sequence[str] = (), *, base_without_size: bool = False) -> Written:
    """Find the parts of a line. ``names`` are what a border or a place may be on, as they may be written.

    Never raises; what is missing stays empty. From one keystroke to the next most lines stay as they are, so what was
    found is kept; nobody changes it.
    """
    typed, _, note = line.partition("#")
    words, places = by_number(*with_places(typed), known)
    written = Written(text=line, plain=words, places=places, note=note.strip())
    _find_size(written, known, base_without_size)
    if not written.how:
        return written
    mask = [" "] * written.size[1] + list(words[written.size[1] :])
    _take_border_target(written, mask, names)
    _take_named(written, mask, known)
    _take_on(written, mask, names)
    lettered = names_letter(written.paper_words)
    for name, pattern in _RULES.items():
        if lettered or name not in OF_LETTERS:
            _take_rule(written, mask, name, pattern)
    _take_place_and_paper(written, mask)
    return written


def _find_size(written: Written, known: Known, base_without_size: bool) -> None:
    words = written.plain
    size = _SIZE.search(words)
    candidates = [
        ("border", _BORDER.search(words)),
        ("round", _ROUND.search(words)),
        ("square", _SQUARE.search(words)),
        ("tool", _sized_tool(words, known)),
    ]
    best: tuple[str, re.Match[str] | None] = ("size", size) if size else ("", None)
    for how, found in candidates:
        if found and (best[1] is None or found.start() < best[1].start()):
            best = (how, found)
    if not best[1] and any(paper.pictures for paper in known.papers):
        # The size of a picture is that of its part of the sheet.
        best = ("picture", _PICTURE.search(words))
    base = _BASE.match(words.lstrip()) if base_without_size else None
    if base and best[0] != "size":
        at = len(words) - len(words.lstrip()) + base.end()
        written.how, written.head, written.size = "base", (0, at), (at, at)
        return
    written.how, written.found = best if best[1] else ("", None)
    if best[1]:
        written.head, written.size = (0, best[1].start()), best[1].span()
        if best[0] == "tool":
            # The tool itself stays to be read; only its place is known.
            written.size = (best[1].start(), best[1].start())
            if not any(char.isalpha() for char in words[: best[1].start()]):
                written.head = (0, best[1].end())
        if best[0] in ("round", "square") and not any(char.isalpha() for char in words[: best[1].start()]):
            written.head = (0, best[1].end("shape") if best[0] == "round" else best[1].start("length"))


def _sized_tool(words: str, known: Known) -> re.Match[str] | None:
    """A tool's name and number where a size would stand; of a single size no number is needed."""
    sized = [tool for tool in known.tools if tool.sizes and tool.kind != "folder"]
    names = any_of(tuple(tool.name for tool in sized))
    single = {tool.name.casefold() for tool in sized if len(tool.sizes) == 1}
    found = names.finditer(words) if names else ()
    return next(
        (each for each in found if each["name"].casefold() in single or DIE_NUMBER.match(words, each.end())), None
    )


def _blank(mask: list[str], span: Span) -> None:
    mask[span[0] : span[1]] = " " * (span[1] - span[0])


def _take_border_target(written: Written, mask: list[str], names: Sequence[str]) -> None:
    """After ``⅛ border`` comes ``on`` and the name of a layer, which ends where the longest known name ends."""
    if written.how != "border":
        return
    text = "".join(mask)
    on = _ON.match(text, written.size[1])
    if not on:
        return
    rest = text[on.end() :].casefold()
    fitting = [name for name in names if rest.startswith(name) and not rest[len(name) : len(name) + 1].isalnum()]
    if fitting:
        name = max(fitting, key=len)
        written.border_on = name
        span = (written.size[1], on.end() + len(name))
        written.size = (written.size[0], span[1])
        _blank(mask, span)


def _take_named(written: Written, mask: list[str], known: Known) -> None:
    """A paper's whole name and a tool's name are taken before the rules, whose words they may hold."""
    papers = any_of(tuple(name for paper in known.papers for name in (paper.name, *paper.former)))
    found = papers.search("".join(mask), written.size[1]) if papers else None
    if found:
        lead = re.search(r"\b(?:on|from|of|in)\s+$", "".join(mask[: found.start()]), re.IGNORECASE)
        written.from_paper = bool(lead and lead.group().lower().startswith(("from", "of")))
        written.paper, written.exact_paper = found.span(), True
        written.paper_words = re.sub(r"\s+", " ", found.group())
        _blank(mask, (lead.start() if lead else found.start(), found.end()))
    if not found:
        _take_letter(written, mask)
    tools = any_of(tuple(tool.name for tool in known.tools))
    _take_tool_holes(written, mask, tools)
    text = "".join(mask)
    found = tools.search(text, written.size[1]) if tools else None
    if found:
        number = DIE_NUMBER.match(text[found.end() :])
        before = re.search(
            r"\b(?:with|dies?|punch|folder|emboss(?:ed)?|die-?\s?cut|punched)\s+$", text[: found.start()]
        )
        written.with_tool = bool(before and before.group().lower().startswith("with"))
        end = found.end() + (number.end() if number else 0)
        span = (before.start() if before else found.start(), end)
        written.tool, written.tool_span = found.group(), (found.start(), end)
        written.tool_number = int(number["number"]) if number else 0
        written.said.append((span[0], written.of(span)))
        _blank(mask, span)


def _take_letter(written: Written, mask: list[str]) -> None:
    """``from A``, ``optional A``: a lettered sheet, whatever is cast as it."""
    found = _LETTER.search("".join(mask), written.size[1])
    if found:
        span = found.span("alone") if found["alone"] else found.span("bare")
        written.paper, written.exact_paper, written.from_paper = span, True, True
        written.paper_words = "sheet " + "".join(mask[slice(*span)])
        _blank(mask, found.span())


def _take_tool_holes(written: Written, mask: list[str], tools: re.Pattern[str] | None) -> None:
    """``window moon circles 5``: a hole by a tool's number."""
    if not tools:
        return
    pattern = re.compile(
        rf"\b(?P<kind>{'|'.join(NAMED_HOLES)})\s+{tools.pattern}(?:{DIE_NUMBER.pattern})?"
        rf"(?:\s*(?P<edge>{SIDES})\b(?!\s*[\d.]))?",
        re.IGNORECASE,
    )
    while found := pattern.search("".join(mask), written.size[1]):
        kind = found["kind"].lower()
        written.holes["window" if kind == "hole" else kind] = found
        written.said.append((found.start(), written.of(found.span())))
        _blank(mask, found.span())


def _begins_with(rest: str, name: str) -> bool:
    """Whether a name stands there whole; “inside right 1” is the inside, an inch from its right edge."""
    behind = rest[len(name) :]
    if not rest.startswith(name) or behind[:1].isalnum():
        return False
    return not (re.search(rf"\b(?:{SIDES})$", name) and re.match(r"\s*[\d.]", behind))


def _take_on(written: Written, mask: list[str], names: Sequence[str]) -> None:
    """``on`` and what is written above: taken before the rules, for a piece may be called Tag or Circle."""
    text = "".join(mask)
    for on in _ON_IT.finditer(text, written.size[1]):
        rest = text[on.end() :].casefold()
        fitting = [name for name in names if _begins_with(rest, name)]
        # Straight after the size “on” leads to the paper.
        if fitting and (written.exact_paper or text[written.size[1] : on.start()].strip(" ,:;-")):
            name = max(fitting, key=len)
            written.behind = on["where"].lower() == "behind"
            written.on = name
            written.on_span = (on.start(), on.end() + len(name))
            written.said.append((on.start(), f"{on['where'].lower()} {name}"))
            _blank(mask, written.on_span)
            return


def _take_rule(written: Written, mask: list[str], name: str, pattern: re.Pattern[str]) -> None:
    while found := pattern.search("".join(mask), written.size[1]):
        written.rules.setdefault(name, []).append(found)
        written.said.append((found.start(), matched(found, written)))
        _blank(mask, found.span())
        if name not in MANY:
            return


def _trimmed(span: Span, mask: list[str]) -> Span:
    text = "".join(mask[span[0] : span[1]])
    return span[0] + len(text) - len(text.lstrip()), span[0] + len(text.rstrip())


def _take_place_and_paper(written: Written, mask: list[str]) -> None:
    """What is left is ``paper``, ``on something``, or both in either order."""
    text = "".join(mask)
    start = written.size[1]
    if not written.exact_paper:
        start = sure(_LEAD.match(text, start)).end()
    on = (
        None if written.on else re.search(r"(?:(?<=\s)|^)on\s+(?:the\s+)?(?P<on>\S[^,;]*)", text[start:], re.IGNORECASE)
    )
    if on and (written.exact_paper or text[start : start + on.start()].strip(" ,:;-")):
        written.on = re.sub(r"\s+", " ", on["on"]).strip(" ,:;-").casefold()
        written.on_span = _trimmed((start + on.start(), start + on.end()), mask)
        written.said.append((written.on_span[0], f"on {written.on}"))
        _blank(mask, (start + on.start(), start + on.end()))
        text = "".join(mask)
    rest = text[start:]
    words = re.sub(r"\s+", " ", rest).strip(" ,:;-")
    if written.exact_paper:
        written.left_over = words
    elif words:
        written.paper_words = words
        first = start + len(rest) - len(rest.lstrip(" ,:;-"))
        last = start + len(rest.rstrip(" ,:;-"))
        written.paper = (first, last)
