"""A guide: how each lettered sheet of a pad is cut, and to which numbered card every piece belongs.

    A: 6 x 3 card 1; 3 x 3 cards 2, 5        +-----------+
                                             |     1     |   Sheet A of 6 × 6: two cuts, three pieces, nothing left.
                                             +-----+-----+
                                             |  2  |  5  |
                                             +-----+-----+

One guide serves every pad: letters say which sheet, never which pattern.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from zester.core.casting.sharing import comes_out
from zester.core.errors import GuideError, LengthError, PlanError, ZesterError
from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_plan import Box, replay
from zester.core.fitting.jobs.job import ANY_BENCH, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.plan import Layout, layout_entry, read_layout
from zester.core.geometry import goes_in
from zester.core.lengths import SIXTEENTHS, SIZE, Ruler, parse_size, plain, read_length, show_size, write_length
from zester.core.letters import LETTERS

FORMAT = "zester-guide/1"
SHEET = "sheet"
MOST_PIECES, MOST_CARDS, MOST_COUNT = 60, 99, 24
# Seconds for one sheet; a sheet's few pieces take a tenth of that.
SECONDS = 2.0
_LINE = re.compile(r"\s*(?:sheet\s+)?(?P<letter>[A-Za-z])\s*[:.)]\s*(?P<rest>.*)")
_SIZE = re.compile(rf"(?<!\w){SIZE}", re.IGNORECASE)
_COUNT = re.compile(r"(?P<count>\d{1,2})\s+(?=\D)")
_CARDS = re.compile(
    r"\s*,?\s*(?:for\s+)?(?:cards?|no\.?|numbers?|#)\s*(?P<cards>\d{1,3}(?:\s*(?:,|&|\+|and|-|to)\s*\d{1,3})*)\s*\.?",
    re.IGNORECASE,
)
_FILLER = re.compile(r"\s*,?\s*(?:filler|left\s+over|spare|waste)\s*\.?", re.IGNORECASE)
_MEND = "Write it like 3 x 3 cards 2, 5"


@dataclass(frozen=True, kw_only=True)
class GuidePiece:
    """One piece of a lettered sheet."""

    id: str
    """What its sheet's layout calls it; one that comes out several times is there several times."""
    card: int
    """The number of the card it belongs to; 0 for a filler."""
    name: str
    """What it is called."""
    width: int
    """Ticks, as it stands on the card."""
    height: int
    """Ticks."""


@dataclass(frozen=True)
class LetterGuide:
    """How one lettered sheet is cut."""

    letter: str
    """Its letter."""
    layout: Layout
    """The cuts, and which part is which piece."""
    pieces: tuple[GuidePiece, ...]
    """The pieces."""

    @property
    def edges(self) -> frozenset[str]:
        """The edges of the sheet at which its pieces' tops lie: one, or it is not for a pattern that runs one way."""
        return frozenset(named.edge for named in self.layout.parts)

    @property
    def cards(self) -> tuple[int, ...]:
        """The cards that get something of it."""
        return tuple(sorted({piece.card for piece in self.pieces if piece.card}))


@dataclass(frozen=True)
class Guide:
    """How a whole set of lettered sheets is cut."""

    unit: str
    """``in`` or ``mm``."""
    width: int
    """Of a sheet, ticks."""
    height: int
    """Of a sheet, ticks."""
    letters: tuple[LetterGuide, ...]
    """Its sheets in the order of their letters."""

    @property
    def cards(self) -> tuple[int, ...]:
        """The numbers of the cards it makes."""
        return tuple(sorted({card for each in self.letters for card in each.cards}))

    def of(self, letter: str) -> LetterGuide | None:
        """The sheet with this letter."""
        return next((each for each in self.letters if each.letter == letter), None)


@dataclass(frozen=True, kw_only=True)
class GuideLine:
    """A line of a typed guide, with what it is or what is wrong with it."""

    text: str
    """As typed."""
    sheet: LetterGuide | None = None
    """What it says; None for an empty line, a remark, or one that cannot be used."""
    left: tuple[tuple[int, int], ...] = ()
    """What is left of the sheet, width and height in ticks."""
    error: ZesterError | None = None
    """What is wrong, and how to mend it."""


