"""What is said rather than written: numbers in words, sums, sides by their names, written as a list has them.

    mat four by five and a quarter    ->  mat 4 x 5 1/4
    strip 4 less 1/16 x 5             ->  strip 3 15/16 x 5
    panel W 4, H 5¼                   ->  panel 4 x 5¼
    circle Ø 40                       ->  circle 40
    a foot of twine, 3/4 yd ribbon    ->  12 in twine, 27 in ribbon

Only what has one meaning is written anew; all else is left to be read, or asked about, as it stands.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction

from zester.core.cutlist.spelled import any_of
from zester.core.cutlist.words import CALLED, LENGTHWISE
from zester.core.errors import LengthError
from zester.core.lengths import LENGTH, SIZE, Ruler, parse_length, parse_size, plain, type_length
from zester.core.sizes import iso_a

_ONES = "one two three four five six seven eight nine ten eleven twelve".split()  # noqa: SIM905
_VALUES = {word: number for number, word in enumerate(_ONES, 1)} | {"a": 1, "an": 1}
_MORE = {"thirteen": 13, "fifteen": 15}
_PARTS = {"half": 2, "quarter": 4, "eighth": 8, "sixteenth": 16}
_WORD = "|".join(_ONES)
_PART = r"(?:half|quarters?|eighths?|sixteenths?)"
_FRACTION = rf"(?:(?:an?|{_WORD}|thirteen|fifteen)\s+)?{_PART}|\d+/\d+"
# In words or in figures: “five and a quarter”, “three quarters”, “5 and 1/4”, “4¼”.
_SAID = (
    rf"(?:(?:\d+|{_WORD})\s+and\s+(?:{_FRACTION})|(?:{_FRACTION})|(?:{_WORD})\b)(?:\s+(?:of\s+)?(?:an?\s+)?(?=inch))?"
)
_UNIT = r"(?:\s*(?:inch(?:es)?|in\b|\"|mm\b|cm\b))?"
_EITHER = rf"(?:{_SAID}{_UNIT}|{LENGTH})"
_TRIGGER = re.compile(
    rf"\b(?:{_WORD}|half|quarters?|eighths?|sixteenths?|dozen|foot|feet|ft|yards?|yd|metres?|meters?|less|minus|plus|smaller|"
    r"rounded|across|down|dia(?:m(?:eter)?)?|width|height|wide|high|tall|long|scalloped|[wh]\s*[:=]?\s*\d|a[4-8]|\d+\s*m|times)\b|Ø|"
    r"\b(?:inside|front|back)\s*:|\(w(?:ide)?\)|\d\s*[x@*]\s*\d|\sx\s?\d+\s*$|"
    r"\bfold(?:s|ed)\s|\b(?:btm|gate|raised\s+on|pattern|side|edge|per\s+card)\b|"
    r"\b(?:cut[ -]?out|window|opening|hole|sq|corners?|from|long(?:er)?\s+side)\b",
    re.IGNORECASE,
)
_SIZE = re.compile(
    rf"(?<![\w/.]){_EITHER}\s*(?:\bby\b|\btimes\b|x|\*)\s*{_EITHER}(?![\w/])(?!\s*[x*]\s*\d)", re.IGNORECASE
)
# “½ x 4 and ¼ x 4” are two sizes.
_MIXED = re.compile(
    rf"(?<![\w/])(?:\d+|{_WORD})\s+and\s+(?:{_FRACTION})\b(?!\s+inch)(?!\s*[x*]\s*\d)"
    rf"|(?<![\w/])(?<!x )(?<!by )(?:\d+|{_WORD})\s+and\s+(?:{_FRACTION})\b(?=\s*[x*]\s*\d)",
    re.IGNORECASE,
)
_INCHES = re.compile(
    rf"\b(?P<said>{_SAID})\s*(?P<unit>inch(?:es)?|mm|cm)\b(?:\s+and\s+(?P<more>{_FRACTION})\b)?", re.IGNORECASE
)
_ROUND = re.compile(rf"\b(?P<shape>circle|square|scallop)\s+(?P<said>{_SAID})(?!\w)", re.IGNORECASE)
_LESS = re.compile(
    rf"(?<![\w/.])(?P<one>{LENGTH})\s*(?P<how>less|minus|plus)\s+(?P<other>{LENGTH})(?=\s*(?:x|\*|by)\s|\s+\w+\s*$|"
    r"\s+[a-z])(?!\s+(?:overhang|kerf))",
    re.IGNORECASE,
)
_HALF_OF = re.compile(
    rf"(?<=x\s)half\s+of\s+(?P<length>{LENGTH})|\bhalf\s+of\s+(?P<first>{LENGTH})(?=\s*$)", re.IGNORECASE
)
_SIDES = tuple(
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        rf"\bw(?:idth)?\s*[:=]?\s*(?P<w>{LENGTH})\s*[x,;]?\s*(?:and\s+)?\bh(?:eight)?\s*[:=]?\s*(?P<h>{LENGTH})",
        rf"\bh(?:eight)?\s*[:=]?\s*(?P<h>{LENGTH})\s*[x,;]?\s*(?:and\s+)?\bw(?:idth)?\s*[:=]?\s*(?P<w>{LENGTH})",
        rf"(?<![\w/.])(?P<w>{LENGTH})\s*across\s*[x,;]?\s*(?:and\s+)?(?P<h>{LENGTH})\s*down\b",
        rf"(?<![\w/.])(?P<w>{LENGTH})\s*\(w(?:ide)?\)\s*[x,;]?\s*(?P<h>{LENGTH})\s*\(h(?:igh)?\)",
        rf"(?<![\w/.])(?P<h>{LENGTH})\s*(?:long|high|tall)\b(?P<between>[^\d]*?)\s*(?P<w>{LENGTH})\s*wide\b",
        rf"(?<![\w/.])(?P<h>{LENGTH})\s*(?:long|high|tall)\b\s*[x,]?\s*(?P<w>{LENGTH})(?!\s*(?:from|x|by|wide|\d))",
        rf"(?<![\w/.])(?P<w>{LENGTH})\s*wide\b(?P<between>[^\d]*?)\s*(?P<h>{LENGTH})\s*(?:long|high|tall)\b",
    )
)
# A ribbon that is so wide and so long has no size to be cut to.
_BY_LENGTH = re.compile(rf"\b(?:{'|'.join(LENGTHWISE)})s?\b", re.IGNORECASE)
_ACROSS = re.compile(
    rf"(?:\b(?P<kind>circle|scallop)\s*(?:with|of)?\s*,?\s*)?(?:Ø|\bdia(?:m(?:eter)?)?\b\.?)\s*(?:of\s+)?"
    rf"(?P<length>{LENGTH})|\b(?P<shape>circle|scallop)\s+(?:of\s+)?(?P<long>{LENGTH})\s*(?:in\s+)?diameter\b",
    re.IGNORECASE,
)
_SERIES = re.compile(r"(?<![\w/])A(?P<number>[4-8])\b(?!\s*(?:envelope|$))", re.IGNORECASE)
# “⅛ smaller all round” is a border.
_ALL_ROUND = re.compile(
    rf"(?<![\w/.])(?P<length>{LENGTH})\s*smaller\s+all\s+(?:a?round)|\ball\s+(?:a?round)\s+(?P<less>{LENGTH})\s*smaller\b|"
    rf"(?<![\w/.])(?P<each>{LENGTH})\s*all\s+(?:a?round)\s+smaller\b",
    re.IGNORECASE,
)
_FAR = re.compile(
    rf"(?:(?P<much>\d+/\d+|\d*[.,]\d+|\d+(?:\s+\d+/\d+)?|half\s+an?|an?|{_WORD})\s*)?"
    r"\b(?P<unit>foot|feet|ft|yards?|yds?|metres?|meters?|(?<=\d\s)m)\b\.?(?:\s+of\b)?",
    re.IGNORECASE,
)
# “2 x 6 in twine”: a number of pieces and their length.
_OF_LENGTH = re.compile(
    rf"\s*(?P<many>\d{{1,2}})\s*(?:x|\*|@)\s*(?P<length>{LENGTH}(?<=[\"a-z.]))\s*(?:of\s+)?"
    rf"(?P<name>(?:[a-z-]+\s+)?(?:{'|'.join(LENGTHWISE)})s?)\s*",
    re.IGNORECASE,
)
_DOZEN = re.compile(rf"\b(?:(?P<half>half\s+an?|an?\s+half|1/2)|(?P<much>\d+|{_WORD}|an?))\s+dozen\b", re.IGNORECASE)
_LABEL = re.compile(r"^\s*(?P<place>inside|front|back)\s*:\s*(?P<rest>\S.*)$", re.IGNORECASE)
_LONG = {"f": 12, "y": 36}
# “With a 2 inch circle cut out”, “minus a 2 x 3 window”: the hole behind its size.
_HOLE = re.compile(
    rf"\b(?:with|and|minus|less)\s+(?:an?\s+)?(?P<size>{SIZE}|{LENGTH})\s*"
    r"(?P<kind>circle|square|oval|rectangle)?(?:ular|r)?\s*(?:window|opening|hole|"
    r"(?:cut[ -]?out|cut\s+away)(?:\s+(?:of|in|from)\s+(?:the\s+)?(?:middle|centre|center))?)\b",
    re.IGNORECASE,
)
_ROUND_HOLE = re.compile(
    rf"\b(?:with|w/|and)\s*(?:an?\s+)?(?P<length>{LENGTH})\s*hole\b(?P<top>\s+(?:at|in|near)\s+(?:the\s+)?top)?",
    re.IGNORECASE,
)
_FROM_EDGE = re.compile(
    r"(?P<size>\d\s*x\s*\d+)\s+(?P<part>\d+/\d+)"
    r"(?=\s+(?:in\s+)?(?:up\s+|down\s+)?from\s+(?:the\s+)?(?:left|right|top|bottom)\b)",
    re.IGNORECASE,
)
_LONG_SHORT = re.compile(
    rf"\blong(?:er)?\s+(?:side|edge)\s*[:=]?\s*(?P<long>{LENGTH})[\s,;x]*(?:and\s+)?(?:the\s+)?"
    rf"short(?:er)?\s+(?:side|edge)\s*[:=]?\s*(?P<short>{LENGTH})",
    re.IGNORECASE,
)
_FOLDS = re.compile(rf"\bfolds\s+(?:at\s+)?(?={LENGTH})", re.IGNORECASE)
_CORNERS = re.compile(
    r"\b(?:with\s+)?(?:the\s+)?corners\s+(?:are\s+)?round(?:ed)?\b|"
    r"\bround(?:ed)?\s+(?:off\s+)?(?:all\s+)?(?:the\s+)?(?:four\s+|4\s+)?corners\b",
    re.IGNORECASE,
)
_ALL_FOUR = re.compile(r"\ball\s+(?:4|four)(?:\s+corners)?\b", re.IGNORECASE)
_SQ = re.compile(r"\bsq\.", re.IGNORECASE)
_BTM = re.compile(r"\bbtm\b\.?", re.IGNORECASE)
_ON_FOAM = re.compile(
    r"\braised\s+(?:up\s+)?(?:on|with)\s+(?:some\s+)?foam(?:\s+(?:squares?|dots?|tape|pads?))?\b", re.IGNORECASE
)
# What the fold is called when its lines follow.
_FOLD_NAME = re.compile(r"\b(?:gate|tri|z|accordion)[ -]?fold(?:ed)?\s*[:,]\s*(?=scor)", re.IGNORECASE)
_PER_CARD = re.compile(r"^\s*(?P<many>\d{1,2})\s+(?:per|for\s+(?:each|every))\s+card\s*:\s*", re.IGNORECASE)
_SCORE_ON_SIDE = re.compile(
    rf"\bscored?\s+(?:at\s+)?(?P<at>{LENGTH})\s*(?:on|along|of)\s+the\s+(?P<side>long|short|{LENGTH})(?:er|est)?\s+(?:side|edge)\b",
    re.IGNORECASE,
)
_FOLDS_TO = re.compile(
    rf"(?P<one>{SIZE})(?P<between>[^\d]*?),?\s*\bfold(?:s|ed)\s+(?:down\s+|over\s+)?to\s+(?P<to>{SIZE})", re.IGNORECASE
)
_OPENING = re.compile(rf"(?<=[\s,])opening\s+(?:of\s+)?(?={SIZE})", re.IGNORECASE)
_PATTERN_UP = re.compile(r"\bpattern\s+upright\b", re.IGNORECASE)
_SHORT = (
    (_OPENING, "window "),
    (_PATTERN_UP, "upright"),
    (_FOLDS, "score "),
    (_CORNERS, "rounded corners"),
    (_ALL_FOUR, "all corners"),
    (_SQ, "sq"),
    (_BTM, "bottom"),
    (_ON_FOAM, "raised"),
    (_FOLD_NAME, ""),
)
_SCORE_FIRST = re.compile(rf"scored?\s+(?P<rest>.*{SIZE}.*)\s+at\s+(?P<at>{LENGTH})\s*$", re.IGNORECASE)


def as_written(line: str, ruler: Ruler) -> str:
    """The line as a list has it; the same line where nothing of the kind is said in it."""
    typed, sign, note = line.partition("#")
    if not _TRIGGER.search(typed) or CALLED.match(typed):
        return line
    words = plain(typed)
    for step in (
        _mixed,
        _dozens,
        _how_many,
        _far,
        _plain_words,
        _holes,
        _label,
        _all_round,
        _sums,
        _sizes,
        _inches,
        _rounds,
        _sides,
        _across,
        _series,
    ):
        words = step(words, ruler)
    return line if words == plain(typed) else f"{words.rstrip()}{'  ' if sign else ''}{sign}{note}"


def with_own_words(line: str, words: Sequence[tuple[str, str]]) -> str:
    """The line with the designer's own words as what they stand for, unless that stands there already."""
    typed, sign, note = line.partition("#")
    pattern = any_of(tuple(word for word, _ in words))
    if not pattern or not pattern.search(typed):
        return line
    stands_for = {word.casefold(): means for word, means in words}

    def meant(found: re.Match[str]) -> str:
        means = stands_for[re.sub(r"\s+", " ", found.group()).casefold()]
        return found.group() if means.casefold() in typed.casefold() else means

    return f"{pattern.sub(meant, typed)}{sign}{note}"


