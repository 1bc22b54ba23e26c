"""Ready kits: packed kits on the shelf that the next order takes, or that are sold, given away, taken apart."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from zester.bags.board import Board, ShownKit, board_of, board_with, digest, kit_of
from zester.bags.marks import move_people
from zester.bags.models import Mark, ReadyKit
from zester.classes.closed import still_open
from zester.classes.models import CardClass, Participant
from zester.classes.services import hold_class, recount
from zester.core.errors import ZesterError
from zester.core.kits.demand import GIFT, PERSON, SPARE, demands_of
from zester.core.kits.offers import COUNTED
from zester.core.kits.packing import ALL, Item
from zester.core.tally import KIT

MOST_OFFERED, LONGEST_NAME = 300, 120
GONE = "That kit is not there any more"


@transaction.atomic
def shelve(card_class: CardClass, kit: str, place: str) -> ReadyKit:
    """What is packed for nobody of one kit becomes a ready kit. Raises ZesterError if nothing is."""
    hold_class(card_class.pk)
    board = board_of(card_class)
    rows = [row for row in board.surplus if row.kit == kit]
    if not rows:
        raise ZesterError(GONE, mend="Look at the list again")
    marks = {row.mark.what.removeprefix(kit): row.mark.holds for row in rows}
    name, lines = _known_again(board, kit, marks)
    about = {
        "owner": card_class.owner,
        "card_class": card_class,
        "title": card_class.title,
        "place": place.strip()[:80],
    }
    made = ReadyKit.objects.create(name=name or rows[0].name.partition(",")[0], marks=marks, lines=lines, **about)
    Mark.objects.filter(pk__in=[row.mark.pk for row in rows]).delete()
    return made


def _known_again(board: Board, kit: str, marks: dict[str, str]) -> tuple[str, list[str]]:
    """What was ordered and what lies in it, if its order as it was holds just that."""
    person = kit.removeprefix(PERSON).split("-", 1)[0]
    needs = board.counted.needs
    people = tuple(replace(each, state="paid") if each.key == person else each for each in needs.people)
    needs = replace(needs, people=people)
    again = board_with(replace(board.counted, needs=needs, demands=tuple(demands_of(needs))))
    shown = next((each for each in again.kits if each.kit.key == kit), None)
    if shown is None or not marks.items() <= _holds(shown).items():
        return "", []
    items = [item for bag in shown.bags if bag.bag.key.removeprefix(kit) in marks for item in bag.bag.items]
    items += shown.kit.beside if "" in marks else ()
    return shown.kit.what, _in_words(again, items)


def _holds(shown: ShownKit) -> dict[str, str]:
    """By what follows its key in a bag's what each of its bags holds, and what lies beside them."""
    found = {bag.bag.key.removeprefix(shown.kit.key): digest(bag.bag.items) for bag in shown.bags}
    return found | {"": digest(shown.kit.beside)}


def ready_here(card_class: CardClass, board: Board | None = None) -> list[tuple[ReadyKit, list[ShownKit]]]:
    """The ready kits of a class that are there, each with the kits not packed yet that hold just the same."""
    # What was made for the shelf is handed out by its page: its pieces are counted in the class already.
    rows = list(ReadyKit.objects.filter(card_class=card_class, state=ReadyKit.State.THERE, counts_less=False))
    if not rows:
        return []
    open_kits = [(kit, _holds(kit)) for kit in (board or board_of(card_class)).kits if not kit.mark and not _begun(kit)]
    return [(row, [kit for kit, holds in open_kits if row.marks.items() <= holds.items()]) for row in rows]


def _begun(kit: ShownKit) -> bool:
    return any(bag.mark for bag in kit.bags)


@transaction.atomic
def take(card_class: CardClass, row: int, kit: str) -> ReadyKit:
    """A ready kit is that kit now, and packed. Raises ZesterError if it holds something else or is gone."""
    hold_class(card_class.pk)
    found = next(((ready, kits) for ready, kits in ready_here(card_class) if ready.pk == row), None)
    shown = next((each for each in found[1] if each.kit.key == kit), None) if found else None
    if found is None or shown is None:
        raise ZesterError("That kit holds something else, or is packed", mend="Look at the list again")
    ready = found[0]
    Mark.objects.bulk_create(
        Mark(card_class=card_class, what=f"{kit}{rest}", holds=holds) for rest, holds in ready.marks.items()
    )
    ready.state, ready.gone_at = ReadyKit.State.TAKEN, timezone.now()
    ready.taken_by_id = int(shown.kit.person) if shown.kit.person else None
    ready.save(update_fields=["state", "gone_at", "taken_by"])
    move_people(card_class, {kit_of(kit): ""})
    return ready