@dataclass(frozen=True)
class GuideReading:
    """A typed guide read."""

    lines: tuple[GuideLine, ...]
    """Line by line."""
    guide: Guide
    """What can be used of it."""

    @property
    def errors(self) -> int:
        """How many lines wait to be mended."""
        return sum(line.error is not None for line in self.lines)


def read_guide(text: str, width: int, height: int, ruler: Ruler = SIXTEENTHS) -> GuideReading:
    """Read a typed guide for sheets of this size (ticks): a line for each letter, pieces apart by semicolons.

    Every sheet is looked at as it stands: whether its pieces fill it, and whether it can be cut edge to edge. Nothing
    that is typed raises; what is wrong stands beside its line.
    """
    lines: list[GuideLine] = []
    sheets: dict[str, LetterGuide] = {}
    for line in text.splitlines():
        words = plain(line).partition("#")[0].strip()
        try:
            sheet = _read_line(words, width, height, ruler) if words else None
            if sheet and sheet.letter in sheets:
                raise GuideError(f"Sheet {sheet.letter} is there already", mend="Give this one the next letter")
        except (GuideError, LengthError) as error:
            lines.append(GuideLine(text=line, error=error))
            continue
        if sheet:
            sheets[sheet.letter] = sheet
        left = left_of(sheet, width, height) if sheet else ()
        lines.append(GuideLine(text=line, sheet=sheet, left=left))
    guide = Guide(ruler.unit, width, height, tuple(sheets[letter] for letter in sorted(sheets)))
    return GuideReading(tuple(lines), guide)


def _read_line(words: str, width: int, height: int, ruler: Ruler) -> LetterGuide:
    found = _LINE.fullmatch(words)
    if not found:
        raise GuideError("Which sheet is this?", mend="Begin with its letter, like A: 6 x 3 card 1; 3 x 3 cards 2, 5")
    items = [item.strip() for item in found["rest"].split(";") if item.strip()]
    if not items:
        raise GuideError("Nothing is cut from it", mend=_MEND)
    pieces = [piece for number, item in enumerate(items, 1) for piece in _item(item, number, ruler)]
    if len(pieces) > MOST_PIECES:
        raise GuideError(f"{len(pieces)} pieces from one sheet", mend=f"A sheet has up to {MOST_PIECES}")
    return lay_out(found["letter"].upper(), pieces, width, height, ruler.unit)


def _item(words: str, number: int, ruler: Ruler) -> list[GuidePiece]:
    """``2 strips 1 x 6 card 9``: every piece that these words are about."""
    size = _SIZE.search(words)
    if not size:
        raise GuideError(f"“{words}” has no size", mend=_MEND)
    width, height = parse_size(size.group(), ruler)
    count, name = 1, words[: size.start()].strip(" ,:-")
    counted = _COUNT.match(name + " ") if name else None
    if counted:
        count, name = int(counted["count"]), name[counted.end() :].strip()
    cards = _cards(words[size.end() :], words)
    if not 1 <= count <= MOST_COUNT:
        raise GuideError(f"{count} times {show_size(width, height, ruler.unit)}", mend=f"Write 1 to {MOST_COUNT}")
    if re.search(r"\d", name):
        raise GuideError(f"What is {name}?", mend=_MEND)
    called = name.capitalize() or ("Piece" if cards[0] else "Filler")
    return [
        GuidePiece(id=f"{number}.{each}", card=card, name=called, width=width, height=height)
        for each, card in enumerate((card for card in cards for _ in range(count)), 1)
    ]


def _cards(rest: str, words: str) -> list[int]:
    """The cards that the end of an item names; 0 for a filler."""
    if _FILLER.fullmatch(rest):
        return [0]
    found = _CARDS.fullmatch(rest)
    if not found:
        said = rest.strip(" ,.")
        what = f"What does “{said}” mean?" if said else f"Which card is “{words}” for?"
        raise GuideError(what, mend=f"{_MEND}, or 1 x 6 filler")
    cards: list[int] = []
    for part in re.split(r"\s*(?:,|&|\+|and)\s*", found["cards"]):
        first, _, last = re.sub(r"\s*(?:-|to)\s*", "-", part).partition("-")
        cards += range(int(first), int(last or first) + 1)
    if not cards or not all(1 <= card <= MOST_CARDS for card in cards):
        raise GuideError(f"“{found['cards']}” are no cards", mend=f"Cards are numbered from 1 to {MOST_CARDS}")
    return cards


