"""The packing board: every bag and kit of a class with what is in it, what is packed, what is short."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

from django.db.models import QuerySet

from zester.bags.models import Mark, Shortage
from zester.classes.models import CardClass
from zester.classes.services import CountedClass, ReadCard, count_class
from zester.core.care import care_of
from zester.core.kits.demand import CHOSEN, GIFT, PERSON, SPARE, UNNAMED
from zester.core.kits.packing import ALL, BIT, IF_ANY, OPEN_CHOICE, PIECE, Bag, Item, Kit, Packed, Stack
from zester.core.lengths import show_size, with_unit
from zester.core.tally import BIT_SIGN, PieceCount, bit_key_of
from zester.plans.kept import Made, read_made
from zester.plans.models import PaperFit
from zester.site.prepared import prepared
from zester.site.stations import some

_OF_KIT = re.compile(r"(?:p\d+|[ugs])-\w+-\d+")
NOBODYS = {UNNAMED: "no name yet", GIFT: "to give away", SPARE: "spare kit"}


@dataclass(frozen=True, kw_only=True)
class Line:
    """One thing of a bag or a kit, in words."""

    item: Item
    """The thing."""
    handle: str
    """A piece's handle; empty for a bit."""
    name: str
    """What it is called."""
    about: str
    """Size and paper of a piece."""
    count: str
    """How many, in words: ``2``, ``2 × 8 in``."""
    care: str
    """What to know of it."""
    note: str = ""
    """What is missing of it, and what is done about that."""

    @property
    def key(self) -> str:
        """What a shortage of it is known by."""
        return self.item.key


@dataclass(frozen=True)
class ShownBag:
    """A bag with its state."""

    kit: Kit
    """Its kit."""
    name: str
    """Whose it is, in words."""
    bag: Bag
    """The bag."""
    mark: Mark | None
    """That it is packed."""
    notes: tuple[str, ...]
    """What is missing in it."""
    missing: bool
    """Whether something is to be done about that yet."""
    changed: bool
    """Whether its order has changed since it was packed."""

    @property
    def done(self) -> bool:
        """Whether it is packed with what goes into it now."""
        return self.mark is not None and not self.changed


@dataclass(frozen=True)
class ShownKit:
    """A kit with its state."""

    kit: Kit
    """The kit."""
    name: str
    """Whose it is, in words."""
    bags: tuple[ShownBag, ...]
    """Its bags."""
    mark: Mark | None
    """That it is packed."""
    notes: tuple[str, ...]
    """What is missing beside the bags."""
    missing: bool
    """Whether something is to be done about that yet."""
    changed: bool
    """Whether its order has changed since it was packed."""

    @property
    def bags_done(self) -> int:
        """How many of its bags are packed."""
        return sum(bag.done for bag in self.bags)

    @property
    def only_bag(self) -> ShownBag | None:
        """The bag that is all of the kit: packed with it, the kit is."""
        return self.bags[0] if len(self.bags) == 1 and not self.kit.beside else None

    @property
    def closed_by(self) -> Mark | None:
        """The mark that says that it is packed."""
        return self.only_bag.mark if self.only_bag else self.mark

    @property
    def done(self) -> bool:
        """Whether it is packed."""
        if self.only_bag:
            return self.only_bag.done
        return self.mark is not None and not self.changed and self.bags_done == len(self.bags)

    @property
    def is_short(self) -> bool:
        """Whether something is missing in it, and nothing goes in instead."""
        return self.missing or any(bag.missing for bag in self.bags)

    @property
    def state(self) -> str:
        """``done``, ``changed``, ``short``, ``begun`` or ``open``."""
        if self.done:
            return "done"
        if self.changed or any(bag.changed for bag in self.bags):
            return "changed"
        if self.is_short:
            return "short"
        return "begun" if self.bags_done or self.closed_by else "open"

    @property
    def words(self) -> str:
        """Its state in words."""
        of = len(self.bags)
        if self.done:
            return "packed"
        words = f"{self.bags_done} of {some(of, 'bag')}" if of else "not packed"
        extra = {"changed": "order changed", "short": "short"}.get(self.state, "")
        return f"{words}, {extra}" if extra else words