def _value(said: str) -> str:
    """``5 1/4`` for “five and a quarter”; figures stay as they are."""
    words = re.sub(r"\s+(?:of\s+)?(?:an?\s+)?$", "", said.strip().casefold())
    whole, joined, part = words.partition(" and ")
    if not joined:
        whole, part = ("", words) if re.search(_PART, words) or "/" in words else (words, "")
    text = [str(_VALUES.get(whole, whole))] if whole else []
    if part:
        found = re.match(rf"(?:(?P<many>\w+)\s+)?(?P<part>{_PART})", part)
        many = (_VALUES | _MORE).get(found["many"] or "a", 0) if found else 0
        text.append(f"{many}/{_PARTS[found['part'].rstrip('s')]}" if found else part)
    return " ".join(text)


def _figures(said: str) -> str:
    """A side of a size in figures, with its unit."""
    if re.fullmatch(LENGTH, said.strip(), re.IGNORECASE):
        return said.strip()
    found = re.fullmatch(rf"(?P<said>{_SAID})(?P<unit>{_UNIT})", said.strip(), re.IGNORECASE)
    return f"{_value(found['said'])}{found['unit'] or ''}" if found else said


def _mixed(words: str, _ruler: Ruler) -> str:
    """“Four and a quarter”, wherever it stands."""
    return _MIXED.sub(lambda found: _value(found.group()), words)


