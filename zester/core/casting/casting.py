"""A casting: which sheet of a pad is which letter, which side shows where, and where something else is taken.

letters -> sheets   Every lettered piece of every card has its slot. A casting says for a letter which sheet it is and
slot -> side        whether it is turned over, for one slot whether it is turned over or what is taken in its place.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from itertools import combinations

from zester.core.casting.guide import Guide
from zester.core.errors import GuideError
from zester.core.fitting.jobs.plan import Named
from zester.core.geometry import goes_in
from zester.core.lengths import show_size
from zester.core.letters import letter_of, with_paper
from zester.core.pieces import CutPiece

# What is taken in place of a piece that is left out.
NOTHING = ""
_OTHER = {"a": "b", "b": "a"}
_ACROSS = (frozenset(("top", "bottom")), frozenset(("left", "right")))


@dataclass(frozen=True, kw_only=True)
class Face:
    """One side of a sheet."""

    direction: str = "free"
    """How pieces that show it may lie: ``free``, ``half`` or ``upright``."""
    busy: bool | None = None
    """Whether it is busy; calm if not; None if nobody said."""
    colours: tuple[str, ...] = ()
    """Its main colours, ``#rrggbb``."""


@dataclass(frozen=True, kw_only=True)
class PadSheet:
    """A pattern of a pad."""

    key: str
    """The paper's key."""
    name: str
    """What people call it."""
    width: int
    """Ticks."""
    height: int
    """Ticks."""
    count: int | None
    """How many there are; None: as many as are bought."""
    a: Face
    """Its side A."""
    b: Face | None
    """Its side B; None if that is not to be seen."""
    taken: int = 0
    """How many of them other castings take."""

    @property
    def free(self) -> int | None:
        """How many are there for this casting; None: as many as are bought."""
        return None if self.count is None else self.count - self.taken

    def face(self, side: str) -> Face | None:
        """The side ``a`` or ``b``."""
        return self.a if side == "a" else self.b


@dataclass(frozen=True, kw_only=True)
class Slot:
    """A lettered piece of a card."""

    handle: str
    """The card's letter and the piece's number."""
    card: str
    """The card's letter in the class."""
    number: int
    """Which card of the class it is, from 1: what guides call it."""
    letter: str
    """The letter of its sheet."""
    name: str
    """What it is called."""
    width: int
    """Ticks, as it stands on the card."""
    height: int
    """Ticks."""
    count: int = 1
    """How many of it a card has."""
    side: str = "a"
    """The side that is written."""
    either: bool = False
    """Whether it does not matter which is seen."""
    may: str = ""
    """What may be taken in its place: ``stock`` card stock, ``nothing`` nothing."""
    written: str = ""
    """Of a base or mat the key of the paper its line names; empty for a lettered piece."""


@dataclass(frozen=True, kw_only=True)
class Casting:
    """Which paper goes where."""

    letters: Mapping[str, str] = field(default_factory=dict)
    """By letter the key of the paper it is."""
    over: frozenset[str] = frozenset()
    """Letters and handles whose sheet is turned over: the side that is not written shows."""
    instead: Mapping[str, str] = field(default_factory=dict)
    """By handle the key of what is taken in place of its sheet, ``NOTHING`` if it is left out."""
    locked: frozenset[str] = frozenset()
    """Letters that stay, and cards (``card A``) whose letters stay."""

    def of_papers(self, keys: Set[str]) -> Casting:
        """As far as these papers are there: what was cast as one that is gone is not cast."""
        there = {letter: key for letter, key in self.letters.items() if key in keys}
        instead = {handle: key for handle, key in self.instead.items() if key in keys or key == NOTHING}
        return replace(self, letters=there, instead=instead)

    def side(self, slot: Slot) -> str:
        """The side that shows."""
        turned = (slot.letter in self.over) != (slot.handle in self.over)
        return _OTHER[slot.side] if turned else slot.side

    def paper(self, slot: Slot) -> str | None:
        """The key of its paper, ``NOTHING`` if it is left out; None if its letter is not cast."""
        return self.instead.get(slot.handle, slot.written or self.letters.get(slot.letter))


