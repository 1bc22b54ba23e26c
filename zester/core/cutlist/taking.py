"""A line being taken to pieces: papers, tools, size, rules and counts, from the surest words to the least sure ones."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from zester.core.cutlist.lines import NAMED_HOLES, NO_SECOND, OF_LETTERS, RULES, SIDES
from zester.core.cutlist.spelled import DIE_NUMBER, any_of
from zester.core.cutlist.words import JOINING
from zester.core.errors import CutListError, sure
from zester.core.lengths import LENGTH, SIZE, Ruler, parse_length, parse_size, type_length
from zester.core.letters import names_letter
from zester.core.pieces import Known
from zester.core.sizes import SHEET_SIZES

NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
WORD_COUNTS = {word: number for number, word in enumerate(NUMBERS, 1)} | {
    "pair": 2,
    "pairs": 2,
    "both": 2,
    "dozen": 12,
    "single": 1,
}
BY_WORD = "|".join(WORD_COUNTS)
GONE = "\0"
UNIT = r'(?:inches|inch|in\b\.?|mm\b|cm\b|")'
_EDGE = rf"(?P<edge>{SIDES}|fold)"
# As they would be typed.
_SHEETS = {
    key: f"{type_length(size.width, size.unit)} x {type_length(size.height, size.unit)} {size.unit}"
    for key, size in SHEET_SIZES.items()
    if key in ("letter", "a4", "a5")
}
_NAMED = "|".join(_SHEETS)
_WIDE = r"(?:wide\b|w(?=x|\b))"
_HIGH = r"(?:(?:high|tall|long)\b|[hl](?=x|\b))"
_JOIN = r"\s*(?:x|\*|by|,|and)?\s*"
_SIZES = {
    "halved": rf"\b(?P<size>{SIZE}|{_NAMED})\s+(?:sheets?\s+)?(?:cut\s+)?(?P<part>halved|in half|quartered)\b",
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
SIZE_PATTERNS = {name: re.compile(pattern, re.IGNORECASE) for name, pattern in _SIZES.items()}
_LYING = re.compile(r"\b(?P<way>landscape|portrait)\b", re.IGNORECASE)
_COUNTS = tuple(
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        r"\(\s*x?\s*(?P<n>\d{1,3})\s*x?\s*(?:pcs?|pieces?|times|of\s+these)?\s*\)",
        r"\b(?:qty|quantity|count)\.?:?\s*(?P<n>\d{1,3})\b",
        r"(?<![\w/.,])(?P<n>\d{1,3})\s*@",
        r"(?<![\d\"]\s)(?<![\w/.,\"])x\s?(?P<n>\d{1,3})(?![\d/.,]\d|\w)",
        r"(?<![\w/.,])(?P<n>\d{1,3})\s*x(?=\s+[a-z]|\s*$|\s*[,;\0])",
        rf"(?<![\w/.,])(?P<n>\d{{1,3}}|{BY_WORD})\s*(?:pcs?\b|pieces?\b|ea\b|each\b|per\s+card\b|of\b)\.?",
        rf"\bcut\s+(?P<n>\d{{1,3}}|{BY_WORD})\b(?!\s*(?:x|by|{UNIT}|[/.,]\d|\d+/))",
        rf"(?:^|[,;]|\s-+)\s*(?P<n>\d{{1,3}}|{BY_WORD})\s*(?=$|[,;]|\s-+\s|\0+\s*$)",
        r"^\s*(?P<n>\d{1,3})\s*(?=\0)",
        r":\s*(?P<n>\d{1,3})\s*(?=[,;]|$)",
        rf"\b(?:an?\s+)?(?P<n>{BY_WORD})\b(?!\s+(?:sides?|edges?|ends?|corners?|times|layers?|places?)\b)(?:\s+of\b)?",
        r"(?:^|[,;:\0]|\bmakes?\b|\busing\b)\s*(?P<n>\d{1,3})(?=\s+[a-z])(?!\s*(?:x|by|in|inch|inches|mm|cm)\b)",
    )
)
BULLET = re.compile(r"^\s*(?:[-*•·–—>]+\s+|\d+[.)]\s+|\(?[a-z]\)\s+|\[[ x]?\]\s+)+", re.IGNORECASE)
BRACKET = re.compile(r"\((?P<inside>[^()]*)\)")
_SCORE = r"(?:(?:and\s+|then\s+)?(?:scored?\s+and\s+folded|scored?|sc\b|s\s?@|folded|fold|crease[d]?))"
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
        rf"\b(?:(?:flush\s+)?(?:with|to|against|at)|across|along)\s+(?:the\s+)?(?:very\s+)?{_EDGE}(?:\s+edge)?\b(?!\s*[\d.])",
        "flush {edge}",
    ),
    (
        r"\b(?:on|for|in|to|goes)?\s*(?:the\s+)?inside\s*(?P<edge>left|right|top|bottom)\b(?!\s*[\d.])",
        "on inside {edge}",
    ),
    (r"\b(?:on|for|in|to|goes)\s+(?:the\s+)?(?P<edge>inside|front|back|pocket|doors?)\b", "on {edge}"),
)
_ALIKE = (
    (r"\b(?:goes\s+)?(?:on|with)\s+foam(?:\s+(?:squares?|dots?|tape|pads?))?\b|\bpopped\s+up\b", "raised"),
    (r"\b(?:let|leave)(?:\s+it)?\s+(?:to\s+)?dry(?:\s+first)?\b|\bdr(?:y|ies)\s+first\b", "dry first"),
    (r"\b(?:painted|coloured)\s+(?:by\s+)(?:the\s+)?participants?\b", "painted in class"),
    (r"\b(?:to\s+(?:be\s+)?)?(?:stamp(?:ed)?)\b", "stamped"),
    (
        r"\b(?:and\s+)?(?:to\s+be\s+)?(?:cut|fussy[ -]cut)\s+out(?:\s+by\s+hand)?\b(?!\s+(?:of|from)\b)",
        "cut out by hand",
    ),
    (r"\b(?:to\s+be\s+)?used\s+again\b|\breused\b", "not on the card"),
)
_TOOL_LEAD = re.compile(
    rf"\b(?:(?:{'|'.join(NAMED_HOLES)})\s+(?:by\s+|of\s+)?|"
    r"(?:and\s+)?(?:embossed|die-?cut|punched)\s+(?:with|by|using)?\s*|with\s+|w/\s*)$",
    re.IGNORECASE,
)
_TOOL_KIND = re.compile(r"\s+(?:embossing\s+)?(?:folder|dies?|punch)\b", re.IGNORECASE)
_TOOL_EDGE = re.compile(rf"\s*(?:at\s+the\s+)?(?P<edge>{SIDES})\b", re.IGNORECASE)
_OF_THE_EDGE = re.compile(
    r"\b(?:torn|tear|holes?|punch(?:ed)?|scalloped|stitched|slits?|notch(?:ed)?|tabs?|inked|distressed|fringed|trimmed|"
    r"perforated|deckled|gilded|painted|glued)\s*$",
    re.IGNORECASE,
)
_CENTRED = re.compile(
    r"\b(?:centred|centered|(?<=, )(?:centre|center|middle)(?=\s*$)|in\s+the\s+(?:centre|center)|"
    r"across\s+the\s+(?:middle|centre|center))\b",
    re.IGNORECASE,
)
VAGUE = re.compile(r"\b(?:some|few|several|many)\b", re.IGNORECASE)


@dataclass
class Line:
    """A line being taken to pieces: what was understood is blanked in ``text``."""

    text: str
    """What is left of it, of the same length all the time."""
    ruler: Ruler
    """The card's own."""
    size: str = ""
    """Its size in the list's words."""
    cut: tuple[int, int] | None = None
    """Width and height, ticks, if both are known."""
    name: str = ""
    """What the words of its size call it: circle, squares."""
    counts: list[int] = field(default_factory=list)
    """Every number of pieces that was found."""
    rules: list[str] = field(default_factory=list)
    """Its rules in the list's words."""
    papers: list[str] = field(default_factory=list)
    """The papers whose whole names it holds."""
    remarks: list[str] = field(default_factory=list)
    """What is kept as a remark."""
    at: int = 0
    """Where its size begins: what stands before is its name more likely than its paper."""
    one_of_many: bool = False
    """Whether it is a part of what was halved or quartered."""
    reckoned: bool = False
    """Whether its measures were reckoned from those that were written."""
    otherwise: str = ""
    """The name of the paper that it is cut from if it names none."""
    either: str = ""
    """A die or punch that the piece could be cut with, or be given a hole with."""
    source: str = ""
    """The line as it was before anything was taken."""
    tools_at: dict[str, int] = field(default_factory=dict[str, int])
    """Where each rule that is a tool stands."""

    def take(self, pattern: re.Pattern[str], start: int = 0) -> re.Match[str] | None:
        """The first place the pattern is found at, blanked."""
        found = pattern.search(self.text, start)
        if found:
            self.blank(*found.span())
        return found

    def blank(self, start: int, end: int) -> None:
        """What stood there is understood."""
        self.text = self.text[:start] + GONE * (end - start) + self.text[end:]


