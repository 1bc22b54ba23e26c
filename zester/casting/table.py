"""What the casting table shows, and the moves that are made on it."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, partial

from zester.casting.guides import cards_of, drawn, pad_sheet, use_of
from zester.casting.models import ClassGuide
from zester.classes.castings import add_casting, cast_of, castable, castings_of, change, whose
from zester.classes.models import CardClass, Casting
from zester.classes.services import CountedClass, ReadCard, await_count, count_class
from zester.core.casting.casting import (
    NOTHING,
    Fault,
    Meeting,
    Slot,
    Stage,
    exchanged,
    faults,
    locked,
    locked_letters,
    meetings,
    slots_of,
    swapped,
    turned_over,
    unmatched,
    with_letter,
)
from zester.core.casting.casting import Casting as Cast
from zester.core.casting.pads import PadSets, pad_sets
from zester.core.casting.proposals import Marks, Proposal, Weighed, proposals, weigh
from zester.core.errors import GuideError
from zester.core.lengths import show_size
from zester.shelf.models import Paper

FIRST = "First casting"
OWN_SHEET, LEFT_OUT = "own", "none"


@dataclass(frozen=True, kw_only=True)
class ShownSheet:
    """A pattern of the pad, as a row of the table."""

    paper: Paper
    """The paper."""
    there: int | None
    """How many sheets there are; None: as many as are bought."""
    used: int
    """How many this casting takes for all its sets."""

    @property
    def left(self) -> int | None:
        """How many are left."""
        return None if self.there is None else self.there - self.used


@dataclass(frozen=True, kw_only=True)
class ShownLetter:
    """A lettered sheet, as a column of the table."""

    letter: str
    """Its letter."""
    paper: Paper | None
    """What it is cast as."""
    over: bool
    """Whether it is turned over."""
    locked: bool
    """Whether it is locked by itself."""
    held: bool
    """Whether it stays, by itself or as a card that stays has something of it."""
    cards: tuple[int, ...]
    """The numbers of the cards that have something of it."""
    cut: str
    """What the guide cuts of it, in words; empty without one."""


@dataclass(frozen=True, kw_only=True)
class ShownSlot:
    """A lettered piece of a card, with what may be taken in its place."""

    slot: Slot
    """The piece."""
    size: str
    """Its size in words."""
    paper: Paper | None
    """What it is cut from; None if nothing is cast, or it is left out."""
    side: str
    """The side that shows."""
    instead: str
    """``own``, ``none`` or the key of what is taken in its place."""
    over: bool
    """Whether it is turned over by itself."""


@dataclass(frozen=True, kw_only=True)
class ShownCard:
    """A card of the class, as it is cast here."""

    number: int
    """Its number in guides."""
    read: ReadCard
    """The card."""
    slots: tuple[ShownSlot, ...]
    """Its lettered pieces."""
    plain: tuple[ShownSlot, ...]
    """Its bases and mats of card stock."""
    locked: bool
    """Whether its letters stay."""
    state: str
    """What its drawing depends on, in a few letters."""


class Table:
    """The casting table of a class with one of its castings open."""

    def __init__(self, card_class: CardClass, row: Casting | None):
        self.card_class = card_class
        self.counted: CountedClass = count_class(card_class)
        self.rows = castings_of(card_class.pk)
        self.row = row or (self.rows[0] if self.rows else None)
        self.cast = cast_of(self.row) if self.row else Cast()

    @cached_property
    def use(self) -> ClassGuide:
        """Its guide, pad and marks."""
        return use_of(self.card_class.pk)

    @cached_property
    def papers(self) -> dict[str, Paper]:
        """Every paper of the shelf, by key."""
        return {paper.key: paper for paper in self.counted.held.papers}

    @cached_property
    def stage(self) -> Stage:
        """What is cast from: the pad's sheets, or all patterned papers."""
        holds = self.use.pad.holds if self.use.pad else None
        mine = [
            paper
            for paper in self.papers.values()
            if (paper.key in holds if holds is not None else paper.kind == Paper.Kind.PATTERNED)
            or paper.key in self.cast.letters.values()
        ]
        slots = slots_of(cards_of(self.counted))
        taken = self._taken()
        sheets = {
            paper.key: replace(pad_sheet(paper, (holds or {}).get(paper.key)), taken=taken[paper.key]) for paper in mine
        }
        return Stage(slots=slots, sheets=sheets, guide=drawn(self.use.made), sets=self._sets(self.row))

    @cached_property
    def castable(self) -> tuple[Slot, ...]:
        """Every piece a casting may say something of."""
        return castable(cards_of(self.counted))

    def _sets(self, row: Casting | None) -> int:
        """How many times a casting's set of letters is cut: as often as its kits need the card they need most."""
        at = self.rows.index(row) if row in self.rows else 0
        made: Counter[str] = Counter()
        for demand in self.counted.demands:
            if not self.rows or whose(self.rows, self.castable, demand.instead) == at:
                made[demand.card] += demand.count
        # What only lies beside the others would be everybody's.
        beside = at > 0 and row is not None and not row.last
        mine = (made[slot.card] for slot in self.castable if slot.letter)
        return self._sets(self.rows[0]) if beside else max(mine, default=0)

    def _taken(self) -> Counter[str]:
        """By key how many sheets the other castings take that are cut."""
        cut = [row for row in self.rows if row == self.rows[0] or row.last]
        # What lies beside the others is looked at in the place of everybody's.
        others = [row for row in cut if row != self.row] if self.row in cut else cut[1:]
        found: Counter[str] = Counter()
        for row in others:
            sets = self._sets(row)
            for key in cast_of(row).letters.values():
                found[key] += sets
        return found

    @cached_property
    def faults(self) -> list[Fault]:
        """What the casting breaks."""
        return faults(self.stage, self.cast)

    @cached_property
    def meetings(self) -> list[Meeting]:
        """Who meets whom."""
        return meetings(self.stage.slots, self.cast)

    @cached_property
    def marks(self) -> Marks:
        """What she always or never wants together."""
        kept = self.use.marks
        return Marks(
            together=frozenset(map(frozenset, kept.get("together", ()))),
            never=frozenset(map(frozenset, kept.get("never", ()))),
        )

    @property
    def marked(self) -> list[tuple[str, str, str]]:
        """The marks in words: what, and the names of the two papers."""
        names = self.counted.names
        return [
            (kind, *(names.get(key, "a paper that is gone") for key in pair), "|".join(pair))
            for kind in ("together", "never")
            for pair in self.use.marks.get(kind, ())
        ]

    @cached_property
    def weighed(self) -> Weighed:
        """What it is worth."""
        return weigh(self.stage, self.cast, self.marks)

    @property
    def letters(self) -> list[ShownLetter]:
        """The columns."""
        held = locked_letters(self.cast, self.stage.slots)
        return [
            ShownLetter(
                letter=letter,
                paper=self.papers.get(self.cast.letters.get(letter, "")),
                over=letter in self.cast.over,
                locked=letter in self.cast.locked,
                held=letter in held,
                cards=tuple(sorted({slot.number for slot in self.stage.of(letter)})),
                cut=self._cut(letter),
            )
            for letter in self.stage.letters
        ]

    def _cut(self, letter: str) -> str:
        sheet = self.stage.guide.of(letter) if self.stage.guide else None
        return f"{len(sheet.layout.cuts)} cuts, {len(sheet.pieces)} pieces" if sheet else ""

    @property
    def sheets(self) -> list[ShownSheet]:
        """The rows."""
        used = Counter(self.cast.letters.values())
        times = self.stage.sets if self.stage.guide else 0
        return [
            ShownSheet(paper=self.papers[key], there=sheet.count, used=used[key] * times)
            for key, sheet in self.stage.sheets.items()
            if key in self.papers and self.papers[key].kind != Paper.Kind.CARD
        ]

    @property
    def cards(self) -> list[ShownCard]:
        """The cards that have lettered pieces, as they are cast here."""
        slots: dict[str, list[Slot]] = {}
        for slot in self.stage.slots:
            slots.setdefault(slot.card, []).append(slot)
        return [
            ShownCard(
                number=number,
                read=card,
                slots=tuple(map(self._slot, slots[card.entry.letter])),
                plain=tuple(self._slot(slot) for slot in self.plain if slot.card == card.entry.letter),
                locked=f"card {card.entry.letter}" in self.cast.locked,
                state=self._state(card),
            )
            for number, card in enumerate(self.counted.designs, 1)
            if card.entry.letter in slots
        ]

    def _slot(self, slot: Slot) -> ShownSlot:
        taken = self.cast.instead.get(slot.handle)
        return ShownSlot(
            slot=slot,
            size=show_size(slot.width, slot.height, self.card_class.unit),
            paper=self.papers.get(self.cast.paper(slot) or ""),
            side=self.cast.side(slot),
            instead=OWN_SHEET if taken is None else taken or LEFT_OUT,
            over=slot.handle in self.cast.over,
        )

    def as_cast(self, card: ReadCard) -> ReadCard:
        """A card as this casting has it."""
        return replace(card, cast=self.cast)

    def _state(self, card: ReadCard) -> str:
        looks = [
            (paper.colour, paper.repeat, paper.photo, sorted(paper.side_b.items()))
            for shown in self.as_cast(card).shown.values()
            if shown and (paper := self.papers.get(shown[0]))
        ]
        about = repr((card.entry.card.saves, card.entry.held, sorted(self.as_cast(card).shown.items()), looks))
        return hashlib.sha256(about.encode()).hexdigest()[:12]

    @property
    def stock(self) -> list[Paper]:
        """Card stock that may be taken in place of a piece."""
        return [paper for paper in self.papers.values() if paper.kind == Paper.Kind.CARD]

    @cached_property
    def plain(self) -> tuple[Slot, ...]:
        """The bases and mats that may be of other card stock."""
        stock = {paper.key for paper in self.stock}
        return tuple(slot for slot in self.castable if slot.written in stock)

    @property
    def strangers(self) -> tuple[list[str], list[str]]:
        """What guide and cards do not have in common: pieces no card takes, and handles the guide does not cut."""
        return unmatched(self.stage.guide, self.stage) if self.stage.guide else ([], [])

    @cached_property
    def pad_sets(self) -> PadSets | None:
        """The sets of the pad; None without one."""
        if not self.use.pad or not self.stage.letters:
            return None
        return pad_sets(dict(self.use.pad.holds), len(self.stage.letters))

    @property
    def set_names(self) -> list[list[str]]:
        """The patterns of every set of the pad, by name."""
        names = self.counted.names
        found = self.pad_sets.sets if self.pad_sets else ()
        return [[names.get(key, "a paper that is gone") for key in each] for each in found]

    def proposals(self) -> list[Proposal]:
        """Castings worth a look. Card stock is proposed for no letter; one that is cast as it stays."""
        cards = {key for key in self.stage.sheets if key in self.papers and self.papers[key].kind == Paper.Kind.CARD}
        stay = {letter for letter, key in self.cast.letters.items() if key in cards}
        held = replace(self.cast, locked=self.cast.locked | stay)
        sheets = {key: sheet for key, sheet in self.stage.sheets.items() if key not in cards}
        found = proposals(replace(self.stage, sheets=sheets), held, self.marks)
        return [replace(each, casting=replace(each.casting, locked=self.cast.locked)) for each in found]

    @property
    def served(self) -> int:
        """How many people the sets of the pad serve, each making what the class has of every lettered card."""
        letters = {slot.card for slot in self.stage.slots}
        each = max((counts.each for counts in self.counted.needs.cards if counts.letter in letters), default=0)
        return len(self.pad_sets.sets) // each if self.pad_sets and each else 0

    def named(self, casting: Cast) -> list[tuple[str, Paper | None, bool]]:
        """What a proposal has for every letter: the letter, its paper, whether it is turned over."""
        return [(x, self.papers.get(casting.letters.get(x, "")), x in casting.over) for x in self.stage.letters]


