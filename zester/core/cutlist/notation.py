"""Reading a cut list: one piece a line, as on paper.

    Card        4¼ x 5½  side fold
    Base        midnight dome
    Mat         ⅛ border on base   chalk
    2 Strips    ½ x 5¼             star chart   overhang ¼
    Sentiment   1 x 3              chalk        bottom ½   raised     # stamp first
    Moon        circle 2¼          brass        tilted 5 right
    + 6 foam squares

docs/cut-list.md says what may be written. The count is 1 if none is written. A paper may be shortened as long as only
one fits. Nothing here raises for what is typed: a wrong line carries its error.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from zester.core.cutlist.columns import Column, by_columns, columns_of, is_heading, is_row
from zester.core.cutlist.dies import ask_which, with_numbers_spelled
from zester.core.cutlist.edit import typed_size, with_rule
from zester.core.cutlist.everyday import counted_in_words, meant, other_paper_in
from zester.core.cutlist.everyday_bits import NO_SIZE
from zester.core.cutlist.find_paper import find_paper
from zester.core.cutlist.jobs import jobs_of
from zester.core.cutlist.lines import Reading, Written, take_apart
from zester.core.cutlist.measured import (
    filled,
    middle_of,
    notch_of,
    overhang_of,
    score_of,
    shape_of,
    window_of,
)
from zester.core.cutlist.odd_sizes import SAID_BY_OTHERS, larger_than, part_of_a_side
from zester.core.cutlist.spelled import DIE_NUMBER, FOR_SOMETHING_ELSE, any_of
from zester.core.cutlist.spoken import as_written, with_own_words
from zester.core.cutlist.sureness import ask_if_unsure
from zester.core.cutlist.taking import BULLET, WORD_COUNTS
from zester.core.cutlist.words import CALLED, SENTENCE, with_examples
from zester.core.errors import Choice, CutListError, LengthError, NotInForm, Question, ZesterError, sure
from zester.core.folds import Folded, base_of, fold_of, scores_for
from zester.core.geometry import goes_in
from zester.core.lengths import (
    LENGTH,
    SIXTEENTHS,
    SIZE,
    TICKS_PER_INCH,
    TICKS_PER_MM,
    Ruler,
    parse_length,
    parse_size,
    plain,
    show_length,
    show_size,
    type_length,
    with_unit,
)
from zester.core.letters import with_letters
from zester.core.pictures import ANY
from zester.core.pieces import (
    CENTRED,
    DIE_MARGIN,
    FACE_WORDS,
    FOAM,
    FOLDS,
    Bit,
    Border,
    CardLine,
    CutPiece,
    Known,
    KnownPaper,
    Outline,
    Place,
    Tool,
)
from zester.core.sizes import US_CARDS, iso_a
from zester.core.supports import seat_of

OVERLAP, OVERLAP_MM = TICKS_PER_INCH, 25 * TICKS_PER_MM
MOST_LINES = 200
MOST_OF_ONE = 500
LONGEST_LINE = 200
# Nobody cuts a piece both sides of which are shorter than this, in millimetres; a decimal is doubted up to twice that.
MAKES_SENSE_MM = 16
# No sheet that cards are cut from is longer.
LARGEST = 12 * TICKS_PER_INCH

_ONE_LENGTH = re.compile(LENGTH, re.IGNORECASE)
_TIMES = re.compile(r"\w\s+x\s?\d{1,3}$", re.IGNORECASE)
_DONE_TO_IT = re.compile(
    r",\s*(?:cut\s+out(?:\s+by\s+hand)?|fussy[ -]cut|popped\s+up|(?:raised\s+)?on\s+foam|raised|stamped|"
    r"punched|embossed)$",
    re.IGNORECASE,
)
_COUNT = re.compile(r"(?P<count>-?\d+)(?!\s*[/.]\s*\d)\s*(?:x(?=\s|$)\s*|of\s+)?(?=[^\d\"]|$)", re.IGNORECASE)
_FOLD_WORDS = r"side[ -]?fold|top[ -]?fold|gate[ -]?fold|tri-?[ -]?fold|accordion|no[ -]?folds?|flat"
_CARD = re.compile(
    rf"card\b:?\s*(?:(?P<size>{SIZE})|(?P<named>A[4-8])\b)?\s*,?\s*(?P<fold>{_FOLD_WORDS})?\s*,?\s*"
    r"(?P<pocket>(?:with\s+)?(?:a\s+)?pocket(?:\s+(?:at|on|in)\s+(?:the\s+)?(?P<at>left|right|top|bottom))?)?",
    re.IGNORECASE,
)
_BIT = re.compile(
    rf"\+\s*(?:(?P<length>{LENGTH})(?=\s)|(?P<count>\d+)\s*(?:x\s+|of\s+)?)?\s*(?P<name>.*)", re.IGNORECASE
)
_AROUND = re.compile(r"\b(?:a?round)\s+(?:the\s+)?(?P<on>\S.*)$", re.IGNORECASE)
_THROUGH = re.compile(r"\bthrough\s+(?:the\s+)?(?P<on>\S.*)$", re.IGNORECASE)
# The name of a size at the end of the name of a thing.
_OF_SIZE = re.compile(r"\s+(?:[a-z]{1,2}\d[\w/]*|no\.?\s*\d+)$", re.IGNORECASE)
_SEVERAL = re.compile(r"[^\Ws]s$", re.IGNORECASE)
_LOOSE_NUMBER = re.compile(r"(?<![\w/.,-])\d+(?:/\d+)?(?![\w/])")
_HAS_UNIT = re.compile(r"(?:in|inch|inches|mm|cm|\")\.?\s*$|/", re.IGNORECASE)
# Struck out, as people do it in plain text.
_STRUCK = re.compile(r"~~.*~~|//.*", re.DOTALL)
# Alone on its line it says where all goes that stands below.
_SIDE = re.compile(
    r"[\s*=–—-]*(?:(?:for|on|to|in)\s+)?(?:the\s+)?(?P<side>inside|front|back|outside)(?:\s+of\s+(?:the\s+)?card)?"
    r"[\s:*=.–—-]*",
    re.IGNORECASE,
)
_THREE = re.compile(
    rf"(?<![\w/.])(?P<one>{LENGTH})\s*(?:x|\*)\s*(?P<two>{LENGTH})\s*(?:x|\*)\s*(?P<three>{LENGTH})(?![\w/])",
    re.IGNORECASE,
)
_SAME = re.compile(
    r"\W*(?:and\s+)?(?:(?P<many>\d{1,3}|one|two|three|four|five|six)\s+(?:more\s+)?(?:of\s+)?)?(?:the\s+)?"
    r"(?:same(?:\s+(?:size|thing|again))?|ditto|do\.|another(?:\s+one)?|one\s+more)(?:\s+again)?"
    r"(?:\s+(?:but\s+)?(?:in|from|of|with)\s+(?P<paper>[a-z][a-z ]*?))?[\s.!]*",
    re.IGNORECASE,
)
# Behind a count: what says only that it is one.
_NO_NAME = re.compile(r"(?:ea|each|pcs?|nos?|off|punched|stitched|scalloped)\.?", re.IGNORECASE)
_ONLY = re.compile(r"\bonly\s+(?:in\s+)?(?P<version>\w[\w-]*)\s*$", re.IGNORECASE)


# So many words on a line of their own are a heading.
HEADING_WORDS = 2


@dataclass
class _Sofar:
    """What the lines above one have said."""

    known: Known
    ruler: Ruler
    pieces: list[CutPiece] = field(default_factory=list)
    card: CardLine | None = None
    paper: str = ""
    """The paper of lines that name none."""
    columns: tuple[Column, ...] = ()
    """What the columns of a table hold, once its headings were read."""
    side: str = ""
    """Where what stands below a heading goes: ``inside`` or ``back``; empty for the front."""
    own: Known = field(init=False)
    """What is known without the lettered sheets that the line speaks of."""

    def __post_init__(self) -> None:
        """Before any line."""
        self.own = self.known

    @property
    def folded(self) -> Folded | None:
        """The card as far as it is written."""
        return fold_of(base_of(self.pieces), self.card)

    def names(self) -> dict[str, str]:
        """What a piece may be on, as it may be written, and what that means; the latest of a name counts."""
        meant = dict(FACE_WORDS)
        for piece in self.pieces:
            on = "=front" if piece.role == "base" else f"#{piece.number}"
            for words in (piece.name.casefold(), str(piece.number)):
                meant[words] = on
        return meant


def read_list(text: str, known: Known | Sequence[KnownPaper], ruler: Ruler = SIXTEENTHS) -> list[Reading]:
    """Read a whole cut list; one Reading a line, pieces numbered from 1 in the order they stand.

    Never raises for what is written: a wrong line carries its error, and keeps its number free, so that mending it
    does not rename the pieces below. The first line too many is an error, those after it are not looked at.
    """
    return list(_read_list(text, known if isinstance(known, Known) else Known(tuple(known)), ruler))


@lru_cache(maxsize=96)
def _read_list(text: str, known: Known, ruler: Ruler) -> tuple[Reading, ...]:
    """The same list is read again for the class, the checks and the next keystroke in another card."""
    reader = ListReader(known, ruler)
    readings = [reader.read(line) for line in text.splitlines()[: MOST_LINES + 1]]
    return tuple(_with_remarks(_checked_matches(readings, known)))


def _with_remarks(readings: list[Reading]) -> list[Reading]:
    """A remark on a line of its own is about what stands above it; a word or two, or one with a colon, is a heading."""
    found, last = list(readings), -1
    for at, reading in enumerate(readings):
        if reading.piece or reading.bit:
            last = at
        elif reading.error or reading.card or not reading.text.strip():
            last = -1
        elif last >= 0 and reading.text.lstrip().startswith("#"):
            remark = reading.text.strip().lstrip("# ").rstrip()
            struck = _STRUCK.fullmatch(remark)
            if len(remark.split()) > HEADING_WORDS and not struck and not remark.endswith(":"):
                found[last] = _with_note(found[last], remark)
    return found


def _with_note(reading: Reading, remark: str) -> Reading:
    """The reading with a remark more."""
    if reading.piece:
        note = "; ".join(filter(None, (reading.piece.note, remark)))
        return replace(reading, piece=replace(reading.piece, note=note))
    bit = sure(reading.bit)
    return replace(reading, bit=replace(bit, note="; ".join(filter(None, (bit.note, remark)))))


# What a line that holds none of these words means does not depend on what the pieces above are called or measure.
_ON_ABOVE = re.compile(
    r"\b(?:on|onto|upon|behind|a?round|through|below|under|borders?|scrap|same|ditto|another|do|more|side|edge|than)\b"
    r"|^\s*[\"'″”]",
    re.IGNORECASE,
)
MOST_REMEMBERED = 4000


@lru_cache(maxsize=32)
def _remembered(known: Known, ruler: Ruler) -> dict[tuple[Any, ...], Reading | ZesterError]:
    """Readings of lines that were read with these papers, tools and this ruler, by all that they depend on."""
    return {}


class ListReader:
    """Reads a list line by line, each with what the lines above it have said; never raises for what is written.

    From one keystroke to the next most lines are as they were: what was read of them is remembered.
    """

    def __init__(self, known: Known, ruler: Ruler):
        self._sofar = _Sofar(known, ruler)
        self._lines = self._number = 0
        self._remembered = _remembered(known, ruler)

    def read(self, line: str, paper: str = "") -> Reading:
        """The next line; ``paper`` is the name of the one that it is cut from if it names none."""
        index, sofar = self._lines, self._sofar
        self._lines, sofar.paper = index + 1, paper
        try:
            if index >= MOST_LINES:
                raise CutListError(f"A card’s list holds {MOST_LINES} lines", mend="Make a second card of the rest")
            reading = self._read(index, line)
        except (LengthError, CutListError) as error:
            self._number += 1
            # What is remembered holds on to nothing of how it came about.
            error.__traceback__ = error.__context__ = None
            error.mend = with_examples(error.mend, sofar.ruler.unit)
            names = tuple(sofar.names()) if _ON_ABOVE.search(line) else ()
            written = take_apart(line[: 2 * LONGEST_LINE], sofar.known, names)
            return Reading(line=index, text=line, error=error, written=written)
        self._number += reading.piece is not None
        return reading

    def _read(self, index: int, line: str) -> Reading:
        """The line, from memory where nothing that it could depend on is otherwise."""
        sofar, number = self._sofar, self._number + 1
        if _ON_ABOVE.search(line):
            return _read(index, line, number, sofar)
        last = sofar.pieces[-1].number if sofar.pieces else 0
        key = (line, number, last, sofar.card, sofar.paper, sofar.columns, sofar.side)
        known = self._remembered.get(key)
        if isinstance(known, ZesterError):
            raise known.with_traceback(None)
        if known is None:
            try:
                known = _read(index, line, number, sofar)
            except (LengthError, CutListError) as error:
                self._remember(key, error)
                raise
            if (sofar.columns, sofar.side) == key[5:]:
                self._remember(key, known)
            return known
        if known.piece:
            sofar.pieces.append(known.piece)
        sofar.card = known.card or sofar.card
        return known if known.line == index else replace(known, line=index)

    def _remember(self, key: tuple[Any, ...], found: Reading | ZesterError) -> None:
        if len(self._remembered) >= MOST_REMEMBERED:
            self._remembered.clear()
        self._remembered[key] = found


def _read(index: int, line: str, number: int, sofar: _Sofar) -> Reading:
    sofar.known = with_letters(sofar.own, line)
    if _STRUCK.fullmatch(line.partition("#")[0].strip()):
        return Reading(line=index, text=line)
    heading = _SIDE.fullmatch(line.partition("#")[0])
    if heading:
        side = heading["side"].lower()
        sofar.side = "" if side in ("front", "outside") else side
        return Reading(line=index, text=line)
    _ask_about_the_same(line, sofar)
    if SAID_BY_OTHERS.search(line):
        _ask_about_other_things(line, sofar)
    line_as_sent, line = line, _with_count_apart(line)
    own = with_own_words(line, sofar.known.words)
    spelled = as_written(with_numbers_spelled(own, sofar.known), sofar.ruler)
    reading = _read_spelled(index, spelled, number, sofar)
    if sofar.side and _has_no_side(reading):
        typed, sign, note = (reading.meant or spelled).partition("#")
        spelled = f"{typed.rstrip()}  on {sofar.side}{'  ' if sign else ''}{sign}{note}"
        reading = _read_spelled(index, spelled, number, sofar)
    ask_if_unsure(reading, sofar.known, sofar.ruler.unit)
    if reading.piece:
        sofar.pieces.append(reading.piece)
    sofar.card = reading.card or sofar.card
    return reading if spelled == line_as_sent else replace(reading, text=line_as_sent, meant=reading.meant or spelled)


def _with_count_apart(line: str) -> str:
    """“2x 1 x 4 strips”: of three numbers with “x” between them one is how many, the first or the last.

    Raises
    ------
    Question
        If it could be either.
    """
    typed, sign, note = line.partition("#")
    words = plain(typed)
    found = _THREE.search(words)
    if not found:
        return line
    one, two, three = (found[name].strip() for name in ("one", "two", "three"))
    before, after = words[: found.start()].rstrip(), words[found.end() :].strip()
    ways = []
    if one.isdigit() and not before:
        ways.append(f"({one}) {two} x {three} {after}")
    if three.isdigit():
        ways.append(f"{before} {one} x {two} {after} ({three})".strip())
    if len(ways) > 1 and not re.match(r"\s*\d+x\s", words, re.IGNORECASE):
        raise Question("Which of the three numbers is how many?", choices=tuple(Choice(way, way) for way in ways))
    return f"{ways[0]}{'  ' if sign else ''}{sign}{note}" if ways else line


def _ask_about_the_same(line: str, sofar: _Sofar) -> None:
    """“The same in star chart”: the piece above from another paper, if that is meant."""
    if not sofar.pieces:
        return
    above = re.match(r"\s*(?:\"|''|″|”)\s+(?P<rest>\S.*)$", line)
    if above:
        again = f"{sofar.pieces[-1].name}  {above['rest']}"
        raise Question(
            "Is that the same as above?", choices=(Choice(again, again), Choice("A remark", f"# {line.strip()}"))
        )
    found = _SAME.fullmatch(plain(line.partition("#")[0]).strip())
    if not found:
        return
    last, remark = sofar.pieces[-1], Choice("Keep it as a remark", f"# {line.strip()}")
    paper = (found["paper"] or "").strip() or sofar.known.name_of(last.paper)
    said = (found["many"] or "").casefold()
    number = WORD_COUNTS.get(said) or (int(said) if said.isdigit() else last.count)
    many = f"{number} " if number > 1 else ""
    again = f"{many}{last.name}  {typed_size(last.width, last.height, sofar.ruler.unit)}  {paper}"
    raise Question(f"Is that {last.name} once more?", choices=(Choice(again, again), remark))


def _ask_about_other_things(line: str, sofar: _Sofar) -> None:
    """Sizes by those of the card or of a piece above: “half of the long side”, “⅛ larger than the panel”."""
    card, folded = sofar.card, sofar.folded
    closed = card if card and card.width and card.height else folded
    things = [("the card", sure(closed.width), sure(closed.height))] if closed else []
    things += [(each.name, each.shown_width, each.shown_height) for each in sofar.pieces if each.role == "base"]
    names = sofar.names()
    by_name = {f"#{each.number}": (each.shown_width, each.shown_height) for each in sofar.pieces}
    sizes = {name: by_name[key] for name, key in names.items() if key in by_name}
    asked = part_of_a_side(line, things, sofar.ruler) or larger_than(line, sizes, sofar.ruler)
    if asked:
        what, choices = asked
        raise Question(what, choices=choices)


def _has_no_side(reading: Reading) -> bool:
    """Whether a piece goes where the heading above it says."""
    piece = reading.piece
    if piece is None or piece.role in ("base", "band") or piece.loose:
        return False
    return not (piece.place.on or piece.place.behind or piece.border)


def _read_spelled(index: int, line: str, number: int, sofar: _Sofar) -> Reading:
    words = plain(line).split("#")[0].strip()
    if not words:
        return Reading(line=index, text=line)
    if len(words) > LONGEST_LINE:
        raise CutListError(f"A line holds {LONGEST_LINE} letters", mend="Put remarks in a line of their own, after #")
    around = len(line.partition("#")[0]) - len(words)
    if around > LONGEST_LINE:
        raise CutListError(f"{around:,} spaces stand around these words", mend="Take most of them out")
    if is_heading(words):
        sofar.columns = columns_of(words)
        return Reading(line=index, text=line)
    try:
        if is_row(line.partition("#")[0]):
            raise NotInForm("This row of a table is not understood", mend="Write name, size and paper")
        reading = _as_written(index, line, words, number, sofar)
    except (CutListError, LengthError) as error:
        reading = _as_meant(index, line, number, sofar, error)
    return reading


def _as_written(index: int, line: str, words: str, number: int, sofar: _Sofar) -> Reading:
    """The line in the list's own words."""
    if words.startswith("+"):
        note = line.partition("#")[2].strip()
        bit = replace(_bit(words, sofar), note=note, after=sofar.pieces[-1].number if sofar.pieces else 0)
        return Reading(line=index, text=line, bit=bit)
    card = _card_line(words, sofar)
    if card:
        return Reading(line=index, text=line, card=card)
    piece, written = _piece(line, number, sofar)
    return Reading(line=index, text=line, piece=piece, written=written)