def take_papers(taken: Line, known: Known) -> None:
    """Whole names, wherever they stand."""
    pattern = any_of(tuple(name for paper in known.papers for name in (paper.name, *paper.former)))
    while pattern and (found := taken.take(pattern)):
        taken.papers.append(re.sub(r"\s+", " ", found.group()))


def take_tools(taken: Line, known: Known) -> None:
    """A tool's name and number, alone or as a window, hole or notch; the word before it tells which."""
    pattern = any_of(tuple(tool.name for tool in known.tools))
    for found in list(pattern.finditer(taken.text)) if pattern else ():
        number = DIE_NUMBER.match(taken.text, found.end())
        lead = _TOOL_LEAD.search(taken.text[: found.start()])
        start, end = (lead or found).start(), (number or found).end()
        kind_word = _TOOL_KIND.match(taken.text, end)
        end = kind_word.end() if kind_word else end
        kind = re.match(r"window|hole|notch", lead.group() if lead else "", re.IGNORECASE)
        said = f"{found.group()}{number.group() if number else ''}"
        edge = _TOOL_EDGE.match(taken.text, end) if kind else None
        if edge:
            said, end = f"{said} {edge['edge']}", edge.end()
        tool = next(
            tool for tool in known.tools if tool.name.casefold() == re.sub(r"\s+", " ", found["name"]).casefold()
        )
        if lead and re.match(r"w", lead.group()) and not kind and tool.kind != "folder":
            taken.either = said
        else:
            said = f"{kind.group().lower()} {said}" if kind else said
            taken.rules.append(said)
            taken.tools_at[said] = start
        taken.blank(start, end)