@dataclass(frozen=True, kw_only=True)
class Stage:
    """What a class is cast from."""

    slots: tuple[Slot, ...]
    """The lettered pieces of its cards."""
    sheets: Mapping[str, PadSheet]
    """The patterns there are, by key."""
    guide: Guide | None = None
    """How the sheets are cut, if they are cut by a guide; without one the fitting keeps patterns upright."""
    sets: int = 1
    """How many times the whole set of letters is cut."""

    def of(self, letter: str) -> list[Slot]:
        """The pieces of one letter."""
        return [slot for slot in self.slots if slot.letter == letter]

    @property
    def letters(self) -> tuple[str, ...]:
        """The letters there are, in order."""
        return tuple(sorted({slot.letter for slot in self.slots}))


@dataclass(frozen=True, kw_only=True)
class Fault:
    """What a casting breaks."""

    what: str
    """In words."""
    mend: str
    """What to do."""
    letters: tuple[str, ...] = ()
    """The letters it is about."""
    handles: tuple[str, ...] = ()
    """The pieces it is about."""


@dataclass(frozen=True)
class Meeting:
    """Two letters that lie on one card."""

    letters: tuple[str, str]
    """In the order of the alphabet."""
    cards: tuple[int, ...]
    """The numbers of the cards."""
    sides: tuple[str, str]
    """The sides that show: ``a``, ``b`` or, where it is not the same on all cards, ``ab``."""


def slots_of(cards: Sequence[tuple[str, Sequence[CutPiece]]]) -> tuple[Slot, ...]:
    """Every lettered piece of a class's cards (letter and pieces, in order)."""
    return tuple(
        _slot(card, number, piece)
        for number, (card, pieces) in enumerate(cards, 1)
        for piece in pieces
        if letter_of(piece.paper)
    )


def plain_slots(cards: Sequence[tuple[str, Sequence[CutPiece]]]) -> tuple[Slot, ...]:
    """Every piece that names its paper: bases and mats may be of other card stock in a casting."""
    return tuple(
        _slot(card, number, piece)
        for number, (card, pieces) in enumerate(cards, 1)
        for piece in pieces
        if piece.paper and not letter_of(piece.paper)
    )


def _slot(card: str, number: int, piece: CutPiece) -> Slot:
    letter = letter_of(piece.paper)
    return Slot(
        handle=f"{card}{piece.number}",
        card=card,
        number=number,
        letter=letter,
        name=piece.name,
        width=piece.width,
        height=piece.height,
        count=piece.count,
        side=piece.side,
        either=piece.either_side,
        may=piece.may,
        written="" if letter else piece.paper,
    )


def cast_piece(card: str, piece: CutPiece, casting: Casting, faces: Mapping[tuple[str, str], str]) -> CutPiece | None:
    """The piece of a card (its letter) as it is cast, as it is if nothing is cast for it; None if left out.

    ``faces``: by a paper's key and its side how pieces that show it may lie.
    """
    if not letter_of(piece.paper):
        other = casting.instead.get(f"{card}{piece.number}")
        return with_paper(piece, other, faces.get((other, piece.side), "free")) if other else piece
    (slot,) = slots_of([(card, [piece])])
    paper = casting.paper(slot)
    if paper is None:
        return piece
    side = casting.side(slot)
    return with_paper(piece, paper, faces.get((paper, side), "free"), side) if paper != NOTHING else None


def meetings(slots: Sequence[Slot], casting: Casting) -> list[Meeting]:
    """Every two letters that meet on a card, with the sides that show; pieces of something else meet nothing."""
    found: dict[tuple[str, str], list[tuple[int, str, str]]] = {}
    for number, mine in _by_card(slots).items():
        seen: dict[str, set[str]] = {}
        for slot in mine:
            if slot.handle not in casting.instead:
                seen.setdefault(slot.letter, set()).add(casting.side(slot))
        for one, other in combinations(sorted(seen), 2):
            sides = "".join(sorted(seen[one])), "".join(sorted(seen[other]))
            found.setdefault((one, other), []).append((number, *sides))
    return [
        Meeting(
            pair,
            tuple(number for number, _, _ in rows),
            (_alike(one for _, one, _ in rows), _alike(other for _, _, other in rows)),
        )
        for pair, rows in sorted(found.items())
    ]