def _as_meant(index: int, line: str, number: int, sofar: _Sofar, first: ZesterError) -> Reading:
    """The line in everyday words: read as it is written anew, or asked about."""
    try:
        anew = meant(by_columns(line, sofar.columns), sofar.known, tuple(sofar.names()), sofar.ruler, sofar.paper)
    except Question as question:
        if isinstance(first, Question) and (first.choices or (first.missing and question.what == NO_SIZE)):
            # Of a base nothing is missing but its paper; of a card of a named size only which is meant.
            raise first from None
        choices = _readable(question.choices, number, sofar)
        asked = type(first) in (NotInForm, Question)
        if not isinstance(first, NotInForm) or not (choices or question.missing or asked):
            raise first from None
        raise Question(
            question.what,
            mend=question.mend,
            choices=choices,
            missing=question.missing,
            of_people=question.of_people,
        ) from None
    except ZesterError as error:
        sure_of_the_rest = isinstance(first, Question) and first.choices
        raise (error if isinstance(first, NotInForm) and not sure_of_the_rest else first) from None
    if not anew:
        return Reading(line=index, text=line)
    try:
        reading = _as_written(index, anew, plain(anew).split("#")[0].strip(), number, sofar)
    except ZesterError as error:
        # What is wrong with a line that was understood is more use than that it is not written as a list is.
        raise (error if isinstance(first, NotInForm) else first) from None
    return replace(reading, text=line, meant=anew)


