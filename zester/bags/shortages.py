"""What is missing at the packing table: said, sent back to the bench, taken from something else, there again."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from django.db import transaction

from zester.bags.board import Board, Line, board_of
from zester.bags.models import Shortage
from zester.bench.models import Refit
from zester.bench.refits import ask_again
from zester.bench.runs import WITH_ALL
from zester.classes.models import CardClass
from zester.classes.services import hold_class
from zester.core.errors import ZesterError
from zester.core.kits.lacking import lack_of, wanted_of
from zester.core.kits.packing import ALL, BIT, PIECE, Bag, Item
from zester.plans.models import PaperFit
from zester.shelf.models import Paper

SPARE_KEY = "spare"
OWN_WORDS = {"samples": "your sample of", "spares": "your spare card of"}


@dataclass(frozen=True, kw_only=True)
class Pile:
    """Everything of one piece or bit, as it lies on the table."""

    line: Line
    """What it is."""
    wanted: int
    """How many are needed in all."""
    packed: int
    """How many of them are in bags already."""
    missing: int
    """How many are said to be missing, and nothing came in their place."""
    to_cut: int = 0
    """How many are still to be cut, while the others lie there."""

    @property
    def there(self) -> int:
        """How many should lie there now."""
        return max(0, self.wanted - self.packed - self.missing - self.to_cut)


def piles_of(board: Board) -> list[Pile]:
    """Every pile of pieces, then of bits, in the order of the cards."""
    wanted: Counter = Counter()
    packed: Counter = Counter()
    first: dict[str, Item] = {}
    for kit in board.kits:
        parts = [(bag.bag.items, bag.done) for bag in kit.bags]
        for items, done in (*parts, (kit.kit.beside, kit.done)):
            for item in items:
                if not item.is_counted:
                    continue
                first.setdefault(item.key, item)
                wanted[item.key] += item.count
                packed[item.key] += item.count * done
    for item in (*(item for bag in board.packed.own for item in bag.items), *board.packed.spare):
        if item.key in first:
            wanted[item.key] += item.count
    missing = Counter()
    for each in board.open_shortages:
        missing[each.thing] += each.count
    place = {handle: number for number, handle in enumerate(board.pieces)}
    order = sorted(first, key=lambda key: (first[key].kind != PIECE, place.get(key, 0)))
    return [
        Pile(
            line=board.lines([first[key]])[0],
            wanted=wanted[key],
            packed=packed[key],
            missing=missing[key],
            to_cut=board.to_be_cut.get(key, 0),
        )
        for key in order
    ]


@transaction.atomic
def report(card_class: CardClass, thing: str, count: int) -> Shortage:
    """Say that so many of a piece or bit are missing; who goes without is worked out now and kept.

    Raises ZesterError if there is no such thing, or not so many.
    """
    hold_class(card_class.pk)
    board = board_of(card_class)
    if count < 1:
        raise ZesterError("How many are missing?", mend="Write 1 or more")
    known = {item.key: item for kit in board.kits for item in kit.kit.items if item.is_counted}
    if thing not in known:
        raise ZesterError(f"No bag holds “{thing[:40]}”", mend="Take it from the list of what is in the bags")
    others = [each for each in board.shortages if each.thing == thing and each.state != Shortage.State.THERE]
    lacking = _lacking(board, thing, count, others)
    is_piece = known[thing].kind != BIT
    return Shortage.objects.create(card_class=card_class, is_piece=is_piece, thing=thing, count=count, lacking=lacking)


def _lacking(board: Board, thing: str, count: int, others: Iterable[Shortage]) -> list[list]:
    """Who goes without so many more, beside those of whom that was said already: keys, and how many each."""
    already: Counter = Counter()
    for each in others:
        for key, much in each.lacking:
            already[key] += much
    done = {key for key, bag in board.bags.items() if bag.done} | {kit.kit.key for kit in board.kits if kit.mark}
    lack = lack_of(board.packed, thing, count + sum(already.values()), done)
    if lack.unknown:
        wanted = wanted_of(board.packed, thing)
        raise ZesterError(f"Only {wanted} of {thing} are needed", mend="Say how many of those are missing")
    rows = Counter({SPARE_KEY: lack.spare} if lack.spare else {})
    rows.update({bag.key: much for bag, much in lack.own})
    rows.update({(bag or kit).key: much for kit, bag, much in lack.kits})
    return [[key, much] for key, much in (rows - already).items()]


@transaction.atomic
def say_anew(card_class: CardClass) -> None:
    """Bags are others now: who goes without what is worked out once more."""
    board = board_of(card_class)
    before: dict[str, list[Shortage]] = {}
    for each in board.shortages:
        if each.state != Shortage.State.THERE:
            others = before.setdefault(each.thing, [])
            each.lacking = _lacking(board, each.thing, each.count, others)
            each.save(update_fields=["lacking"])
            others.append(each)


@transaction.atomic
def count_piles(card_class: CardClass, counted: Mapping[str, int]) -> tuple[list[Shortage], list[str]]:
    """Compare piles with what should lie there: shortages for those with fewer, words for those with more."""
    board = board_of(card_class)
    short, over = [], []
    for pile in piles_of(board):
        number = counted.get(pile.line.key)
        if number is None:
            continue
        if number < pile.there:
            short.append(report(card_class, pile.line.key, pile.there - number))
        elif number > pile.there:
            over.append(f"{pile.line.key}: {number}, {number - pile.there} more than needed")
    return short, over


def for_whom(board: Board, shortage: Shortage) -> list[str]:
    """Who goes without, in words."""
    words = []
    for key, much in shortage.lacking:
        if key == SPARE_KEY:
            words.append("your spare" if much == 1 else f"{much} of your spares")
        elif key in board.bags:
            row = board.bags[key]
            words.append(f"{row.name}{_bag(row.bag)}{_many(much)}")
        elif key in board.kits_by_key:
            words.append(f"{board.kits_by_key[key].name}{_many(much)}")
        else:
            what, _, letter = key.partition("-")
            words.append(f"{OWN_WORDS[what]} {letter}{_many(much)}" if what in OWN_WORDS else "an order that is gone")
    return words


def _bag(bag: Bag) -> str:
    return "" if bag.letter == ALL else f", bag {bag.name}"


def _many(much: int) -> str:
    return f" ({much})" if much > 1 else ""


def means(board: Board, shortage: Shortage) -> str:
    """What it means, in one sentence."""
    people = for_whom(board, shortage)
    if all(words.startswith("your spare") for words in people):
        return "Nobody goes without: it comes out of what was cut beyond need."
    if all(words.startswith("your ") for words in people):
        return f"All kits are whole; {_listed(people)} {'goes' if len(people) == 1 else 'go'} without."
    words = f"{_listed(people)} {'goes' if len(people) == 1 else 'go'} without."
    return words[0].upper() + words[1:]


def _listed(words: list[str]) -> str:
    if len(words) > 6:
        words = [*words[:5], f"{len(words) - 5} more"]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def fit_for(board: Board, shortage: Shortage) -> PaperFit | None:
    """The plan a missing piece is cut by, the last one that makes it, if there is any."""
    entry = board.pieces.get(shortage.thing)
    if entry is None:
        return None
    wanted = {"class_paper__card_class": board.card_class, "class_paper__paper__key": entry.piece.paper}
    fits = list(PaperFit.objects.select_related(*WITH_ALL).exclude(shown=None).filter(**wanted).order_by("-part"))
    return next((fit for fit in fits if shortage.thing in fit.pieces), fits[-1] if fits else None)


def to_bench(card_class: CardClass, shortage: Shortage) -> Refit:
    """Ask the bench for steps that cut the missing pieces again. Raises ZesterError where that cannot be."""
    fit = fit_for(board_of(card_class), shortage)
    if fit is None:
        raise ZesterError(f"{shortage.thing} comes from no paper with a plan", mend="Take something else instead")
    with transaction.atomic():
        refit = ask_again(fit, shortage.thing, shortage.count)
        Shortage.objects.filter(pk=shortage.pk).update(refit=refit)
        if refit.made_id:
            came_back(Refit, refit)
    return refit


def came_back(sender: type, refit: Refit, **_: object) -> None:
    """The bench has steps for what is missing: it is there now."""
    now = {"state": Shortage.State.BENCH, "run": refit.made, "refit": None, "paper": None, "words": ""}
    Shortage.objects.filter(refit=refit).update(**now)


def take_instead(shortage: Shortage, paper: Paper | None, words: str) -> None:
    """Something else is put in for those who go without. Raises ZesterError if nobody says what."""
    words = " ".join(words.split())
    if paper is None and not words:
        raise ZesterError("What is put in instead?", mend="Choose a paper, or write what it is")
    if len(words) > 120:
        raise ZesterError("That is too long for a label", mend="Up to 120 letters")
    shortage.state, shortage.paper, shortage.words, shortage.run = Shortage.State.INSTEAD, paper, words, None
    shortage.refit = None
    shortage.save(update_fields=["state", "paper", "words", "run", "refit"])


def set_there(shortage: Shortage, there: bool) -> None:
    """It is there again; or it is missing after all."""
    shortage.state = Shortage.State.THERE if there else Shortage.State.OPEN
    if not there:
        shortage.run, shortage.paper, shortage.words = None, None, ""
    shortage.refit = None
    shortage.save(update_fields=["state", "run", "paper", "words", "refit"])


def is_cut(shortage: Shortage) -> bool:
    """Whether what went back to the bench is cut again."""
    run = shortage.run
    return bool(run) and shortage.state == Shortage.State.BENCH and run.done >= len(run.steps) and not run.short


def headline(board: Board, shortage: Shortage) -> str:
    """``A3 Panel: 28 of 29``."""
    wanted = wanted_of(board.packed, shortage.thing)
    gone = sum(each.count for each in board.open_shortages if each.thing == shortage.thing)
    entry = board.pieces.get(shortage.thing)
    name = f"{shortage.thing} {entry.piece.name}" if entry else shortage.thing
    return f"{name}: {wanted - max(gone, shortage.count)} of {wanted}"