@dataclass(frozen=True)
class ShownStack:
    """Bags of one card that hold the same, with their state."""

    stack: Stack
    """The bags."""
    key: str
    """What it is known by: it is another as soon as something else goes into the bags."""
    name: str
    """The card's name."""
    rows: tuple[ShownBag, ...]
    """The bags in the order of the kits."""
    lines: tuple[Line, ...]
    """What goes into each."""
    own: int
    """How many samples and spares of it stay with the teacher."""
    differs: str = ""
    """What tells it from the first bags of its card, in words."""

    @property
    def inside(self) -> str:
        """What is in each, in few words: ``16 pieces, 10 bits``."""
        counts = {kind: sum(item.count for item in self.stack.items if item.kind == kind) for kind in (PIECE, BIT)}
        words = [some(counts[PIECE], "piece"), some(counts[BIT], "bit") if counts[BIT] else ""]
        return ", ".join(filter(None, words))

    @property
    def name_columns(self) -> tuple[list[str], list[str]]:
        """Whose they are, in two columns for paper."""
        names = [row.name for row in self.rows]
        half = -(-len(names) // 2)
        return names[:half], names[half:]

    @property
    def done(self) -> int:
        """How many are packed."""
        return sum(row.done for row in self.rows)

    @property
    def next(self) -> ShownBag | None:
        """The one to be packed next: those that lack something come last."""
        left = [row for row in self.rows if not row.done]
        return min(left, key=lambda row: row.missing, default=None)


@dataclass(frozen=True)
class Surplus:
    """A bag or a kit that is packed and that nobody wants any more."""

    mark: Mark
    """That it is packed."""
    name: str
    """What it is and whose it was, in words."""
    kit: str
    """The key of the kit it was for."""
    fits: tuple[ShownKit, ...]
    """Kits that are not packed and hold just the same."""


class Board:
    """A class at the packing table."""

    def __init__(self, counted: CountedClass, marks: Iterable[Mark], shortages: Iterable[Shortage]):
        self.counted, self.card_class = counted, counted.card_class
        self.packed: Packed = counted.packed
        self.unit = self.card_class.unit
        self.marks = {mark.what: mark for mark in marks}
        self.shortages = list(shortages)

    @cached_property
    def pieces(self) -> dict[str, PieceCount]:
        """The pieces by handle."""
        return {each.handle: each for each in self.counted.counts}

    @cached_property
    def people(self) -> dict[str, str]:
        """What people are called, by key."""
        return {person.key: person.name for person in self.counted.needs.people}

    @cached_property
    def cards(self) -> dict[str, ReadCard]:
        """The cards by letter."""
        return {card.entry.letter: card for card in self.counted.cards}

    @cached_property
    def notes(self) -> dict[str, list[tuple[str, str]]]:
        """By the key of a bag or a kit what it lacks: the thing, and what is said of it."""
        found: dict[str, list[tuple[str, str]]] = {}
        for shortage in self.shortages:
            if shortage.state == Shortage.State.THERE:
                continue
            for key, count in shortage.lacking:
                found.setdefault(key, []).append((shortage.thing, self.lack_words(shortage, count)))
        return found

    @cached_property
    def _lacking(self) -> set[str]:
        """The keys of bags and kits that lack something for which nothing goes in instead."""
        return {key for shortage in self.open_shortages for key, _ in shortage.lacking}

    def lack_words(self, shortage: Shortage, count: int) -> str:
        """``A3 is missing, 1 of it: being cut again``."""
        if shortage.state == Shortage.State.INSTEAD:
            what = shortage.paper.name if shortage.paper else shortage.words
            return f"{count} × {shortage.thing}: {what} instead"
        where = ", being cut again" if shortage.state == Shortage.State.BENCH else ""
        return f"{count} × {shortage.thing} missing{where}"

    @cached_property
    def _offers_of(self) -> dict[str, set[str]]:
        """By a person's key what they ordered."""
        found: dict[str, set[str]] = {}
        for kit in self.packed.kits:
            found.setdefault(kit.person, set()).add(kit.what)
        return found

    def name_of(self, kit: Kit) -> str:
        """Whose a kit is."""
        if kit.person:
            which = kit.what if len(self._offers_of[kit.person]) > 1 else "kit" if kit.of > 1 else ""
            name = ", ".join(filter(None, (self.people.get(kit.person, "somebody"), which)))
        else:
            name = NOBODYS[kit.origin]
        return f"{name} {kit.number} of {kit.of}" if kit.of > 1 else name

    @cached_property
    def kits(self) -> list[ShownKit]:
        """Every kit that holds something."""
        return [self._kit(kit) for kit in self.packed.kits if not kit.is_empty]

    @cached_property
    def empty(self) -> list[str]:
        """Who gets nothing to take along."""
        return [self.name_of(kit) for kit in self.packed.kits if kit.is_empty]

    def _kit(self, kit: Kit) -> ShownKit:
        mark = self.marks.get(kit.key)
        bags = tuple(self._bag(kit, bag) for bag in kit.bags)
        changed = mark is not None and mark.holds != digest(kit.beside)
        return ShownKit(kit, self.name_of(kit), bags, mark, self._said(kit.key), kit.key in self._lacking, changed)

    def _bag(self, kit: Kit, bag: Bag) -> ShownBag:
        mark = self.marks.get(bag.key)
        changed = mark is not None and mark.holds != digest(bag.items)
        return ShownBag(kit, self.name_of(kit), bag, mark, self._said(bag.key), bag.key in self._lacking, changed)

    def _said(self, key: str) -> tuple[str, ...]:
        # Bags and kits share no key, so that what is said of one is not said of the other.
        return tuple(words for _, words in self.notes.get(key, ()))

    @cached_property
    def kits_by_key(self) -> dict[str, ShownKit]:
        """The kits by key."""
        return {each.kit.key: each for each in self.kits}

    @cached_property
    def bags(self) -> dict[str, ShownBag]:
        """All bags by key."""
        return {bag.bag.key: bag for kit in self.kits for bag in kit.bags}

    @cached_property
    def stacks(self) -> list[ShownStack]:
        """Bags design by design."""
        found = []
        for stack in self.packed.stacks:
            rows = tuple(self.bags[bag.key] for _, bag in stack.bags)
            own = sum(bag.cards for bag in self.packed.own if bag.letter == stack.letter)
            key = f"{stack.letter}-{digest(stack.items)[:8]}"
            first = next((each for each in found if each.stack.letter == stack.letter), None)
            differs = _difference(first.stack.items, stack.items) if first else ""
            lines = self.lines(stack.items)
            found.append(ShownStack(stack, key, self.card_name(stack.letter), rows, lines, own, differs))
        return found

    def card_name(self, letter: str) -> str:
        """What a card is called, with its number in the guide and its version."""
        if letter == ALL:
            return "everything of a kit"
        card = self.cards.get(letter)
        if card is None:
            return ""
        version = f" ({card.entry.version})" if card.entry.version else ""
        # A cast class is packed by the numbers of its guide.
        number = self.counted.numbers.get(letter)
        return f"{f'card {number}, ' if number else ''}{card.entry.card.name}{version}"

    def stack(self, key: str) -> ShownStack | None:
        """The bags known by this key."""
        return next((stack for stack in self.stacks if stack.key == key), None)

    def lines(self, items: Iterable[Item], notes: Iterable[tuple[str, str]] = ()) -> tuple[Line, ...]:
        """Things in words; ``notes`` say what of them is missing."""
        said = {}
        for thing, words in notes:
            said[thing] = "; ".join(filter(None, (said.get(thing), words)))
        items = list(items)
        found = [self._line(item, said.get(item.key, "")) for item in items if not item.at_home]
        home: dict[str, list[Item]] = {}
        for item in items:
            if item.at_home:
                home.setdefault(self.pieces[item.key].piece.paper, []).append(item)
        return (*found, *(self._home_line(paper, rows, said) for paper, rows in home.items()))

    def _home_line(self, paper: str, items: list[Item], said: dict[str, str]) -> Line:
        """The portions or whole sheets of a paper that somebody cuts up at home."""
        each, size = self.portions.get(paper, (0, ""))
        whole = items[0].how == "whole"
        what = "whole sheets" if whole else "portions"
        about = f"{what}{f' of {size}' if size else ''}, for {', '.join(item.key for item in items)}"
        name = self.counted.names.get(paper, "a paper off the shelf")
        note = "; ".join(said[item.key] for item in items if item.key in said)
        item = Item(items[0].kind, items[0].key, each or 1, how=items[0].how)
        return Line(item=item, handle="", name=name, about=about, count=str(each or "?"), care="", note=note)

    @cached_property
    def portions(self) -> dict[str, tuple[int, str]]:
        """Of papers that are cut up at home how many portions or sheets a kit gets, and their size."""
        at_home = {self.pieces[item.key].piece.paper for kit in self.packed.kits for item in kit.beside if item.at_home}
        return {
            paper: (made.plan.portions_each(made.paper.people), show_size(*made.plan.portion, self.unit))
            for paper, made in self._plans_of(at_home)
            if made.plan.portion
        }

    def instead_in(self, items: Iterable[Item]) -> dict[str, str]:
        """By the key of a paper the one that is in a bag in its place."""
        entries = (self.pieces[item.key] for item in items if item.key in self.pieces)
        return {entry.written: entry.piece.paper for entry in entries if entry.written}

    def instead_words(self, items: Iterable[Item]) -> list[str]:
        """The same in words: ``Brick in place of Ember Dust``."""
        names, items = self.counted.names, list(items)
        papers = [
            f"{names.get(other, 'another paper')} in place of {names.get(written, 'another')}"
            for written, other in self.instead_in(items).items()
        ]
        return [*papers, *self._bits_instead(items)]

    def _bits_instead(self, items: Iterable[Item]) -> list[str]:
        """Bits that lie in a bag in place of those that lists name."""
        there = {bit_key_of(item.key) for item in items if item.kind == BIT}
        return [
            f"{each.name} in place of {each.paper.removeprefix(BIT_SIGN)}"
            for each in self.counted.needs.instead
            if each.paper.startswith(BIT_SIGN) and bit_key_of(each.name) in there and each.paper not in there
        ]

    @cached_property
    def supplements(self) -> list[PaperFit]:
        """What is still to be cut of papers that are cut already: their other pieces lie there."""
        rows = _needed(self.card_class.pk)
        for fit in rows:
            fit.class_paper.card_class = self.card_class
        cut = {fit.class_paper_id for fit in rows if fit.held == PaperFit.Held.CUT}
        return [fit for fit in rows if fit.class_paper_id in cut and fit.held != PaperFit.Held.CUT]

    @cached_property
    def to_be_cut(self) -> dict[str, int]:
        """By piece how many of those that is, while the rest lies there."""
        found: Counter[str] = Counter()
        for fit in self.supplements:
            found.update({handle: about["count"] for handle, about in fit.pieces.items()})
        return dict(found)

    @cached_property
    def middles_out(self) -> set[str]:
        """The papers of whose mats the hidden middle is cut out and lies in another bag, by the plan or as written."""
        wanted = {each.piece.paper for each in self.counted.counts if each.piece.from_middle and each.count}
        left = {
            paper
            for paper, made in self._plans_of(wanted)
            if not any(layout.source == "window" for layout in made.plan.layouts)
        }
        return wanted - left

    def _plans_of(self, papers: Collection[str]) -> Iterable[tuple[str, Made]]:
        """The plans that are shown for some papers."""
        if not papers:
            return
        wanted = {"class_paper__card_class": self.card_class, "class_paper__paper__key__in": papers}
        # Supplements first: where several plans say something of one paper, the first plan has the last word.
        fits = PaperFit.objects.filter(**wanted, shown__isnull=False).order_by("-part")
        for fit in fits.select_related("class_paper__paper", "shown"):
            yield fit.paper.key, read_made(fit.shown)

    @cached_property
    def bit_remarks(self) -> dict[str, str]:
        """By the name of a bit what lists remark on it."""
        found: dict[str, dict[str, None]] = {}
        for card in self.counted.cards:
            for bit in card.bits:
                if bit.note:
                    found.setdefault(bit.name, {})[bit.note] = None
        return {name: " · ".join(notes) for name, notes in found.items()}

    def _line(self, item: Item, note: str) -> Line:
        if item.kind == BIT:
            count = f"{item.count} × {with_unit(item.length, self.unit)}" if item.length else str(item.count)
            care = self.bit_remarks.get(item.key, "")
            return Line(item=item, handle="", name=item.key, about="", count=count, care=care, note=note)
        if item.kind == OPEN_CHOICE:
            name = "paper not chosen yet" if item.count == 1 else "papers not chosen yet"
            return Line(item=item, handle="", name=name, about="", count=str(item.count), care="", note=note)
        entry = self.pieces[item.key]
        piece = entry.piece
        if entry.card == CHOSEN:
            size = show_size(piece.width, piece.height, self.unit)
            name = f"{self.counted.names.get(piece.paper, 'a paper off the shelf')}, as chosen"
            return Line(item=item, handle="", name=name, about=size, count=str(item.count), care="", note=note)
        size = show_size(piece.width, piece.height, self.unit)
        paper = self.counted.names.get(piece.paper, "a paper off the shelf")
        side = ", side B" if piece.side == "b" else ""
        about = f"{size} · {paper}{side}"
        if entry.written:
            about += f" instead of {self.counted.names.get(entry.written, 'another paper')}"
        count = "any" if item.how == IF_ANY else str(item.count)
        care = " · ".join(care_of(piece))
        return Line(item=item, handle=item.key, name=piece.name, about=about, count=count, care=care, note=note)

    # sums

    @property
    def bags_done(self) -> int:
        """How many bags are packed."""
        return sum(kit.bags_done for kit in self.kits)

    @property
    def kits_done(self) -> int:
        """How many kits are packed."""
        return sum(kit.done for kit in self.kits)

    @property
    def open_shortages(self) -> list[Shortage]:
        """What is missing and about which something is still to be done."""
        return [each for each in self.shortages if each.state in (Shortage.State.OPEN, Shortage.State.BENCH)]

    @cached_property
    def surplus(self) -> list[Surplus]:
        """Packed for nobody any more: an order was cancelled, or the kit got another name."""
        known = {*self.bags, *self.kits_by_key}
        found = []
        for what, mark in self.marks.items():
            if what not in known:
                kit = kit_of(what)
                rest = what.removeprefix(kit)
                fits = [each for each in self.kits if not each.mark and self._holds(each, rest, mark)]
                found.append(Surplus(mark, self._was(kit, rest), kit, tuple(fits[:8])))
        return found

    @property
    def surplus_kits(self) -> list[tuple[str, str]]:
        """The kits something of which is packed for nobody: key, and whose it was."""
        return list({row.kit: (row.kit, row.name.partition(",")[0]) for row in self.surplus}.values())

    def _was(self, kit: str, rest: str) -> str:
        """Whose a kit was that nobody wants any more, by its key; ``rest`` is what follows that in a bag's."""
        whose = kit.split("-", 1)[0]
        name = NOBODYS.get(whose) or self.people.get(whose.removeprefix(PERSON), "somebody who comes no more")
        letter = rest.removeprefix("-")
        return f"{name}, {'the kit' if not letter else 'its one bag' if letter == ALL else f'bag {letter}'}"

    def _holds(self, shown: ShownKit, rest: str, mark: Mark) -> bool:
        """Whether the kit has such a bag, not packed yet, that holds what was packed."""
        if not rest:
            return digest(shown.kit.beside) == mark.holds
        bag = next((bag for bag in shown.bags if bag.bag.key == f"{shown.kit.key}{rest}"), None)
        return bag is not None and not bag.mark and digest(bag.bag.items) == mark.holds


def _difference(usual: Iterable[Item], items: Iterable[Item]) -> str:
    """``without A3, A4; with A1′``."""
    usual, mine = {item.key for item in usual}, {item.key for item in items}
    words = [("without", usual - mine), ("with", mine - usual)]
    return "; ".join(f"{word} {', '.join(sorted(keys))}" for word, keys in words if keys)


def digest(items: Iterable[Item]) -> str:
    """What is in a bag, as a short text that is another for anything else."""
    return blake2b(repr(tuple(items)).encode(), digest_size=8).hexdigest()


def kit_of(what: str) -> str:
    """The key of the kit in the key of a bag; of a kit its own."""
    found = _OF_KIT.match(what)
    return found[0] if found else what


def board_of(card_class: CardClass) -> Board:
    """The board of a class as it is now."""
    return board_with(count_class(card_class))


def board_with(counted: CountedClass) -> Board:
    """The same of a class that is counted already."""
    card_class = counted.card_class
    return Board(counted, _marks(card_class.pk), _shortages(card_class.pk))


@prepared
def _marks(card_class: int) -> QuerySet[Mark]:
    return Mark.objects.filter(card_class=card_class)


@prepared
def _shortages(card_class: int) -> QuerySet[Shortage]:
    return Shortage.objects.filter(card_class=card_class).select_related("paper", "run", "refit")


@prepared
def _needed(card_class: int) -> QuerySet[PaperFit]:
    mine = PaperFit.objects.filter(class_paper__card_class=card_class).exclude(need="")
    return mine.select_related("class_paper__paper").defer("job").order_by("class_paper__paper__name", "part")