def lay_out(letter: str, pieces: Sequence[GuidePiece], width: int, height: int, unit: str) -> LetterGuide:
    """Lay a sheet's pieces out in edge-to-edge cuts: all upright if that can be, otherwise some of them turned.

    Raises
    ------
    GuideError
        If they are too large, too many, or cannot be cut so.
    """
    for piece in pieces:
        if not goes_in(piece.width, piece.height, width, height, turn=True):
            raise GuideError(
                f"{show_size(piece.width, piece.height, unit)} is larger than the sheet",
                mend=f"The sheet is {show_size(width, height, unit)}",
            )
    over = sum(piece.width * piece.height for piece in pieces) - width * height
    if over > 0:
        raise GuideError(
            f"Sheet {letter}: its pieces have more area than the sheet, {over / (width * height):.0%} too much",
            mend=f"The sheet is {show_size(width, height, unit)}: look for a size that is written too large or twice",
        )
    layout = _layout(tuple(pieces), width, height)
    if layout is None:
        raise GuideError(
            f"Sheet {letter}: these pieces do not come out of one sheet with cuts from edge to edge",
            mend="Make one of them smaller, or put it on another sheet",
        )
    return LetterGuide(letter, layout, tuple(pieces))


@lru_cache(maxsize=512)
def _layout(pieces: tuple[GuidePiece, ...], width: int, height: int) -> Layout | None:
    """The layout of one sheet; None if there is none."""
    kinds: dict[tuple[int, int], list[str]] = {}
    for piece in pieces:
        kinds.setdefault((piece.width, piece.height), []).append(piece.id)
    for turn in (False, True):
        sizes = ((piece.width, piece.height) for piece in pieces)
        if comes_out(sizes, width, height, turn=turn) is False:
            continue
        wanted = tuple(
            Piece(id=names[0], width=sides[0], height=sides[1], count=len(names), turn=turn, upright=not turn)
            for sides, names in kinds.items()
        )
        sheet = Sheet(id=SHEET, width=width, height=height, count=1)
        try:
            plan = fit_paper(PaperJob(id=SHEET, sheets=(sheet,), pieces=wanted), ANY_BENCH, lambda _: None, SECONDS)
        except ZesterError:
            continue
        if not plan.short and plan.sheets == 1:
            return _named(plan.on_sheets[0], {names[0]: list(names) for names in kinds.values()})
    return None


def _named(layout: Layout, names: Mapping[str, list[str]]) -> Layout:
    """The layout with every part under the name of its own piece; what came out beyond those has none."""
    parts = tuple(replace(part, piece=names[part.piece].pop(0)) for part in layout.parts if names[part.piece])
    return replace(layout, parts=parts)


def left_of(sheet: LetterGuide, width: int, height: int) -> tuple[tuple[int, int], ...]:
    """What no piece is cut from, width and height in ticks, the largest first."""
    boxes = replay(sheet.layout, width, height)
    used = {named.part for named in sheet.layout.parts}
    rest = [box[2:] for part, box in boxes.items() if part not in used]
    return tuple(sorted(rest, key=lambda sides: -sides[0] * sides[1]))


def check_guide(guide: Guide) -> None:
    """Replay every sheet of a guide cut by cut, and know nothing of how it came about.

    Raises
    ------
    PlanError
        Unless every letter is there once, its cuts go from edge to edge, and every piece is exactly one part.
    """
    seen: set[str] = set()
    for sheet in guide.letters:
        where = f"sheet {sheet.letter}"
        if sheet.letter in seen or sheet.letter not in LETTERS:
            raise PlanError(f"“{sheet.letter}” is there twice, or no letter", where)
        seen.add(sheet.letter)
        boxes = replay(sheet.layout, guide.width, guide.height, where)
        wanted = {piece.id: piece for piece in sheet.pieces}
        if len(wanted) != len(sheet.pieces) or sorted(part.piece for part in sheet.layout.parts) != sorted(wanted):
            raise PlanError("its pieces are not its parts", where)
        if len({part.part for part in sheet.layout.parts}) != len(sheet.layout.parts):
            raise PlanError("a part is two pieces", where)
        for part in sheet.layout.parts:
            _check_part(boxes.get(part.part), wanted[part.piece], part.edge, where)