def _readable(choices: Sequence[Choice], number: int, sofar: _Sofar) -> tuple[Choice, ...]:
    """Those of the readings that are right as they stand, each once; without any those that ask one thing more."""
    ways: dict[str, dict[str, Choice]] = {"reads": {}, "asks": {}}
    for choice in choices:
        found = {_becomes(line, number, sofar) for line in choice.line.split("\n")}
        if "fails" not in found:
            ways["asks" if "asks" in found else "reads"].setdefault(choice.line, choice)
    return tuple((ways["reads"] or ways["asks"]).values())


def _becomes(line: str, number: int, sofar: _Sofar) -> str:
    """Whether a line that is offered ``reads``, ``asks`` one thing more, or ``fails``."""
    words = plain(line).split("#")[0].strip()
    try:
        if words:
            _as_written(0, line, words, number, sofar)
    except NotInForm as more:
        if getattr(more, "choices", ()):
            return "asks"
    except ZesterError:
        return "fails"
    else:
        return "reads"
    try:
        anew = meant(line, sofar.known, tuple(sofar.names()), sofar.ruler, sofar.paper)
        _as_written(0, anew, plain(anew).split("#")[0].strip(), number, sofar)
    except Question as more:
        return "asks" if more.choices else "fails"
    except ZesterError:
        return "fails"
    return "reads"