Move = Callable[[Cast], Cast]


def move_of(sent: Mapping[str, str], table: Table) -> Move:
    """What a form or a key asks for.

    Raises
    ------
    GuideError
        If that is no move, or is about something that is not there.
    """
    act, letters = sent.get("act", ""), table.stage.letters
    handles = {slot.handle for slot in table.stage.slots}
    letter, paper = sent.get("letter", ""), sent.get("paper", "")
    castable = {"", *table.stage.sheets, *(each.key for each in table.stock)}
    if act == "letter" and letter in letters and paper in castable:
        return partial(with_letter, letter=letter, paper=paper)
    if act == "swap" and letter in letters and sent.get("with") in letters and sent["with"] != letter:
        return partial(swapped, one=letter, other=sent["with"])
    if act == "over" and sent.get("what") in {*letters, *handles}:
        return partial(turned_over, what=sent["what"])
    if act == "lock" and sent.get("what") in {*letters, *(f"card {slot.card}" for slot in table.stage.slots)}:
        return partial(locked, what=sent["what"])
    if act == "piece" and paper in _in_its_place(sent.get("handle", ""), table):
        taken = {OWN_SHEET: None, LEFT_OUT: NOTHING}.get(paper, paper)
        return partial(exchanged, handle=sent["handle"], paper=taken)
    if act == "take":
        return partial(_taking, sent.get("cast", ""), table)
    raise GuideError("That is not there any more", mend="Look at the table anew")