def take_next(card_class: CardClass, people: Sequence[Participant]) -> list[str]:
    """Whoever orders what lies ready takes it: the first of the list the first kit. What happened in words."""
    mine = {str(person.pk): person.name for person in people if person.state in COUNTED}
    said = []
    # What was taken is packed by now, so that each time there is one less of both.
    while pairs := [(row, kit) for row, kits in ready_here(card_class) for kit in kits if kit.kit.person in mine]:
        ready, kit = pairs[0]
        take(card_class, ready.pk, kit.kit.key)
        lies = f" It lies: {ready.place}." if ready.place else ""
        said.append(f"{mine[kit.kit.person]} has the ready kit of {ready.name}, which is packed.{lies}")
    return said


@transaction.atomic
def shelve_made(card_class: CardClass, place: str) -> int:
    """The kits made to give away that are packed lie ready on the shelf now: how many do that did not yet."""
    hold_class(card_class.pk)
    board = board_of(card_class)
    count = 0
    for shown in made_for_shelf(board):
        marks = [*(bag.mark for bag in shown.bags if bag.mark), *([shown.mark] if shown.mark else [])]
        ReadyKit.objects.create(
            owner=card_class.owner,
            card_class=card_class,
            title=card_class.title,
            name=(", ".join(_cards_in(board, shown)) or shown.kit.what)[:LONGEST_NAME],
            place=place.strip()[:80],
            marks={mark.what.removeprefix(shown.kit.key): mark.holds for mark in marks},
            lines=_in_words(board, shown.kit.items),
            counts_less=True,
        )
        Mark.objects.filter(pk__in=[mark.pk for mark in marks]).update(on_shelf=True)
        count += 1
    return count


def made_for_shelf(board: Board) -> list[ShownKit]:
    """The kits for nobody that are packed and do not lie on the shelf yet."""
    done = [each for each in board.kits if each.kit.origin in (GIFT, SPARE) and each.done]
    return [each for each in done if each.closed_by and not each.closed_by.on_shelf]


def _cards_in(board: Board, shown: ShownKit) -> list[str]:
    """The names of the cards of a kit, with how many of each where it is more than one."""
    made: dict[str, int] = {}
    for bag in shown.kit.bags:
        for letter in board.cards if bag.letter == ALL else (bag.letter,):
            if letter != KIT:
                made[letter] = made.get(letter, 0) + (bag.cards if bag.letter != ALL else 0)
    return [
        f"{count} {board.cards[letter].entry.card.name}" if count > 1 else board.cards[letter].entry.card.name
        for letter, count in made.items()
    ]


def _in_words(board: Board, items: Iterable[Item]) -> list[str]:
    return [f"{line.count} {line.handle} {line.name}".replace("  ", " ") for line in board.lines(items)]


def could_have(user: AbstractBaseUser) -> list[Participant]:
    """Who ordered in classes that are open and may have a ready kit in place of one that is made for them."""
    people = Participant.objects.filter(
        card_class__owner=user, card_class__removed_at=None, card_class__closed_at=None, state__in=("booked", "paid")
    )
    rows = people.select_related("card_class").prefetch_related("orders__offer").order_by("card_class__date", "pk")
    return [each for each in rows[:MOST_OFFERED] if each.from_shelf < kits_ordered(each)]


def kits_ordered(person: Participant) -> int:
    """How many kits somebody ordered."""
    return sum(order.count for order in person.orders.all()) or person.sets