def read_line(
    line: str, number: int, known: Known | Sequence[KnownPaper], ruler: Ruler = SIXTEENTHS
) -> CutPiece | None:
    """Read one line by itself; None for an empty line or a remark. Raises CutListError or LengthError."""
    sofar = _Sofar(known if isinstance(known, Known) else Known(tuple(known)), ruler)
    return _read(0, line, number, sofar).piece


def _named_card(words: str, name: str, ruler: Ruler) -> tuple[int, int]:
    """The sides of a card of a series. Where one measures in inches some names mean a card for an envelope, too."""
    width, height = iso_a(int(name[1]))
    if ruler.unit == "in" and name in US_CARDS:
        after = words[words.upper().index(name) + len(name) :]
        choices = (
            Choice(f"{width} × {height} mm, of the A series", f"card {width} x {height} mm{after}"),
            Choice(f"{US_CARDS[name]} in, for an envelope {name}", f"card {US_CARDS[name]}{after}"),
        )
        raise Question(f"Which {name} is meant?", choices=choices)
    return width * TICKS_PER_MM, height * TICKS_PER_MM


def _card_line(words: str, sofar: _Sofar) -> CardLine | None:
    """The card's own line; None if the line is a piece that happens to be called “Card …”."""
    found = _CARD.match(words)
    if not found or not (found["size"] or found["named"] or found["fold"] or found["pocket"]):
        return None
    if found.end() < len(words):
        rest = words[found.end() :].strip(" ,")
        if found["size"] and not found["fold"] and "fold" in rest.split():
            raise CutListError(f"“{rest}” is no fold", mend=f"Write {', '.join(list(FOLDS.values())[:4])} or no fold")
        return None
    width, height = parse_size(found["size"], sofar.ruler) if found["size"] else (None, None)
    if found["named"]:
        width, height = _named_card(words, found["named"].upper(), sofar.ruler)
    spelled = re.sub(r"[\s-]", "", (found["fold"] or "").casefold())
    keys = {"sidefold": "side", "topfold": "top", "gatefold": "gate", "trifold": "tri", "accordion": "accordion"}
    default = "none" if found["pocket"] else "side"
    fold = keys.get(spelled, "none") if spelled else default
    return CardLine(width, height, fold, bool(found["pocket"]), (found["at"] or "").lower())


def _bit(words: str, sofar: _Sofar) -> Bit:
    ruler = sofar.ruler
    found = sure(_BIT.fullmatch(words))
    name = found["name"].strip(" ,")
    only = _ONLY.search(name)
    name = name[: only.start()].strip(" ,") if only else name
    version = only["version"].casefold() if only else ""
    if not any(char.isalpha() for char in name):
        raise CutListError("What is it?", mend="Write it like: + 6 foam squares, or + 12 in ribbon")
    length, count = found["length"], found["count"]
    name, where = _bit_where(name, sofar) if length or count or _THROUGH.search(name) else (name, {})
    # “12 in ribbon” is a length, “6 foam squares” a number: it has a unit or a fraction, or it has none.
    if length and _HAS_UNIT.search(length):
        return Bit(name, length=parse_length(length, ruler), only=version, **where)
    if length and not length.isdigit():
        raise CutListError(f"“{length}” of what measure?", mend="Write a unit after a length: + 12 in ribbon")
    _measured_in(name, length or count)
    around = _AROUND.search(name)
    if around and not (length or count):
        return _bit_around(name[: around.start()].strip(), around["on"], version, sofar)
    if not (length or count) and _SEVERAL.search(_OF_SIZE.sub("", name)):
        raise NotInForm(f"How many {name}?", mend=f"Write the number: + 6 {name}")
    count = int(length or count or 1)
    if not 1 <= count <= MOST_OF_ONE:
        raise CutListError(f"{count} for one card is not possible", mend=f"Write 1 to {MOST_OF_ONE}")
    return Bit(name, count, only=version, **where)


def _bit_where(name: str, sofar: _Sofar) -> tuple[str, dict[str, Any]]:
    """The name without what it goes round or through, and the number of that; all of it if nothing is called so."""
    for way, pattern in (("around", _AROUND), ("through", _THROUGH)):
        found = pattern.search(name)
        meant = sofar.names().get(found["on"].strip().casefold(), "") if found else ""
        if found and meant.startswith("#"):
            return name[: found.start()].strip(" ,"), {way: int(meant[1:])}
    return name, {}


def _measured_in(name: str, much: str | None) -> None:
    """A number in the name of a bit is a measure of it (“ribbon ½ in wide”) or was not used."""
    # “envelope C6” is the name of a size.
    loose = [each for each in _ONE_LENGTH.finditer(name) if not name[: each.start()][-1:].isalpha()]
    found = [each for each in loose if not re.match(r"\s*wide\b", name[each.end() :])]
    if found and not (name[: found[0].start()].rstrip().endswith(("no.", "no")) and much):
        raise NotInForm(
            f"What is {found[0].group().strip()} in “{name}”?", mend="Write how many, or how long, in front"
        )