def take_size(taken: Line) -> None:
    """The first thing that says how large the piece is; a second one is asked about when all else is taken."""
    found = {name: pattern.search(taken.text) for name, pattern in SIZE_PATTERNS.items()}
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
            taken.size, taken.at = sized, taken.text.find(GONE)
        return
    how = best[2]
    match, square = sure(found[how]), found["square of"]
    if how == "size" and found["of square"] is None and square and square.end() <= match.start():
        how, match = "square of", square
    taken.at = match.start()
    taken.blank(*match.span())
    _size_of(taken, how, match)


def _by_one_length(taken: Line) -> bool:
    """“A square of brass, 2 inches”: a square or a circle, and one length with its unit."""
    kind = re.search(r"\b(?P<name>square|circle|scallop)s?\b", taken.text, re.IGNORECASE)
    lengths = [
        found for found in re.finditer(LENGTH, taken.text, re.IGNORECASE) if re.search(rf"{UNIT}\s*$", found.group())
    ]
    if not kind or len(lengths) != 1:
        return False
    length = lengths[0].group().strip()
    square = kind["name"].lower() == "square"
    taken.size = f"{length} x {length}" if square else f"{kind['name'].lower()} {length}"
    taken.at = kind.end()
    taken.blank(*lengths[0].span())
    return True


