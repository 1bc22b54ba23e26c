"""Reading a cut list: one piece a line, as on paper.

    [count] name  width × height  paper  [upright] [filler] [match word] [middle …] [from a middle] [score place, place]

    Base        5½ x 8½     telescope brass   score 4¼
    2 Strips    ½ x 5½      star chart
    Sentiment   1 x 3       chalk             upright      # stamp first
    2 Doors     1⅞ x 5      brass rays        match doors
    Mat         4 x 5¼      chalk             middle 3 x 4
    Moon blank  2½ x 2½     chalk             from a middle

The count is 1 if none is written. A paper may be shortened as long as only one fits. Score places count from the left
or upper edge along the piece's longer side; ``across`` (along the width) or ``down`` (along the height) says
otherwise. ``upright`` keeps the piece from being turned on the sheet. Pieces of one paper with the same word after
``match`` are cut side by side in the order of the list (``below``: one below the other). ``middle`` is a part that
another layer hides, in the centre or ``at`` so far from the left and upper edge; shapes marked ``from a middle`` may be
taken out of it. A ``filler`` is cut only where it costs nothing. What follows ``#`` is a remark.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Sequence
from dataclasses import dataclass

from zester.core.errors import CutListError, LengthError
from zester.core.fitting.job import Window
from zester.core.lengths import LENGTH, SIXTEENTHS, SIZE, Ruler, parse_length, parse_size, plain, show_size, with_unit

MOST_LINES = 200
MOST_OF_ONE = 500
LONGEST_LINE = 200


@dataclass(frozen=True)
class Stock:
    """A paper as the cut list knows it: its key, its name, its sheet in ticks, how its pieces may lie."""

    key: str
    name: str
    width: int
    height: int
    direction: str = "free"


@dataclass(frozen=True)
class Score:
    """Score lines across a piece: ``axis`` "x" counts from its left edge, "y" from its upper edge; places in ticks."""

    axis: str
    places: tuple[int, ...]


@dataclass(frozen=True)
class CutPiece:
    """One line of a cut list: ticks as the piece stands on the upright card.

    ``match`` is the word of the row or, if ``below``, the column it is cut in; ``middle`` its hidden middle.
    """

    number: int
    count: int
    name: str
    width: int
    height: int
    paper: str
    turn: bool = True
    score: Score | None = None
    upright: bool = False
    filler: bool = False
    match: str = ""
    below: bool = False
    middle: Window | None = None
    from_middle: bool = False


@dataclass(frozen=True)
class Reading:
    """What became of one line: a piece, or an error, or neither for an empty line or a remark."""

    line: int
    text: str
    piece: CutPiece | None = None
    error: CutListError | None = None


_SIZE = re.compile(SIZE, re.IGNORECASE)
_ONE_LENGTH = re.compile(LENGTH, re.IGNORECASE)
_COUNT = re.compile(r"(?P<count>-?\d+)\s*(?:x(?=\s|$)\s*|of\s+)?(?=\D|$)", re.IGNORECASE)
_SCORE = re.compile(r"\bscored?\b(?:\s+at\b)?(?P<rest>.*)$", re.IGNORECASE)
_UPRIGHT = re.compile(r"\bupright\b", re.IGNORECASE)
_FILLER = re.compile(r"\bfillers?\b", re.IGNORECASE)
_FROM_MIDDLE = re.compile(r"\bfrom\s+(?:a\s+)?middles?\b", re.IGNORECASE)
_MIDDLE = re.compile(
    rf"\bmiddle\s+(?P<size>{SIZE})(?:\s*\bat\s+(?P<x>{LENGTH})\s*(?:,|and)\s*(?P<y>{LENGTH}))?",
    re.IGNORECASE,
)
_MATCH = re.compile(r"\bmatch(?:ed)?(?:\s+(?P<word>(?!below\b)\w+))?(?P<below>\s+below)?", re.IGNORECASE)
_AXIS = re.compile(r"\b(?P<axis>across|down)\b", re.IGNORECASE)
_AXES = {"across": "x", "down": "y"}


def read_list(text: str, stocks: Sequence[Stock], ruler: Ruler = SIXTEENTHS) -> list[Reading]:
    """Read a whole cut list; one Reading a line, pieces numbered from 1 in the order they stand.

    Never raises for what is written: a wrong line carries its error, and keeps its number free, so that mending it
    does not rename the pieces below. A line too many is an error on that line.
    """
    readings, number = [], 0
    for index, line in enumerate(text.splitlines()):
        try:
            if index >= MOST_LINES:
                raise CutListError(f"A card's list holds {MOST_LINES} lines", mend="Make a second card of the rest")
            piece = read_line(line, number + 1, stocks, ruler)
        except (LengthError, CutListError) as error:
            number += 1
            readings.append(Reading(index, line, error=CutListError(error.what, mend=error.mend)))
        else:
            number += piece is not None
            readings.append(Reading(index, line, piece))
    return _checked_matches(readings)


def _checked_matches(readings: list[Reading]) -> list[Reading]:
    """The readings, with an error on every line whose match does not add up with the others of its word."""
    groups: dict[str, list[CutPiece]] = {}
    for reading in readings:
        if reading.piece and reading.piece.match:
            groups.setdefault(reading.piece.match, []).append(reading.piece)
    return [_checked_match(reading, groups) for reading in readings]


def _checked_match(reading: Reading, groups: dict[str, list[CutPiece]]) -> Reading:
    piece = reading.piece
    if not piece or not piece.match:
        return reading
    first, group = groups[piece.match][0], groups[piece.match]
    side = "width" if first.below else "height"
    error = None
    if sum(other.count for other in group) < 2:
        error = CutListError(f"Nothing else is matched as “{piece.match}”", mend="Write the same word on another line")
    elif piece.paper != first.paper:
        error = CutListError("Matched pieces are cut from one sheet", mend=f"Take {first.paper} for all of them")
    elif piece.below != first.below or getattr(piece, side) != getattr(first, side):
        error = CutListError(f"Matched pieces need the same {side}", mend=f"{first.name} comes first and decides")
    elif (piece.turn, piece.upright) != (first.turn, first.upright):
        error = CutListError("Matched pieces lie the same way", mend="Write upright on all of them, or on none")
    return Reading(reading.line, reading.text, error=error) if error else reading


def read_line(line: str, number: int, stocks: Sequence[Stock], ruler: Ruler = SIXTEENTHS) -> CutPiece | None:
    """Read one line; None for an empty line or a remark. Raises CutListError or LengthError."""
    words = plain(line).split("#")[0].strip()
    if not words:
        return None
    if len(words) > LONGEST_LINE:
        raise CutListError(f"A line holds {LONGEST_LINE} letters", mend="Put remarks in a line of their own, after #")
    size_at = _find_size(words, line)
    head, tail = words[: size_at.start()], words[size_at.end() :]
    count, name = _count_and_name(head)
    width, height = parse_size(size_at.group(), ruler)
    tail, rules = _take_rules(tail)
    stock = find_stock(_tidy(tail), stocks)
    upright = bool(rules["upright"]) or stock.direction == "upright"
    match, middle = rules["match"], rules["middle"]
    piece = CutPiece(
        number,
        count,
        name,
        width,
        height,
        stock.key,
        stock.direction == "free" and not upright,
        _score(rules["score"], width, height, ruler),
        upright,
        bool(rules["filler"]),
        (match["word"] or "").casefold() if match else "",
        bool(match and match["below"]),
        _middle(middle, width, height, ruler) if middle else None,
        bool(rules["from_middle"]),
    )
    _check_rules(piece, bool(match))
    _check_fits(piece, stock, ruler)
    return piece


_RULES = {"from_middle": _FROM_MIDDLE, "middle": _MIDDLE, "match": _MATCH, "filler": _FILLER, "upright": _UPRIGHT}


def _take_rules(tail: str) -> tuple[str, dict]:
    """The text without the rules written in it, and what they say: matches, and the text of the score."""
    rules: dict = {}
    for name, pattern in _RULES.items():
        rules[name] = pattern.search(tail)
        if rules[name]:
            tail = tail[: rules[name].start()] + " " + tail[rules[name].end() :]
    tail, rules["score"] = _take(_SCORE, tail)
    return tail, rules


def _middle(found: re.Match, width: int, height: int, ruler: Ruler) -> Window:
    wide, high = parse_size(found["size"], ruler)
    x = parse_length(found["x"], ruler) if found["x"] else (width - wide) // 2
    y = parse_length(found["y"], ruler) if found["y"] else (height - high) // 2
    if x < 0 or y < 0 or x + wide > width or y + high > height:
        raise CutListError(
            f"The middle, {show_size(wide, high, ruler.unit)}, reaches beyond the piece",
            mend=f"The piece is {show_size(width, height, ruler.unit)}; leave a rim for the glue",
        )
    return Window(x, y, wide, high)


def _check_rules(piece: CutPiece, matched: bool) -> None:
    if matched and not piece.match:
        raise CutListError("Matched with what?", mend="Write one word for all that belongs together: match doors")
    if piece.filler and (piece.match or piece.middle or piece.from_middle):
        raise CutListError("A filler is only filled in", mend="Take away match and middle, or filler")
    if piece.match and (piece.middle or piece.from_middle):
        raise CutListError("A matched piece cannot have or come out of a middle", mend="Take away match or middle")


def _find_size(words: str, line: str) -> re.Match:
    found = _SIZE.search(words)
    if not found:
        if _ONE_LENGTH.search(words):
            raise CutListError("No size found", mend="A size is width × height, like 4 x 5¼, after the piece's name")
        raise CutListError(f"“{line.strip()}” has no size", mend="Write name, size and paper, like: Mat 4 x 5¼ brass")
    before = words[: found.start()]
    if before.rstrip().endswith("-") and not before.rstrip(" -"):
        raise CutListError("The size is less than nothing", mend="Take the minus sign away")
    return found


def _count_and_name(head: str) -> tuple[int, str]:
    head = head.strip(" ,:;")
    found = _COUNT.match(head)
    count, name = 1, head
    if found:
        count, name = int(found["count"]), head[found.end() :].strip(" ,:;")
    if not 1 <= count <= MOST_OF_ONE:
        raise CutListError(f"{count} pieces cannot be cut for one card", mend=f"Write 1 to {MOST_OF_ONE}")
    if not any(char.isalpha() for char in name):
        raise CutListError("The piece has no name", mend="Put a word in front of the size, like: Mat 4 x 5¼ brass")
    return count, name


def _take(pattern: re.Pattern, text: str) -> tuple[str, str | None]:
    """The text without what the pattern finds, and what it found (its ``rest`` group if it has one)."""
    found = pattern.search(text)
    if not found:
        return text, None
    return text[: found.start()] + " " + text[found.end() :], found.groupdict().get("rest", found.group())


def _tidy(text: str) -> str:
    text = re.sub(r"^(?:\s|[,:;-])*(?:(?:on|from|of|in)\s+)?", "", text.strip(), flags=re.IGNORECASE)
    return re.sub(r"\s+", " ", text).strip(" ,:;-")


def find_stock(words: str, stocks: Sequence[Stock]) -> Stock:
    """The paper that is meant: its whole name, or the beginning of one of its words, if only one paper fits.

    Raises CutListError naming the papers that come near.
    """
    if not words:
        raise CutListError("No paper named", mend=_offer(stocks, "Put a paper after the size"))
    wanted = words.casefold()
    exact = [stock for stock in stocks if stock.name.casefold() == wanted]
    if exact:
        return exact[0]
    near = [stock for stock in stocks if _shortened(wanted, stock.name.casefold())]
    if len(near) == 1:
        return near[0]
    if near:
        raise CutListError(f"“{words}” could be {_either(near)}", mend="Write a little more of the name")
    close = difflib.get_close_matches(wanted, [stock.name.casefold() for stock in stocks], n=2, cutoff=0.6)
    meant = [stock for stock in stocks if stock.name.casefold() in close]
    if meant:
        raise CutListError(f"No paper is called “{words}”", mend=f"Did you mean {_either(meant)}?")
    raise CutListError(f"No paper is called “{words}”", mend=_offer(stocks, "Put it on the shelf first, or use"))


def _shortened(wanted: str, name: str) -> bool:
    parts, words = wanted.split(), name.split()
    return any(
        all(word.startswith(part) for part, word in zip(parts, words[start:], strict=False))
        for start in range(len(words) - len(parts) + 1)
    )


def _either(stocks: Sequence[Stock]) -> str:
    return " or ".join(f"“{stock.name}”" for stock in stocks[:3])


def _offer(stocks: Sequence[Stock], lead: str) -> str:
    return f"{lead}: {', '.join(stock.name for stock in stocks[:4])}" if stocks else "Put a paper on the shelf first"


def _score(text: str | None, width: int, height: int, ruler: Ruler) -> Score | None:
    if text is None:
        return None
    axis_word = _AXIS.search(text)
    axis = _AXES[axis_word["axis"].lower()] if axis_word else ("y" if height > width else "x")
    text = _AXIS.sub(" ", text)
    places = tuple(sorted(parse_length(part, ruler) for part in re.split(r",\s|,$|\band\b|&|;", text) if part.strip()))
    if not places:
        raise CutListError("No place to score", mend="Write where, like: score 4¼")
    side = width if axis == "x" else height
    for place in places:
        if place >= side:
            raise CutListError(
                f"The score at {with_unit(place, ruler.unit)} is off the piece",
                mend=f"It is {with_unit(side, ruler.unit)} {'wide' if axis == 'x' else 'high'}",
            )
    return Score(axis, places)


def _check_fits(piece: CutPiece, stock: Stock, ruler: Ruler) -> None:
    upright = piece.width <= stock.width and piece.height <= stock.height
    turned = piece.turn and piece.height <= stock.width and piece.width <= stock.height
    if not (upright or turned):
        because = (
            "" if piece.turn or (piece.height > stock.width or piece.width > stock.height) else " without turning it"
        )
        raise CutListError(
            f"{show_size(piece.width, piece.height, ruler.unit)} is larger than a sheet of {stock.name}" + because,
            mend=f"The sheet is {show_size(stock.width, stock.height, ruler.unit)}",
        )


def rename_paper(text: str, key: str, new_name: str, stocks: Sequence[Stock], ruler: Ruler) -> str:
    """The list with the paper called by its new name on every line that means it; other lines untouched."""
    lines = text.split("\n")
    for reading in read_list(text, stocks, ruler):
        if reading.piece and reading.piece.paper == key:
            lines[reading.line] = _with_paper(reading.text, new_name)
    return "\n".join(lines)


def _with_paper(line: str, new_name: str) -> str:
    written, _, remark = line.partition("#")
    words = plain(written)
    tail = words[_SIZE.search(words).end() :]
    old = _tidy(_take_rules(tail)[0])
    at = written.casefold().rfind(old.casefold())
    if at < 0:
        return line
    return written[:at] + new_name + written[at + len(old) :] + (f"#{remark}" if remark else "")