def _bit_around(name: str, on: str, version: str, sofar: _Sofar) -> Bit:
    """A ribbon round a layer: there and back across its width, and what is left to tie or glue."""
    meant = _target(on.casefold(), sofar.names())
    under = next((piece for piece in sofar.pieces if f"#{piece.number}" == meant), None)
    if under is None:
        raise CutListError(f"Round the {on}: how long is that?", mend=f"Write the length, like: + 10 in {name}")
    over = OVERLAP if sofar.ruler.unit == "in" else OVERLAP_MM
    return Bit(name, length=2 * under.shown_width + over, only=version, around=under.number)


def _piece(line: str, number: int, sofar: _Sofar) -> tuple[CutPiece, Written]:
    names = sofar.names()
    sized = sofar.card is not None and sofar.card.width is not None
    written = take_apart(line, sofar.known, tuple(names), base_without_size=sized)
    ask_which(line, sofar.known)
    _no_size_of_a_die(written, sofar)
    if not written.how:
        _no_size(written, line)
    _no_minus(written)
    count, name = _count_and_name(written.plain[written.head[0] : written.head[1]])
    scrap = _scrap_of(written, sofar.pieces)
    paper = _paper_of_scrap(written, scrap, sofar.known.papers) if scrap else _paper(written, sofar.known.papers)
    tool = next((tool for tool in sofar.known.tools if tool.name.casefold() == written.tool.casefold()), None)
    if not written.from_paper and other_paper_in(name, paper.key, sofar.known):
        raise NotInForm(f"“{name}” sounds like another paper than {paper.name}", mend=f"Write: from {paper.name}")
    if written.with_tool and tool and tool.kind != "folder" and written.how == "size":
        raise NotInForm(
            "Is it cut to that shape, or is it a hole in it?", mend="Write die-cut or window before the tool"
        )
    words = _words(written)
    runs = paper.runs(words["side"])
    upright = bool(written.rule("upright")) or runs == "upright"
    piece = CutPiece(
        number=number,
        count=count,
        name=name,
        width=0,
        height=0,
        paper=paper.key,
        turn=runs == "free" and not upright,
        upright=upright,
        filler=bool(written.rule("filler")),
        from_middle=bool(written.rule("from_middle")),
        tool=tool.name if tool else "",
        note=written.note,
        jobs=jobs_of(written, tool),
        loose=_loose(written, name),
        out_of=scrap.number if scrap else 0,
        either_side=bool(written.rule("either")),
        place=_place(written, _Above(names, sofar), sofar.ruler),
        **words,
    )
    piece = replace(
        piece, role=_role(written, name, bool(written.rule("shape")) or written.how == "round" or bool(tool))
    )
    if written.how == "picture":
        piece = _pictured(piece, written, paper)
    piece = _sized(piece, written, tool, sofar)
    if written.rule("folded") and not piece.score:
        raise _folded_where(piece, written, sofar.ruler)
    _sure_of_shape(piece, written, sofar.ruler)
    _check_rules(piece, bool(written.rule("match")))
    _check_fits(piece, paper, sofar.ruler)
    if scrap and not goes_in(piece.width, piece.height, scrap.width, scrap.height, turn=True):
        raise CutListError(
            f"{show_size(piece.width, piece.height, sofar.ruler.unit)} does not come out of {scrap.name}",
            mend=f"That is {show_size(scrap.width, scrap.height, sofar.ruler.unit)}",
        )
    return piece, written


def _folded_where(piece: CutPiece, written: Written, ruler: Ruler) -> Question:
    """In half most likely: across its longer side."""
    across, half = piece.shown_width >= piece.shown_height, max(piece.shown_width, piece.shown_height) // 2
    score = f"score {'across' if across else 'down'} {type_length(half, ruler.unit)}"
    plain_piece = with_rule(written, "folded", "")
    lines = [f"{plain_piece}{', ' if '#' in plain_piece else '  # '}folded"]
    if half % ruler.marks(ruler.unit) == 0:
        lines.insert(0, with_rule(written, "folded", score))
    choices = tuple(Choice(line, line) for line in lines)
    return Question("Folded where?", mend="Write where it is scored, like: score 4¼", choices=choices)


def _pictured(piece: CutPiece, written: Written, paper: KnownPaper) -> CutPiece:
    """A picture of its paper, as large as its part of the sheet."""
    if paper.pictures is None:
        raise CutListError(
            f"{paper.name} carries no pictures", mend="Say at the paper on the shelf how many, or write a size"
        )
    which = (sure(written.found)["which"] or "").casefold()
    names = [name for name, _ in paper.pictures.each]
    spelled = next((each for each in (which, which.rstrip("s"), f"{which}s") if each in names), "")
    if which and not spelled:
        have = ", ".join(names) or "not told apart"
        raise CutListError(f"No picture of {paper.name} is “{which}”", mend=f"They are: {have}")
    width, height = paper.pictures.cell(paper.width, paper.height)
    return replace(piece, picture=spelled or ANY, width=width, height=height, turn=False)


def _scrap_of(written: Written, pieces: Sequence[CutPiece]) -> CutPiece | None:
    """The scrap above that a figure is cut out of; None if it is of none."""
    if not written.rule("out_of"):
        return None
    scraps = [piece for piece in reversed(pieces) if piece.loose == "scrap"]
    scrap = next((piece for piece in scraps if "scrap" in piece.name.casefold()), next(iter(scraps), None))
    if scrap is None:
        raise CutListError("Out of which scrap?", mend="Write the scrap above it, like: Scrap 3 x 4 chalk")
    return scrap


def _paper_of_scrap(written: Written, scrap: CutPiece, papers: Sequence[KnownPaper]) -> KnownPaper:
    """The scrap's own paper; another that is named is an error."""
    own = next(paper for paper in papers if paper.key == scrap.paper)
    if written.paper_words and _paper(written, papers).key != scrap.paper:
        raise CutListError(f"{scrap.name} is {own.name}", mend="Take the paper away, or write another scrap")
    return own


def _words(written: Written) -> dict[str, Any]:
    """The rules that are words only."""
    match, side, only = written.rule("match"), written.rule("side"), written.rule("only")
    seam = written.rule("seam")
    letter = (side["side"] or "b").lower() if side else "a"
    return {
        "match": (match["word"] or "").casefold() if match else "",
        "below": bool(match and match["below"]),
        "side": letter,
        "only": only["version"].casefold() if only else "",
        "seam": seam["seam"].lower() if seam else "",
        "may": "stock" if written.rule("or_stock") else "nothing" if written.rule("may_go") else "",
    }


def _loose(written: Written, name: str) -> str:
    """Why a piece is not on the card, if it is not: by its name, by what is done to it, or because it says so.

    A figure that is cut out by hand and has a place comes back onto the card.
    """
    words = {word.rstrip("s") for word in name.casefold().split()}
    named = next((kind for kind in ("scrap", "mask", "spare") if kind in words), "")
    by_hand = any(found["how"].lower().startswith("cut") for found in written.rules.get("preparation", []))
    placed = written.on or written.rule("place") or written.rule("after") or written.rule("out_of")
    envelope = "envelope" if "envelope" in words else ""
    handed_out = "scrap" if by_hand and not placed else ""
    return named or envelope or handed_out or ("loose" if written.rule("loose") else "")