def _alike(sides: Iterable[str]) -> str:
    return "".join(sorted(set("".join(sides))))


def _by_card(slots: Iterable[Slot]) -> dict[int, list[Slot]]:
    found: dict[int, list[Slot]] = {}
    for slot in slots:
        found.setdefault(slot.number, []).append(slot)
    return found


def faults(stage: Stage, casting: Casting) -> list[Fault]:
    """What the casting breaks: sheets on hand, sides that are not to be seen, patterns that would not stand upright."""
    found: list[Fault] = []
    for key in dict.fromkeys(casting.letters.values()):
        letters = tuple(sorted(letter for letter, paper in casting.letters.items() if paper == key))
        sheet = stage.sheets.get(key)
        if sheet is None:
            found.append(Fault(what=f"The paper of {_joined(letters)} is gone", mend="Cast it anew", letters=letters))
            continue
        # Without a guide the fitting says how many sheets it takes.
        found += _too_few(sheet, letters, stage.sets if stage.guide else 0)
        for letter in letters:
            found += _sides_of(sheet, letter, stage, casting)
    return found


def _too_few(sheet: PadSheet, letters: tuple[str, ...], sets: int) -> list[Fault]:
    needed = len(letters) * sets
    if sheet.free is None or needed <= sheet.free:
        return []
    there = f"{sheet.count} of it are there" if sheet.count != 1 else "1 of it is there"
    others = f", {sheet.taken} for other castings" if sheet.taken else ""
    what = f"{_joined(letters)}: {sets} sets take {needed} sheets of {sheet.name}, {there}{others}"
    return [Fault(what=what, mend="Cast another sheet, or cut fewer sets by it", letters=letters)]


def _sides_of(sheet: PadSheet, letter: str, stage: Stage, casting: Casting) -> list[Fault]:
    """What one letter's pieces show that cannot be."""
    mine = [slot for slot in stage.of(letter) if slot.handle not in casting.instead]
    found = []
    hidden = tuple(slot.handle for slot in mine if sheet.face(casting.side(slot)) is None)
    if hidden:
        what = f"{sheet.name} has one side only; {', '.join(hidden)} would show its back"
        mend = f"Turn {letter} over, or take something else there"
        found.append(Fault(what=what, mend=mend, letters=(letter,), handles=hidden))
    if stage.guide and stage.guide.of(letter):
        found += _as_it_is_cut(sheet, letter, mine, stage.guide, casting)
    return found


def _as_it_is_cut(
    sheet: PadSheet, letter: str, mine: Sequence[Slot], guide: Guide, casting: Casting
) -> Iterable[Fault]:
    """What goes wrong where the guide cuts the letter's sheet."""
    if not goes_in(guide.width, guide.height, sheet.width, sheet.height, turn=True):
        size = show_size(guide.width, guide.height, guide.unit)
        yield Fault(what=f"{sheet.name} is smaller than {size}", mend="Cast a larger sheet", letters=(letter,))
    parts = matched_parts(guide, letter, mine)
    for side in "ab":
        face, shows = sheet.face(side), [slot.handle for slot in mine if casting.side(slot) == side]
        edges = {part.edge for name, part in parts.items() if name.partition(" ")[0] in shows}
        if face and not _stands(face.direction, edges, square=guide.width == guide.height):
            ways = "upright" if face.direction == "upright" else "along its stripes"
            what = f"{sheet.name}, side {side.upper()}, runs one way; not all pieces of {letter} lie {ways}"
            mend = f"Turn {letter} over, or cast a pattern that runs every way"
            yield Fault(what=what, mend=mend, letters=(letter,), handles=tuple(shows))


def _stands(direction: str, tops: set[str], *, square: bool) -> bool:
    """Whether a pattern stands as it has to in pieces whose tops lie at these edges; a square sheet may be turned."""
    if direction == "free" or not tops:
        return True
    if direction == "half":
        return any(tops <= way for way in (_ACROSS if square else _ACROSS[:1]))
    return len(tops) == 1 and (square or tops <= _ACROSS[0])