@transaction.atomic
def hand_out(ready: ReadyKit, person: Participant) -> ReadyKit:
    """A ready kit is somebody's of any class, in place of one that would be made for them.

    Raises
    ------
    ZesterError
        If it is gone, or nothing is left to be made for them.
    """
    card_class = hold_class(person.card_class_id)
    ready = ReadyKit.objects.select_for_update(of=("self",)).get(pk=ready.pk)
    person = Participant.objects.select_for_update(of=("self",)).get(pk=person.pk)
    if ready.state != ReadyKit.State.THERE:
        raise ZesterError(GONE, mend="Look at the list again")
    if card_class.closed_at or person.state not in COUNTED or person.from_shelf >= kits_ordered(person):
        raise ZesterError(f"Nothing is left to be made for {person.name}", mend="Choose somebody else")
    begun = Mark.objects.filter(card_class=card_class, what__startswith=f"{PERSON}{person.pk}-").exists()
    if begun and kits_ordered(person) == person.from_shelf + 1:
        raise ZesterError(f"The kit of {person.name} is packed, or begun", mend="Open it again at Pack first")
    person.from_shelf += 1
    person.save(update_fields=["from_shelf"])
    ready.state, ready.gone_at, ready.taken_by, ready.counts_less = ReadyKit.State.TAKEN, timezone.now(), person, True
    ready.save(update_fields=["state", "gone_at", "taken_by", "counts_less"])
    if person.from_shelf == kits_ordered(person) and person.state == "paid":
        Participant.objects.filter(pk=person.pk).update(state="packed")
    recount(card_class.pk)
    return ready


def _given_back(ready: ReadyKit) -> None:
    """A kit is made for whoever had taken a ready one."""
    person = ready.taken_by
    if person is None:
        return
    still_open(hold_class(person.card_class_id))
    if person.state == "handed":
        raise ZesterError(f"{person.name} has it: it is handed over", mend="Say first that it is not")
    Participant.objects.filter(pk=person.pk).update(
        from_shelf=max(0, person.from_shelf - 1), state="paid" if person.state == "packed" else person.state
    )
    recount(person.card_class_id)


def from_shelf_for(card_class: CardClass) -> list[ReadyKit]:
    """The ready kits that people of a class have in place of ones that are made."""
    mine = ReadyKit.objects.filter(taken_by__card_class=card_class, counts_less=True, state=ReadyKit.State.TAKEN)
    return list(mine.select_related("taken_by"))


def _back_to_piles(ready: ReadyKit) -> None:
    """What was packed for the shelf is not packed any more: its pieces lie in the piles of its class again."""
    if ready.card_class is None or ready.card_class.closed_at:
        return
    kits: dict[str, dict[str, Mark]] = {}
    for mark in Mark.objects.filter(card_class=ready.card_class, on_shelf=True):
        kit = kit_of(mark.what)
        kits.setdefault(kit, {})[mark.what.removeprefix(kit)] = mark
    # Any of those that hold the same is as good as another.
    alike = (marks for marks in kits.values() if {rest: mark.holds for rest, mark in marks.items()} == ready.marks)
    Mark.objects.filter(pk__in=[mark.pk for mark in next(alike, {}).values()]).delete()


@transaction.atomic
def let_go(ready: ReadyKit, state: str, words: str) -> None:
    """Say what became of a ready kit, or that it is on the shelf after all. Raises ZesterError if an order took it."""
    ready = ReadyKit.objects.select_for_update(of=("self",)).get(pk=ready.pk)
    if ready.state == ReadyKit.State.TAKEN and ready.counts_less and state == ReadyKit.State.THERE:
        _given_back(ready)
        ready.taken_by = None
    elif ready.state == ReadyKit.State.TAKEN:
        raise ZesterError(
            f"{ready.name} was taken by an order", mend="Cancel that order, then put its kit onto the shelf again"
        )
    if ready.counts_less and (ready.state, state) == (ReadyKit.State.APART, ReadyKit.State.THERE):
        mend = "Pack its kit again at Pack, then put it onto the shelf"
        raise ZesterError(f"{ready.name} was taken apart: its pieces lie in their piles", mend=mend)
    if state not in ReadyKit.State.values or state == ReadyKit.State.TAKEN:
        raise ZesterError("What became of it?", mend="Choose sold, given away, taken apart, or on the shelf")
    if state == ReadyKit.State.APART and ready.counts_less:
        _back_to_piles(ready)
    ready.state, ready.words = state, words.strip()[:120]
    ready.gone_at = None if state == ReadyKit.State.THERE else timezone.now()
    ready.save(update_fields=["state", "words", "gone_at", "taken_by"])