def _in_its_place(handle: str, table: Table) -> set[str]:
    """What may be taken in place of a piece; nothing where no piece is called so."""
    if handle in {slot.handle for slot in table.stage.slots}:
        return {OWN_SHEET, LEFT_OUT, *table.papers}
    if handle in {slot.handle for slot in table.plain}:
        return {OWN_SHEET, *(each.key for each in table.stock)}
    return set()


def _taking(said: str, table: Table, cast: Cast) -> Cast:
    """``A=p1,B=p2+``: every letter's paper, turned over where a plus follows."""
    letters, over = {}, set(cast.over) - set(table.stage.letters)
    for item in said.split(","):
        letter, _, key = item.partition("=")
        paper = key.removesuffix("+")
        if letter not in table.stage.letters or paper not in {*table.stage.sheets, *table.cast.letters.values()}:
            raise GuideError("That is not there any more", mend="Ask for castings once more")
        letters[letter] = paper
        over |= {letter} if key.endswith("+") else set()
    return replace(cast, letters=letters, over=frozenset(over))


def said(casting: Cast, letters: tuple[str, ...]) -> str:
    """A casting's letters as ``_taking`` reads them."""
    mine = (letter for letter in letters if letter in casting.letters)
    return ",".join(f"{x}={casting.letters[x]}{'+' if x in casting.over else ''}" for x in mine)


def make(table: Table, move: Move) -> Casting:
    """Make a move on the open casting; the first of a class begins with it. Raises what the move raises."""
    row = table.row or add_casting(table.card_class, FIRST)
    row = change(row, move)
    await_count(table.card_class.pk, None)
    return row