def _size_of(taken: Line, how: str, match: re.Match[str]) -> None:
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


def _set_cut(taken: Line, width: int, height: int) -> None:
    unit = taken.ruler.unit
    taken.cut, taken.reckoned = (width, height), True
    taken.size = f"{type_length(width, unit)} x {type_length(height, unit)}"


def _halved(taken: Line, size: str, part: str) -> None:
    width, height = parse_size(_SHEETS.get(size, size), taken.ruler)
    both = part == "quartered"
    halves = (width // (2 if both or width > height else 1), height // (2 if both or width <= height else 1))
    _set_cut(taken, *halves)
    taken.one_of_many = True


def take_rules(taken: Line, names: Sequence[str]) -> None:
    """Score lines, places, and the list's own rules; ``names`` are what a piece may be on."""
    _take_scores(taken)
    for pattern, rule in _PLACES:
        spelled, start = re.compile(pattern, re.IGNORECASE), 0
        while found := spelled.search(taken.text, start):
            start = found.end()
            if _OF_THE_EDGE.search(taken.text[: found.start()]):
                # “Torn along the top” says nothing of where it lies.
                continue
            taken.blank(*found.span())
            taken.rules.append(_place_words(found, rule))
    _take_what_it_is_on(taken, names)
    taken.take(_CENTRED)
    alike = [(found.start(), rule) for pattern, rule in _ALIKE if (found := taken.take(re.compile(pattern, re.I)))]
    _take_written_rules(taken, alike)


def _take_what_it_is_on(taken: Line, names: Sequence[str]) -> None:
    on = any_of(tuple(names))
    if on:
        sits = re.compile(
            rf"\b(?:tucked\s+|slipped\s+)?(?P<where>on|onto|upon|behind)\s+(?:the\s+|your\s+)?{on.pattern}",
            re.IGNORECASE,
        )
        while found := taken.take(sits, taken.at):
            taken.rules.append(f"{'behind' if found['where'].lower() == 'behind' else 'on'} {found['name']}")


def _take_written_rules(taken: Line, alike: list[tuple[int, str]]) -> None:
    """The list's own rules, with those that were said in other words in the order of the line, and the inside."""
    lettered = any(map(names_letter, taken.papers))
    for name, pattern in RULES.items():
        if name in ("shape", "score") or (name in OF_LETTERS and not lettered):
            continue
        spelled = re.compile(pattern, re.IGNORECASE)
        while found := taken.take(spelled, taken.at):
            alike.append((found.start(), found.group().replace(GONE, " ")))
    # Which time belongs to which job is told by where it stands.
    tools = [(taken.tools_at[rule], rule) for rule in taken.rules if rule in taken.tools_at]
    taken.rules = [rule for rule in taken.rules if rule not in taken.tools_at]
    taken.rules += [rule for _, rule in sorted(tools + alike)]
    if taken.take(re.compile(r"\binside\b(?!\s+(?:panel|mat|layer|liner|base))", re.IGNORECASE), taken.at):
        taken.rules.append("on inside")


def _place_words(found: re.Match[str], rule: str) -> str:
    if rule == "corner":
        high = "top" if found["high"].lower() in ("upper", "top") else "bottom"
        return f"flush {high} flush {found['side'].lower()}"
    return rule.format(**{name: text.strip().lower() for name, text in found.groupdict().items()})


def _take_scores(taken: Line) -> None:
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


def take_counts(taken: Line) -> None:
    """Every number that says how many, in figures or in words."""
    for pattern in _COUNTS:
        while found := taken.take(pattern):
            said = found["n"].lower()
            taken.counts.append(WORD_COUNTS.get(said) or int(said))
    taken.take(re.compile(r"\b(?:each|ea|apiece)\b", re.IGNORECASE))


def words_of(text: str) -> list[str]:
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