def _sizes(words: str, _ruler: Ruler) -> str:
    def size(found: re.Match[str]) -> str:
        if not re.search(rf"\b(?:{_WORD}|{_PART}|and|times)\b", found.group(), re.IGNORECASE):
            return found.group()
        sides = re.split(r"\s*(?:\bby\b|\btimes\b|(?<=[\s\d\"])x(?=\s|\d)|\*)\s*", found.group(), flags=re.IGNORECASE)
        return " x ".join(_figures(side) for side in sides)

    return _SIZE.sub(size, words)


def _inches(words: str, _ruler: Ruler) -> str:
    def inches(found: re.Match[str]) -> str:
        more = f" {_value(found['more'])}" if found["more"] else ""
        return f"{_value(found['said'])}{more} {found['unit']}"

    words = re.sub(
        rf"\b(?:an?|one)\s+inch\s+and\s+(?={_FRACTION})", lambda _: "one inch and ", words, flags=re.IGNORECASE
    )
    return _INCHES.sub(inches, words)


def _rounds(words: str, _ruler: Ruler) -> str:
    return _ROUND.sub(lambda found: f"{found['shape']} {_value(found['said'])}", words)


def _sums(words: str, ruler: Ruler) -> str:
    def of_two(found: re.Match[str]) -> str:
        try:
            one, other = (parse_length(found[name].strip(), ruler) for name in ("one", "other"))
        except LengthError:
            return found.group()
        ticks = one + other if found["how"].lower() == "plus" else one - other
        return f"{type_length(ticks, ruler.unit)} " if ticks > 0 else found.group()

    def half(found: re.Match[str]) -> str:
        try:
            ticks = parse_length((found["length"] or found["first"]).strip(), ruler)
        except LengthError:
            return found.group()
        return f"{type_length(ticks // 2, ruler.unit)} " if ticks % 2 == 0 else found.group()

    return _HALF_OF.sub(half, _LESS.sub(of_two, words))