def matched_parts(guide: Guide, letter: str, slots: Sequence[Slot]) -> dict[str, Named]:
    """Which part of a guide's sheet is which piece: by ``handle`` or ``handle n`` the part, where there is one.

    A part goes with a piece of its card that has its letter and its size; turned, if it has no direction of its own.
    """
    sheet = guide.of(letter)
    if sheet is None:
        return {}
    parts = {part.piece: part for part in sheet.layout.parts}
    free = list(sheet.pieces)
    found: dict[str, Named] = {}
    for slot in slots:
        for copy in range(slot.count):
            each = next(
                (p for p in free if p.card == slot.number and {p.width, p.height} == {slot.width, slot.height}), None
            )
            if each is not None:
                free.remove(each)
                turned = (each.width, each.height) != (slot.width, slot.height)
                part = parts[each.id]
                named = replace(part, turned=not part.turned, up="") if turned else part
                found[f"{slot.handle} {copy + 1}" if copy else slot.handle] = named
    return found


def unmatched(guide: Guide, stage: Stage) -> tuple[list[str], list[str]]:
    """What guide and cards do not have in common: pieces of the guide no card takes, and handles it does not cut."""
    over, missing = [], []
    for letter in sorted({*stage.letters, *(sheet.letter for sheet in guide.letters)}):
        mine = stage.of(letter)
        found = matched_parts(guide, letter, mine)
        taken = {part.part for part in found.values()}
        sheet = guide.of(letter)
        ids = {part.piece: part.part for part in sheet.layout.parts} if sheet else {}
        for piece in sheet.pieces if sheet else ():
            if piece.card and ids[piece.id] not in taken:
                over.append(f"{letter}: {show_size(piece.width, piece.height, guide.unit)} for card {piece.card}")
        for slot in mine:
            cut = sum(name.partition(" ")[0] == slot.handle for name in found)
            if cut < slot.count:
                missing.append(slot.handle)
    return over, missing


def with_letter(casting: Casting, letter: str, paper: str) -> Casting:
    """The letter is that paper from now on; an empty key takes it away. Raises GuideError if it is locked."""
    _open(casting, letter)
    letters = {key: value for key, value in casting.letters.items() if key != letter}
    return replace(casting, letters=letters | ({letter: paper} if paper else {}))


def swapped(casting: Casting, one: str, other: str) -> Casting:
    """Two letters with each other's sheets, each turned over as it was. Raises GuideError if one is locked."""
    for letter in (one, other):
        _open(casting, letter)
    letters = dict(casting.letters)
    mine, theirs = letters.pop(one, ""), letters.pop(other, "")
    letters |= {letter: paper for letter, paper in ((one, theirs), (other, mine)) if paper}
    over = set(casting.over - {one, other})
    over |= {other} if one in casting.over else set()
    over |= {one} if other in casting.over else set()
    return replace(casting, letters=letters, over=frozenset(over))


def turned_over(casting: Casting, what: str) -> Casting:
    """A letter, or one piece, turned over. Raises GuideError if the letter is locked."""
    _open(casting, what)
    return replace(casting, over=casting.over ^ {what})


def exchanged(casting: Casting, handle: str, paper: str | None) -> Casting:
    """Something else in place of a piece, ``NOTHING``, or its own sheet again (None)."""
    instead = {key: value for key, value in casting.instead.items() if key != handle}
    return replace(casting, instead=instead if paper is None else instead | {handle: paper})


def locked(casting: Casting, what: str) -> Casting:
    """A letter, or a card (``card A``), stays as it is from now on, or no longer."""
    return replace(casting, locked=casting.locked ^ {what})


def locked_letters(casting: Casting, slots: Iterable[Slot]) -> frozenset[str]:
    """The letters that stay: by themselves, or as a card that stays has something of them."""
    cards = {slot.letter for slot in slots if f"card {slot.card}" in casting.locked}
    return frozenset(cards | {each for each in casting.locked if len(each) == 1})


def _open(casting: Casting, what: str) -> None:
    if what in casting.locked:
        raise GuideError(f"Sheet {what} is locked", mend="Unlock it first")


def _joined(letters: Sequence[str]) -> str:
    return " and ".join(letters) if len(letters) < 3 else f"{', '.join(letters[:-1])} and {letters[-1]}"