def _sized(piece: CutPiece, written: Written, tool: Tool | None, sofar: _Sofar) -> CutPiece:
    """The piece with its size and everything that is measured on it."""
    ruler = sofar.ruler
    shape = shape_of(written, tool, ruler)
    border = score = None
    if written.how == "size":
        width, height = parse_size(sure(written.found).group(), ruler)
        _sure_of_unit((width, height), written, ruler)
    elif written.how == "base":
        width, height, score = scores_for(sure(sofar.card))
    elif written.how == "round":
        side = parse_length(sure(written.found)["length"], ruler)
        _sure_of_unit((side, side), written, ruler)
        shape = Outline(kind=sure(written.found)["shape"].lower(), width=side, height=side)
        width = height = side + 2 * DIE_MARGIN[ruler.unit]
    elif written.how == "square":
        width = height = parse_length(sure(written.found)["length"], ruler)
        _sure_of_unit((width, height), written, ruler)
    elif written.how == "picture":
        width, height = piece.width, piece.height
    elif written.how == "tool":
        margin = 2 * DIE_MARGIN[ruler.unit]
        width, height = sure(shape).width + margin, sure(shape).height + margin
    else:
        width, height, border = _by_border(piece, written, sofar)
    if shape and not shape.width:
        shape = filled(shape, width, height)
    if shape and (shape.width > width or shape.height > height):
        raise CutListError(
            f"The {shape.kind}, {show_size(shape.width, shape.height, ruler.unit)}, is larger than its piece",
            mend=f"The piece is {show_size(width, height, ruler.unit)}; a die wants about "
            f"{with_unit(DIE_MARGIN[ruler.unit], ruler.unit)} round the shape",
        )
    _sure_of_hole(written)
    overhang = overhang_of(written.rule("overhang"), width, height, ruler)
    width += overhang.left + overhang.right
    height += overhang.top + overhang.bottom
    raised, scored = written.rule("raised"), written.rule("score")
    if written.how == "base" and scored and not re.search(r"\d", scored["rest"]):
        # Where a base is scored the card's line says.
        scored = None
    return replace(
        piece,
        width=width,
        height=height,
        border=border,
        shape=shape,
        overhang=overhang,
        score=score_of(scored, width, height, ruler) or score,
        middle=middle_of(written.rule("middle"), width, height, ruler),
        window=window_of(written, (width, height), sofar.known, ruler),
        notch=notch_of(written, (width, height), sofar.known, ruler),
        raised=(parse_length(raised["length"], ruler) if raised["length"] else FOAM[ruler.unit]) if raised else 0,
        raised_at=(raised["part"] or "").lower() if raised else "",
    )


def _sure_of_shape(piece: CutPiece, written: Written, ruler: Ruler) -> None:
    """A circle or an oval with two measures: those of the shape, or those of the piece it is cut from?"""
    words = piece.name.casefold().split()
    kind = words[-1].rstrip("s") if words else ""
    if written.how != "size" or piece.shape or piece.window or kind not in ("circle", "oval", "scallop"):
        return
    size = typed_size(piece.width, piece.height, ruler.unit)
    margin = DIE_MARGIN[ruler.unit]
    blank = typed_size(piece.width + 2 * margin, piece.height + 2 * margin, ruler.unit)
    start, end = (written.places[at] for at in sure(written.found).span())
    before, after = written.text[:start].rstrip(), written.text[end:].strip()
    behind, sign, note = after.partition("#")
    ways = (f"{before}  {blank}  {behind.rstrip()}  {kind} {size}", f"{before}  {size}  {behind.rstrip()}  {kind}")
    raise Question(
        f"Is {size.replace(' x ', ' × ')} the {kind}, or the piece it is cut from?",
        choices=tuple(Choice(way, f"{way}  #{note}" if sign else way) for way in ways),
    )


def _sure_of_hole(written: Written) -> None:
    """A hole with two measures: an opening with corners, or a round one?"""
    hole = written.rule("hole")
    if not hole or hole["shape"] or not re.fullmatch(SIZE, hole["size"].strip(), re.IGNORECASE):
        return
    size = hole["size"].strip()
    start, end = (written.places[at] for at in (hole.start(), hole.end("size")))
    ways = (f"{written.text[:start]}{how} {size}{written.text[end:]}" for how in ("window", "window oval"))
    raise Question("Has the hole corners, or is it round?", choices=tuple(Choice(way, way) for way in ways))


def _sure_of_unit(size: tuple[int, int], written: Written, ruler: Ruler) -> None:
    """Small numbers on a millimetre ruler are centimetres more often than not, and halves and quarters inches."""
    found = sure(written.found)
    text = (found["length"] if written.how != "size" else found.group()).strip()
    if ruler.unit != "mm" or re.search(r"(?:mm|cm|in|inch|inches|\")\.?", text, re.IGNORECASE):
        return
    fraction = "/" in text
    small = MAKES_SENSE_MM if written.how == "size" else MAKES_SENSE_MM * 2 // 3
    least = 2 * small if re.search(r"\d[.,]\d", text) else small
    if not fraction and max(size) >= least * TICKS_PER_MM:
        return
    start, end = (written.places[at] for at in (found.span("length") if written.how != "size" else found.span()))
    before, after = written.text[:start].rstrip(), written.text[end:].lstrip()
    units = ("in", "mm") if fraction else ("cm", "in", "mm")
    ways = [f"{before}  {text} {unit}  {after}" for unit in units if _lies_on(f"{text} {unit}", ruler)]
    raise Question("Which unit is that?", choices=tuple(Choice(way, way) for way in ways))


def _lies_on(text: str, ruler: Ruler) -> bool:
    """Whether a length or a size lies on the ruler in the unit it has, and is none that no sheet has."""
    try:
        sized = re.fullmatch(SIZE, text, re.IGNORECASE)
        sides = parse_size(text, ruler) if sized else (parse_length(text, ruler),)
    except LengthError:
        return False
    return max(sides) <= LARGEST


def _by_border(piece: CutPiece, written: Written, sofar: _Sofar) -> tuple[int, int, Border]:
    width = parse_length(sure(written.found)["border"], sofar.ruler)
    folded = sofar.folded
    if folded is None:
        raise CutListError("A border on what?", mend="Write the base above, or the card: card 4¼ x 5½ side fold")
    on = piece.place.on
    seat = seat_of(piece, sofar.pieces, folded)
    face, under = seat.face, seat.under
    if under:
        room = under.shown_width, under.shown_height
        what = under.name
    else:
        found = folded.face(face) or folded.faces["front"]
        room, what = (found.width, found.height), found.name
    wide, high = (side - 2 * width for side in room)
    if wide <= 0 or high <= 0:
        raise CutListError(
            f"A border of {with_unit(width, sofar.ruler.unit)} leaves nothing of the {what}",
            mend=f"It is {show_size(*room, sofar.ruler.unit)}",
        )
    return wide, high, Border(width, on or (f"#{under.number}" if under else face))