def _sides(words: str, _ruler: Ruler) -> str:
    for pattern in () if _BY_LENGTH.search(words) else _SIDES:
        found = pattern.search(words)
        # “Score 4¼ across, 5½ down” are two places.
        if found and not re.search(r"\b(?:scor|fold|creas)", words[: found.start()], re.IGNORECASE):
            between = found.groupdict().get("between") or ""
            between = re.sub(r"^[\s,;x]*(?:(?:and|by)\b)?|[\s,;]*$", "", between)
            size = f"{found['w'].strip()} x {found['h'].strip()}"
            return f"{words[: found.start()]}{size} {between} {words[found.end() :].lstrip()}"
    return words


def _across(words: str, _ruler: Ruler) -> str:
    def circle(found: re.Match[str]) -> str:
        return f"{found['kind'] or found['shape'] or 'circle'} {(found['length'] or found['long']).strip()} "

    words = re.sub(r"\bscalloped\s+circles?\b", "scallop", words, flags=re.IGNORECASE)
    words = re.sub(r"\brounded\s+(square|rectangle)\b(.*)$", r"\1\2 rounded corners", words, flags=re.IGNORECASE)
    return _ACROSS.sub(circle, words)


def _series(words: str, ruler: Ruler) -> str:
    """A sheet's name as a size, where one measures in millimetres; elsewhere it is the name of a card, too."""
    if ruler.unit != "mm" or re.match(r"\s*card\b", words, re.IGNORECASE):
        return words
    return _SERIES.sub(lambda found: "{} x {}".format(*iso_a(int(found["number"]))), words)


