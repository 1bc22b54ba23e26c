"""Papers written one a line: ``Lagoon, letter, card, 0.42``. What is left out is what is usual.

    Lagoon, letter, card, 0.42
    Kite Tails, 6 x 6, patterned, stripes, pack of 24, 12 on hand
    Chalk Cliff, A4, 300 gsm
    Ember Weave; 12 x 12; patterned; one way; #b4472f

Between commas, semicolons, tabs or bars; the name first, the rest in any order. A part that is not understood is an
error of its line; nothing is left out silently.

A pad of several patterns is a line and the lines of its sheets, or sheets that name it; what it says holds for all:

    Pad Kite Tails, 6 x 6, 9.25
    8 stripes, one way
    8 small dots
    2 of Wind Rose / stars, 12 x 12
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from zester.core.errors import LengthError, ZesterError, sure
from zester.core.lengths import SIZE, parse_size, plain
from zester.core.papers import REPEATS, guess_colour, guess_repeat, parse_weight
from zester.core.sizes import SHEET_SIZES, usual_sheet

MOST_LINES = 200
LONGEST_NAME = 60
KINDS = {
    "card": "card",
    "card stock": "card",
    "cardstock": "card",
    "patterned": "patterned",
    "patterned paper": "patterned",
    "designer paper": "patterned",
    "pattern": "patterned",
    "paper": "patterned",
    "vellum": "vellum",
    "glitter": "glitter",
    "foil": "glitter",
    "window": "window",
    "clear": "window",
    "foam": "foam",
    "adhesive": "adhesive",
}
_WAYS = {"one way": "upright", "upright": "upright", "half a turn": "half", "any way": "free", "every way": "free"}
_SIDES = {
    **dict.fromkeys(("two-sided", "two sided", "double-sided", "double sided", "2-sided", "2 sided"), "other"),
    **dict.fromkeys(("one-sided", "one sided", "single-sided", "single sided", "blank back", "white back"), "none"),
    **dict.fromkeys(("same back", "both sides alike"), "same"),
}
_SIDE_B = re.compile(r"side\s+b\s*:?\s+(?P<repeat>.+)", re.IGNORECASE)
# A currency may stand on either side; a unit of length makes it none.
_PRICE = re.compile(
    r"[^\d\s.,-]{0,3}\s*(\d{1,6}[.,]\d{1,2})\s*(?!(?:in|mm|cm|ft|m)\b)[^\d\s.,]{0,3}"
    r"(?:\s*(?P<each>each|a sheet|per sheet))?"
)
_ON_HAND = re.compile(r"(\d{1,6})\s*(?:on hand|sheets?|in stock|left)", re.IGNORECASE)
_PACK = re.compile(r"(?:pack(?:s)?\s+of|pad\s+of)\s*(\d{1,5})|(\d{1,5})\s*(?:in a pack|a pack|per pack)", re.IGNORECASE)


_PAD = re.compile(r"pad\s*:?\s+(?P<rest>\S.*)$", re.IGNORECASE)
_OF_PAD = re.compile(
    r"(?:[-•*]\s+)?(?P<sheets>-?\d{1,3})\s*(?:[x×]\s+|sheets?\s+(?:of\s+)?|of\s+)?(?:(?P<pad>[^/,;\t|]*[^\W\d][^/,;\t|]*?)\s*/\s*)?"
    r"(?P<rest>[^\W\d].*)$",
    re.IGNORECASE,
)


@dataclass(frozen=True, kw_only=True)
class PaperLine:
    """A paper as it was written."""

    name: str
    """What people call it."""
    sheet: str
    """A key of ``SHEET_SIZES``, or ``typed``."""
    width: int
    """Of the sheet, ticks."""
    height: int
    """Of the sheet, ticks."""
    unit: str
    """The unit its size is shown in."""
    kind: str
    """``card``, ``patterned`` and the like."""
    colour: str
    """``#rrggbb``, written or guessed from the name."""
    repeat: str
    """A key of ``REPEATS``."""
    direction: str = "free"
    """How its pieces may lie."""
    price: Decimal | None = None
    """Of a sheet."""
    on_hand: int | None = None
    """Sheets; None: bought as needed."""
    pack: int = 1
    """Sheets in a pack."""
    weight: int | None = None
    """Grams a square metre."""
    back: str = "same"
    """Its other side: ``same``, ``other`` or ``none``."""
    back_repeat: str = "plain"
    """The repeat of its other side, a key of ``REPEATS``."""


@dataclass(frozen=True)
class PadLine:
    """A pad as it was written."""

    name: str
    """What people call it."""
    price: Decimal | None = None
    """Of the pad."""


@dataclass(frozen=True)
class ReadLine:
    """What became of a written line."""

    text: str
    """As it was written."""
    paper: PaperLine | None = None
    """The paper."""
    error: ZesterError | None = None
    """Why there is none."""
    pad: PadLine | None = None
    """The pad that it begins, or that its sheets are of."""
    sheets: int = 0
    """How many sheets of it the pad has."""