@dataclass(frozen=True)
class _Above:
    """What a piece may be on."""

    names: dict[str, str]
    """By what it may be called what that means."""
    sofar: _Sofar
    """What is written above."""

    def meant(self, written: Written) -> str:
        """What ``on …`` of a line means: by its name, or by its paper and what kind of piece it is.

        Raises
        ------
        CutListError
            If nothing is called so; with the pieces that could be meant, as a Question, where there are several.
        """
        try:
            return _target(written.on, self.names)
        except CutListError as error:
            fitting = self._of_its_look(written.on)
            if len(fitting) == 1:
                return f"#{fitting[0].number}"
            start, end = (written.places[at] for at in sure(written.on_span))
            word = "behind" if written.behind else "on"
            near = fitting or self.sofar.pieces[-3:]
            if not near:
                raise
            lines = [f"{written.text[:start]}{word} {each.number}{written.text[end:]}" for each in near]
            shown = (f"{word} {each.name}, {self.sofar.known.name_of(each.paper)}" for each in near)
            choices = tuple(Choice(label, line) for label, line in zip(shown, lines, strict=True))
            raise Question(error.what, mend=error.mend, choices=choices) from None

    def _of_its_look(self, words: str) -> list[CutPiece]:
        said = {word for word in words.split() if word not in ("the", "piece", "card", "paper", "one", "layer")}
        return [piece for piece in self.sofar.pieces if said and said <= self._looks(piece)]

    def _looks(self, piece: CutPiece) -> set[str]:
        paper = self.sofar.known.name_of(piece.paper)
        return {word for text in (piece.name, piece.role, paper) for word in text.casefold().split()}


def _place(written: Written, above: _Above, ruler: Ruler) -> Place:
    place, names = CENTRED, above.names
    if written.on and written.behind:
        place = replace(place, behind=above.meant(written))
    elif written.on:
        place = replace(place, on=above.meant(written))
    elif written.border_on:
        # A border round a face is measured to its own edges, whatever lies on it.
        meant = names[written.border_on]
        place = replace(place, on=meant if meant.startswith(("#", "=")) else f"={meant}")
    for found in written.rules.get("place", []):
        edge = (found["flush"] or found["edge"]).lower()
        more = re.findall(LENGTH, found["more"] or "", re.IGNORECASE)
        if more and place.spots:
            raise CutListError("The places of the copies are said twice", mend="Write them for one edge")
        if more:
            place = replace(place, spots=tuple(parse_length(each, ruler) for each in more), spots_from=edge)
        length = 0 if found["flush"] or found["length"].strip() == "0" else parse_length(found["length"], ruler)
        if getattr(place, edge) is not None:
            raise CutListError(f"{edge.capitalize()} is said twice", mend="Say it once")
        sides: dict[str, Any] = {edge: length}
        place = replace(place, **sides)
    place = _among_copies(place, written, ruler)
    tilt = written.rule("tilt")
    if tilt:
        degrees = re.sub(r"\s*1/2", ".5", tilt["degrees"].replace(",", "."))
        tenths = int(float(degrees) * 10)
        place = replace(place, tilt=-tenths if (tilt["way"] or "").lower() == "left" else tenths)
    return place


def _among_copies(place: Place, written: Written, ruler: Ruler) -> Place:
    """Behind all else, over the fold, and how copies and what is written before it lie to each other."""
    if written.rule("behind"):
        place = replace(place, behind="all")
    if written.rule("over_fold"):
        place = replace(place, over_fold=True)
    after = written.rule("after")
    if after:
        place = replace(place, after=parse_length(after["length"], ruler) if after["length"] else 0)
    gap, row = written.rule("gap"), written.rule("row")
    if gap:
        place = replace(place, gap=parse_length(gap["length"], ruler))
    if row:
        place = replace(place, line="column" if row["below"] or (row["line"] or "").lower() == "column" else "row")
    return place


def _target(words: str, names: dict[str, str]) -> str:
    """What ``on …`` means: a face, a piece above by its name, its beginning, its number or its handle."""
    for spelled in (words, words.rstrip("s"), f"{words}s", re.sub(r"^[a-z](?=\d+$)", "", words)):
        if spelled in names:
            return names[spelled]
    near = {meant for name, meant in names.items() if name.startswith(words)}
    if len(near) == 1:
        return near.pop()
    raise CutListError(
        f"Nothing above is called “{words}”", mend="Name a piece written above, or front, inside, doors, middle, back"
    )


def _role(written: Written, name: str, shaped: bool) -> str:
    said = written.rule("role")
    if said:
        return said["role"].lower()
    words = [word.rstrip("s") for word in name.casefold().split()]
    for role, signs in _ROLE_SIGNS.items():
        if any(word in signs for word in words):
            return role
    if "inside" in words:
        return "inside panel"
    return "shape" if shaped else "other"


_ROLE_SIGNS = {
    "base": {"base", "cardbase"},
    "band": {"band", "belly"},
    "strip": {"strip", "border", "stripe"},
    "mat": {"mat", "frame", "backing", "layer"},
    "inside panel": {"liner", "insert", "lining"},
    "panel": {"panel", "front", "cover"},
    "topper": {"topper"},
    "shape": {"blank", "circle", "oval", "scallop", "banner", "shape"},
}


def _checked_matches(readings: list[Reading], known: Known) -> list[Reading]:
    """The readings, with an error on every line whose match does not add up with the others of its word."""
    groups: dict[str, list[CutPiece]] = {}
    for reading in readings:
        if reading.piece and reading.piece.match:
            groups.setdefault(reading.piece.match, []).append(reading.piece)
    return [_checked_match(reading, groups, known) for reading in readings]


def _checked_match(reading: Reading, groups: dict[str, list[CutPiece]], known: Known) -> Reading:
    piece = reading.piece
    if not piece or not piece.match:
        return reading
    first, group = groups[piece.match][0], groups[piece.match]
    side = "width" if first.below else "height"
    error = None
    if sum(other.count for other in group) < 2:
        error = CutListError(f"Nothing else is matched as “{piece.match}”", mend="Write the same word on another line")
    elif piece.paper != first.paper:
        error = CutListError(
            "Matched pieces are cut from one sheet", mend=f"Take {known.name_of(first.paper)} for all of them"
        )
    elif piece.below != first.below or getattr(piece, side) != getattr(first, side):
        error = CutListError(f"Matched pieces need the same {side}", mend=f"{first.name} comes first and decides")
    elif (piece.turn, piece.upright) != (first.turn, first.upright):
        error = CutListError("Matched pieces lie the same way", mend="Write upright on all of them, or on none")
    return Reading(line=reading.line, text=reading.text, error=error) if error else reading