def _far(words: str, _ruler: Ruler) -> str:
    def inches(found: re.Match[str]) -> str:
        if found["much"] is None and found["unit"].casefold() in ("foot", "feet", "m"):
            return found.group()
        said = re.sub(r"\s+", " ", (found["much"] or "1").casefold())
        if re.search(r"/0+\b", said):
            return found.group()
        many = Fraction(1, 2) if said.startswith("half") else _fraction(said)
        metres = found["unit"].casefold().startswith("m")
        length = many * (100 if metres else _LONG[found["unit"].casefold()[0]])
        unit = "cm" if metres else "in"
        whole, part = divmod(length, 1)
        return f"{whole if whole or not part else ''}{' ' if whole and part else ''}{part if part else ''} {unit}"

    return _FAR.sub(inches, words)


def _fraction(said: str) -> Fraction:
    if said in _VALUES:
        return Fraction(_VALUES[said])
    return sum((Fraction(part.replace(",", ".")) for part in said.split()), start=Fraction(0))


def _folds_to(found: re.Match[str], ruler: Ruler) -> str:
    """The score line of what is folded in two, where the second size is half of the first."""
    try:
        (width, height), folded = parse_size(found["one"], ruler), parse_size(found["to"], ruler)
    except LengthError:
        return found.group()
    if folded == (width / 2, height):
        axis, at = "across", folded[0]
    elif folded == (width, height / 2):
        axis, at = "down", folded[1]
    else:
        return found.group()
    return f"{found['one']}{found['between']} score {type_length(at, ruler.unit)} {axis}"