def usual_paper(name: str, kind: str = "card", *, metric: bool = False) -> PaperLine:
    """The paper that is most likely meant: of the usual sheet, plain or with the repeat that its name says."""
    sheet = usual_sheet(kind, "mm" if metric else "in")
    repeat = guess_repeat(name) if kind == "patterned" else "plain"
    return PaperLine(
        name=name,
        sheet=sheet.key,
        width=sheet.width,
        height=sheet.height,
        unit=sheet.unit,
        kind=kind,
        colour=guess_colour(name),
        repeat=repeat,
        direction="upright" if repeat == "pines" else "half" if repeat == "stripes" else "free",
    )


def read_papers(text: str, *, metric: bool = False) -> list[ReadLine]:
    """Every line that is not empty, as it was understood."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    out: list[ReadLine] = []
    pad: _Pad | None = None
    for line in lines[:MOST_LINES]:
        try:
            heading, item = _PAD.match(line), _OF_PAD.match(line)
            if heading:
                pad = _Pad(*_pad(heading["rest"]))
                out.append(ReadLine(line, pad=pad.line))
            elif item and (item["pad"] or pad):
                named = PadLine(" ".join(item["pad"].split())) if item["pad"] else sure(pad).line
                parts = sure(pad).parts if pad and named.name == pad.line.name else ["patterned"]
                out.append(_of_pad(line, named, parts, item, metric))
            else:
                pad = None
                out.append(ReadLine(line, paper=_paper(line, metric)))
        except ZesterError as error:
            out.append(ReadLine(line, error=error))
    _sure_of_pads(out)
    if len(lines) > MOST_LINES:
        out.append(ReadLine(lines[MOST_LINES], error=ZesterError(f"{MOST_LINES} papers at once are the most")))
    return out


@dataclass(frozen=True)
class _Pad:
    """The pad whose sheets are being read: its line, and what it says for all of them."""

    line: PadLine
    parts: list[str]


def _parts(line: str) -> list[str]:
    return [part.strip() for part in re.split(r"[;\t|]|(?<!\d),|,(?!\d)", line) if part.strip()] or [""]


def _pad(rest: str) -> tuple[PadLine, list[str]]:
    """A pad’s own line: its name and price, and what holds for every sheet of it."""
    name, *parts = _parts(rest)
    _sure_of_name(name)
    bare = [part for part in parts if (found := _PRICE.fullmatch(part.casefold())) and not found["each"]]
    if len(bare) > 1:
        raise ZesterError(f"“{bare[1]}”: the price is said twice", mend="Say it once")
    price = Decimal(sure(_PRICE.fullmatch(bare[0].casefold()))[1].replace(",", ".")) if bare else None
    others = [part for part in parts if part not in bare and not _PACK.fullmatch(part.casefold())]
    said: set[str] = set()
    for part in others:
        _with_part(usual_paper(name, "patterned"), part, said)
    return PadLine(" ".join(name.split()), price), ["patterned", *others] if "kind" not in said else others


def _of_pad(line: str, pad: PadLine, parts: Sequence[str], item: re.Match[str], metric: bool) -> ReadLine:
    """Sheets of a pad: what they say themselves counts before what the pad says."""
    if int(item["sheets"]) < 1:
        raise ZesterError(f"“{line[:LONGEST_NAME]}”: a pad has a sheet of it at least", mend="Write it like: 8 stripes")
    pattern, *own = _parts(item["rest"])
    _sure_of_name(pattern)
    mine: set[str] = set()
    for part in own:
        _with_part(usual_paper(pattern), part, mine)
    usual = [part for part in parts if not any(what in mine for what, _ in _readings(part))]
    name = f"{pad.name} {pattern[:1].upper()}{pattern[1:]}"
    return ReadLine(line, paper=_paper("; ".join((name, *usual, *own)), metric), pad=pad, sheets=int(item["sheets"]))


def _sure_of_pads(read: list[ReadLine]) -> None:
    """A pad has sheets, and as many as it says."""
    for at, line in enumerate(read):
        if not line.pad or line.paper:
            continue
        sheets = sum(each.sheets for each in read if each.pad and each.pad.name == line.pad.name)
        said = next(
            (int(found[1] or found[2]) for part in _parts(line.text) if (found := _PACK.fullmatch(part.casefold()))), 0
        )
        wrong = next((each for each in read[at + 1 :] if each.error and _OF_PAD.match(each.text)), None)
        if not sheets and not wrong:
            mend = "Write its patterns below it, like: 8 stripes, one way"
            read[at] = replace(line, pad=None, error=ZesterError(f"{line.pad.name} has no sheets", mend=mend))
        elif said and sheets != said and not wrong:
            what = f"{line.pad.name} is said to have {said} sheets; the lines below make {sheets}"
            read[at] = replace(line, pad=None, error=ZesterError(what, mend="Mend one of them"))


def _sure_of_name(name: str) -> None:
    if not any(char.isalpha() for char in name):
        raise ZesterError("The name comes first", mend="Write it like: Lagoon, letter, card, 0.42")
    if "#" in name or re.fullmatch(SIZE, plain(name), re.IGNORECASE) or len(name) > LONGEST_NAME:
        raise ZesterError(f"“{name[:LONGEST_NAME]}” is no name for a paper", mend=f"Up to {LONGEST_NAME} letters, no #")


def _paper(line: str, metric: bool) -> PaperLine:
    first, *rest = _parts(line)
    name = " ".join(first.split())
    _sure_of_name(name)
    kinds = [KINDS[part.casefold()] for part in rest if part.casefold() in KINDS]
    paper = usual_paper(name, kinds[0] if kinds else "card", metric=metric)
    said: set[str] = set()
    for part in rest:
        paper = _with_part(paper, part, said)
    if paper.pack > 1 and paper.price is not None:
        _sure_of_price(paper, rest)
    return paper


def _sure_of_price(paper: PaperLine, parts: Sequence[str]) -> None:
    """Beside a pack a bare price could be that of the pack.

    Raises
    ------
    ZesterError
        Unless it says that it is that of a sheet.
    """
    found = next(found for part in parts if (found := _PRICE.fullmatch(part.casefold())))
    if not found["each"]:
        price = sure(paper.price)
        a_sheet = (price / paper.pack).quantize(Decimal("0.01"))
        raise ZesterError(
            f"{price}: for a sheet, or for the pack of {paper.pack}?",
            mend=f"Write {price} a sheet; if the pack costs that, {a_sheet} a sheet",
        )


def _with_part(paper: PaperLine, part: str, said: set[str]) -> PaperLine:
    """The paper with what one part says; what is said twice or not understood is an error."""
    for what, found in _readings(part):
        if what in said:
            raise ZesterError(f"“{part}”: the {what} is said twice", mend="Say it once")
        said.add(what)
        return replace(paper, **found)
    raise ZesterError(f"“{part}” is not understood", mend=_hint(part))


def _readings(part: str) -> Sequence[tuple[str, dict[str, Any]]]:
    words = part.casefold()
    for readers in (_sheet, _words, _other_side, _numbers):
        found = readers(part, words)
        if found:
            return [found]
    return []


def _sheet(part: str, words: str) -> tuple[str, dict[str, Any]] | None:
    sheet = SHEET_SIZES.get(words.replace(" ", "").replace("×", "x"))
    if sheet:
        return "size", {"sheet": sheet.key, "width": sheet.width, "height": sheet.height, "unit": sheet.unit}
    if not re.fullmatch(SIZE, plain(part), re.IGNORECASE):
        return None
    try:
        width, height = parse_size(part)
    except LengthError as error:
        raise ZesterError(error.what, mend=error.mend) from error
    metric = re.search(r"mm|cm", part)
    same = next((s for s in SHEET_SIZES.values() if (s.width, s.height) == (width, height)), None)
    return "size", {
        "sheet": same.key if same else "typed",
        "width": width,
        "height": height,
        "unit": "mm" if metric else "in",
    }


def _words(part: str, words: str) -> tuple[str, dict[str, Any]] | None:
    if words in KINDS:
        return "kind", {"kind": KINDS[words]}
    if words in REPEATS:
        return "repeat", {"repeat": words}
    if words in _WAYS:
        return "way", {"direction": _WAYS[words]}
    if re.fullmatch(r"#[0-9a-f]{6}", words):
        return "colour", {"colour": words}
    return None


def _other_side(part: str, words: str) -> tuple[str, dict[str, Any]] | None:
    if words in _SIDES:
        return "other side", {"back": _SIDES[words]}
    side_b = _SIDE_B.fullmatch(words)
    if side_b and side_b["repeat"] in REPEATS:
        return "other side", {"back": "other", "back_repeat": side_b["repeat"]}
    return None


def _numbers(part: str, words: str) -> tuple[str, dict[str, Any]] | None:
    found = _PACK.fullmatch(words)
    if found and int(found[1] or found[2]) > 0:
        return "pack", {"pack": int(found[1] or found[2])}
    found = _ON_HAND.fullmatch(words)
    if found:
        return "stock", {"on_hand": int(found[1])}
    if re.search(r"\d\s*(?:gsm|g/m|g\b|lbs?\b|pounds?)", words):
        return "weight", {"weight": parse_weight(part)}
    found = _PRICE.fullmatch(words)
    return ("price", {"price": Decimal(found[1].replace(",", "."))}) if found else None


def _hint(part: str) -> str:
    if part.isdigit():
        return f"Write {part} on hand, pack of {part}, {part} gsm, or a price like {part}.00"
    return (
        "After the name: size, kind, price, 216 gsm, 20 on hand, pack of 24, stripes, one way, two-sided, side B dots"
    )