def _check_rules(piece: CutPiece, matched: bool) -> None:
    spots = len(piece.place.spots) + 1
    if spots > 1 and spots != piece.count:
        raise CutListError(
            f"{spots} places for {piece.count}", mend=f"Write {spots} in front, or as many places as pieces"
        )
    if matched and not piece.match:
        raise CutListError("Matched with what?", mend="Write one word for all that belongs together: match doors")
    if piece.filler and (piece.match or piece.middle or piece.from_middle):
        raise CutListError("A filler is only filled in", mend="Take away match and middle, or filler")
    if piece.match and (piece.middle or piece.from_middle):
        raise CutListError("A matched piece cannot have or come out of a middle", mend="Take away match or middle")


def _no_size(written: Written, line: str) -> None:
    if _ONE_LENGTH.search(written.plain):
        raise NotInForm("No size found", mend="A size is width × height, like 4 x 5¼, after the piece’s name")
    if re.match(r"\s*base\b", written.plain, re.IGNORECASE):
        raise CutListError("The base has no size", mend="Write it, or write the card above it: card 4¼ x 5½ side fold")
    raise NotInForm(f"“{line.strip()}” has no size", mend="Write name, size and paper, like: Mat 4 x 5¼ brass")


def _no_size_of_a_die(written: Written, sofar: _Sofar) -> None:
    """Of a set of dies the list names the number; what stands on the box is the size."""
    for tool in sofar.known.tools:
        if len(tool.sizes) < 2 or tool.kind == "folder" or plain(tool.name).casefold() not in written.plain.casefold():
            continue
        name = sure(any_of((tool.name,))).pattern
        only = rf"(?!{FOR_SOMETHING_ELSE}|[\d/.,]|\s+\d+/|\s*(?:\"|in\b|inch|mm\b|cm\b))"
        found = re.search(rf"{name}\s*(?P<length>{LENGTH}){only}", written.plain, re.IGNORECASE)
        if not found or DIE_NUMBER.match(written.plain, found.end("name")):
            continue
        said, unit = found["length"].strip(), sofar.ruler.unit
        side = parse_length(said, sofar.ruler)
        numbers = [at for at, size in enumerate(tool.sizes, 1) if side in size]
        have = ", ".join(f"{at} is {show_length(max(size), unit)}" for at, size in enumerate(tool.sizes, 1))
        mend = f"Write its number: {tool.name} no. {numbers[0]}" if numbers else f"Write one of its numbers: {have}"
        raise CutListError(f"Which of {tool.name} is {show_length(side, unit)} {unit}?", mend=mend)


def _no_minus(written: Written) -> None:
    before = written.plain[: written.size[0]]
    if written.how == "size" and before.rstrip().endswith("-") and not before.rstrip(" -"):
        raise CutListError("The size is less than nothing", mend="Take the minus sign away")


def _count_and_name(head: str) -> tuple[int, str]:
    head = BULLET.sub("", head.strip()).strip(" ,:;").rstrip(" -–")
    found = _COUNT.match(head)
    count, name = 1, head
    if found:
        count, name = int(found["count"]), head[found.end() :].strip(" ,:;").rstrip(" -–")
    if not 1 <= count <= MOST_OF_ONE:
        raise CutListError(f"{count} pieces cannot be cut for one card", mend=f"Write 1 to {MOST_OF_ONE}")
    called = CALLED.match(name)
    if called and name[called.end() :].strip():
        return count, name[called.end() :].strip()
    _no_number_in(name)
    if found and _NO_NAME.fullmatch(name):
        raise NotInForm("The piece has no name", mend="Put a word in front of the size, like: Mat 4 x 5¼ brass")
    if SENTENCE.search(name):
        raise NotInForm(f"“{name}” is more than a name", mend="Put one or two words in front of the size")
    if _TIMES.search(name):
        raise NotInForm(f"How many is “{name}”?", mend="Write the number in front of the name, like: 8 Stars")
    if _DONE_TO_IT.search(name):
        raise NotInForm(f"“{name}” is more than a name", mend="Put what is done to the piece behind its paper")
    if counted_in_words(name) or re.search(r"(?:^|\s)\(", name):
        raise NotInForm(f"How many is “{name}”?", mend="Write the number in figures")
    if not any(char.isalpha() for char in name):
        raise NotInForm("The piece has no name", mend="Put a word in front of the size, like: Mat 4 x 5¼ brass")
    return count, name


def _no_number_in(name: str) -> None:
    """A number in a name is said to be one (“Panel no. 2”); any other could be a count or a length."""
    found = _LOOSE_NUMBER.search(re.sub(r"(?:\bno\.?|\bnumber)\s*\d+", "", name, flags=re.IGNORECASE))
    if found:
        words = name.replace(found.group(), " ").strip()
        raise NotInForm(
            f"What is {found.group()} in “{name}”?",
            mend=f"Write it as a count in front, or {words} no. {found.group()}",
        )


def _paper(written: Written, papers: Sequence[KnownPaper]) -> KnownPaper:
    """The paper of a line; what is left over beside its whole name is an error, not a remark."""
    try:
        paper = find_paper(written.paper_words, with_letters(Known(tuple(papers)), written.paper_words).papers)
    except CutListError as error:
        missing = written.paper_words if error.what.startswith("No paper is") else ""
        raise Question(error.what, mend=error.mend, missing=missing) from None
    if written.left_over:
        raise NotInForm(f"“{written.left_over}” is not understood", mend="A remark comes last, after #")
    return paper


def _check_fits(piece: CutPiece, paper: KnownPaper, ruler: Ruler) -> None:
    sides = piece.width, piece.height, paper.width, paper.height
    if not goes_in(*sides, turn=piece.turn):
        because = " without turning it" if goes_in(*sides, turn=True) else ""
        raise CutListError(
            f"{show_size(piece.width, piece.height, ruler.unit)} is larger than a sheet of {paper.name}{because}",
            mend=f"The sheet is {show_size(paper.width, paper.height, ruler.unit)}",
        )


def rename_tool(text: str, old: str, new: str, known: Known, ruler: Ruler) -> str:
    """The list with a tool called by its new name on every line that names it; other lines untouched."""
    lines = text.split("\n")
    name = re.compile(r"\s+".join(re.escape(word) for word in old.split()), re.IGNORECASE)
    for reading in read_list(text, known, ruler):
        asked = reading.error and reading.written and reading.written.tool.casefold() == old.casefold()
        if asked or (reading.piece and reading.piece.tool == old):
            typed, sign, note = reading.text.partition("#")
            at = [found for found in name.finditer(typed) if found.start() >= sure(reading.written).head[1]]
            place = at[-1] if at else None
            if place:
                lines[reading.line] = typed[: place.start()] + new + typed[place.end() :] + sign + note
    return "\n".join(lines)