def _score_on_side(found: re.Match[str], words: str, ruler: Ruler) -> str:
    """A place that is measured on a side, by the side's direction."""
    size = re.search(rf"(?<![\w/.]){SIZE}", words[: found.start()], re.IGNORECASE)
    try:
        width, height = parse_size(size.group(), ruler) if size else (0, 0)
        side = found["side"].strip().lower()
        length = {"long": max(width, height), "short": min(width, height)}.get(side) or parse_length(side, ruler)
    except LengthError:
        return found.group()
    if width == height or length not in (width, height):
        return found.group()
    return f"score {found['at'].strip()} {'across' if length == width else 'down'}"


def _plain_words(words: str, ruler: Ruler) -> str:
    """Folds, corners, sides and squares in the list's own words."""
    words = _PER_CARD.sub(r"\g<many> ", words)
    words = _FOLDS_TO.sub(lambda each: _folds_to(each, ruler), words)
    words = _SCORE_ON_SIDE.sub(lambda each: _score_on_side(each, words, ruler), words)
    found = _SCORE_FIRST.match(words)
    words = f"{found['rest']} score {found['at']}" if found else words
    words = _FROM_EDGE.sub(r"\g<size>, \g<part>", words)
    words = _LONG_SHORT.sub(lambda each: f"{each['short'].strip()} x {each['long'].strip()} ", words)
    for pattern, said in _SHORT:
        words = pattern.sub(said, words)
    return words


def _holes(words: str, _ruler: Ruler) -> str:
    """A hole behind its size."""
    if found := _ROUND_HOLE.search(words):
        rest = f"{words[: found.start()]} {words[found.end() :]}".strip()
        words = f"{rest}  hole {found['length'].strip()}{' top' if found['top'] else ''}"

    def hole(found: re.Match[str]) -> str:
        # A second size is a hole only behind a first one.
        if not re.search(LENGTH, words[: found.start()], re.IGNORECASE):
            return found.group()
        size, kind = found["size"].strip(), (found["kind"] or "").lower()
        if re.fullmatch(LENGTH, size, re.IGNORECASE) and kind not in ("circle", "square"):
            return found.group()
        return f"window {kind} {size}" if kind else f"window {size}"

    return _HOLE.sub(hole, words)


def _all_round(words: str, _ruler: Ruler) -> str:
    found = _ALL_ROUND.search(words)
    if not found:
        return words
    length = found["length"] or found["less"] or found["each"]
    return f"{words[: found.start()]}{length.strip()} border{words[found.end() :]}"


def _dozens(words: str, _ruler: Ruler) -> str:
    def count(found: re.Match[str]) -> str:
        if found["half"]:
            return "6"
        said = found["much"].casefold()
        return str(12 * (_VALUES.get(said) or int(said)))

    return _DOZEN.sub(count, words)


def _how_many(words: str, _ruler: Ruler) -> str:
    """“gems x6” is six gems."""
    found = re.fullmatch(r"\s*(?P<name>[a-z][a-z -]*?)\s+x\s?(?P<many>\d{1,3})\s*", words, re.IGNORECASE)
    if found:
        return f"{found['many']} {found['name']}"
    found = _OF_LENGTH.fullmatch(words)
    return f"{found['many']} {found['name']} {found['length']}" if found else words


def _label(words: str, _ruler: Ruler) -> str:
    """“Inside: liner 4 x 5¼” says where it goes."""
    found = _LABEL.match(words)
    if not found or not re.search(r"\d", found["rest"]):
        return words
    return f"{found['rest'].rstrip()}  on {found['place'].lower()}"