def _check_part(box: Box | None, piece: GuidePiece, edge: str, where: str) -> None:
    if box is None:
        raise PlanError(f"the part of {piece.id} is not there", where)
    sides = box[2:] if edge in ("top", "bottom") else box[:1:-1]
    if sides != (piece.width, piece.height):
        raise PlanError(f"{piece.id} is not as large as its part", where)


def write_guide(guide: Guide) -> str:
    """The guide as open JSON (``zester-guide/1``, docs/formats.md)."""
    data = {
        "zester": FORMAT,
        "unit": guide.unit,
        "sheet": {"width": write_length(guide.width, guide.unit), "height": write_length(guide.height, guide.unit)},
        "letters": [_letter_entry(each, guide.unit) for each in guide.letters],
    }
    return json.dumps(data, indent=1, ensure_ascii=False)


def _letter_entry(sheet: LetterGuide, unit: str) -> dict[str, Any]:
    entry = layout_entry(sheet.layout, unit)
    pieces = [
        {
            "id": piece.id,
            "card": piece.card,
            "name": piece.name,
            "width": write_length(piece.width, unit),
            "height": write_length(piece.height, unit),
        }
        for piece in sheet.pieces
    ]
    return {"letter": sheet.letter, "pieces": pieces, "cuts": entry["cuts"], "parts": entry["parts"]}


def load_guide(text: str | bytes) -> Guide:
    """Read a guide's JSON back, and check it.

    Raises
    ------
    PlanError
        If it is none, or does not hold what it says.
    """
    try:
        data = json.loads(text)
        if data["zester"] != FORMAT:
            raise PlanError(f"this is “{data['zester']}”, not “{FORMAT}”", "zester")
        unit = data["unit"]
        if unit not in ("in", "mm"):
            raise PlanError(f"“{unit}” is no unit", "unit")
        width, height = (read_length(data["sheet"][side], unit) for side in ("width", "height"))
        guide = Guide(unit, width, height, tuple(_letter(entry, unit) for entry in data["letters"]))
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise error if isinstance(error, PlanError) else PlanError("not a guide", "guide") from error
    check_guide(guide)
    return guide


def _letter(entry: dict[str, Any], unit: str) -> LetterGuide:
    layout = read_layout({"sheet": SHEET, "copies": 1, "cuts": entry["cuts"], "parts": entry["parts"]}, unit)
    pieces = tuple(
        GuidePiece(
            id=str(each["id"])[:12],
            card=_card(each["card"]),
            name=str(each["name"])[:60],
            width=read_length(each["width"], unit),
            height=read_length(each["height"], unit),
        )
        for each in entry["pieces"]
    )
    if len(pieces) > MOST_PIECES:
        raise PlanError(f"{len(pieces)} pieces from one sheet", "pieces")
    return LetterGuide(str(entry["letter"]), layout, pieces)


def _card(number: object) -> int:
    if not isinstance(number, int) or isinstance(number, bool) or not 0 <= number <= MOST_CARDS:
        raise PlanError(f"“{number}” is no card", "card")
    return number


def typed_guide(guide: Guide) -> str:
    """The guide as lines that read as it: pieces of one size and name together, with their cards."""
    return "\n".join(f"{sheet.letter}: {'; '.join(_typed(sheet.pieces, guide.unit))}" for sheet in guide.letters)


def _typed(pieces: Iterable[GuidePiece], unit: str) -> list[str]:
    groups: dict[tuple[str, int, int, bool], list[int]] = {}
    for piece in pieces:
        key = piece.name, piece.width, piece.height, bool(piece.card)
        groups.setdefault(key, []).append(piece.card)
    items = []
    for (name, width, height, on_card), cards in groups.items():
        called = "" if name in ("Piece", "Filler") else f"{name} "
        item = f"{called}{write_length(width, unit)} x {write_length(height, unit)}"
        if not on_card or len(set(cards)) < len(cards):
            for card in dict.fromkeys(cards):
                count = f"{cards.count(card)} " if cards.count(card) > 1 else ""
                items.append(f"{count}{item} {f'card {card}' if card else 'filler'}")
        else:
            items.append(f"{item} card{'s' if len(cards) > 1 else ''} {', '.join(map(str, cards))}")
    return items
